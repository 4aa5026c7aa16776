package figure

import (
	"fmt"
	"html/template"
	"math"

	"yardbloom/core/units"
)

// Hands draws the schedule of one pair of hands: a row for each brewer or cup, a bar for each task in it,
// and the spoken lines.
type Hands struct {
	Rows  []HandsRow
	Fills []HandsBar // across all rows: no other task is possible
	Now   units.Seconds
	Moves bool // a script moves the now line
}

// HandsRow is one brewer.
type HandsRow struct {
	Name   string
	Bars   []HandsBar
	Ready  units.Seconds // 0: no cup
	Spoken bool          // its bars are spoken lines
}

// HandsBar is a period.
type HandsBar struct {
	From, To units.Seconds
	Say      string
	Done     bool
	Off      bool // at a wrong time
}

// SVG draws the figure.
func (h Hands) SVG() template.HTML {
	const w, left, right, rowHigh, top = 1160.0, 150.0, 40.0, 34.0, 8.0
	end := float64(h.Now)
	for _, r := range h.Rows {
		end = math.Max(end, float64(r.Ready))
		for _, b := range r.Bars {
			end = math.Max(end, float64(b.To))
		}
	}
	end = math.Ceil((end+15)/60) * 60
	x := func(s units.Seconds) float64 { return left + float64(s)/end*(w-left-right) }
	floor := top + rowHigh*float64(len(h.Rows))
	var c canvas
	step := 60.0
	if end > 900 {
		step = 120
	}
	for t, step := 0.0, timeStep(end, step); t <= end; t += step {
		c.add(`<line x1="%.1f" x2="%.1f" y1="%.1f" y2="%.1f" class="ribbon-grid"/>`, x(units.Seconds(t)), x(units.Seconds(t)), top, floor)
		c.text(x(units.Seconds(t)), floor+17, "ribbon-tick", "middle", units.Seconds(t).String())
	}
	for _, f := range h.Fills {
		c.add(`<rect x="%.1f" y="%.1f" width="%.1f" height="%.1f" class="hands-fill"/>`, x(f.From), top, x(f.To)-x(f.From), floor-top)
		c.text(x(f.From)+4, floor-4, "ribbon-tick", "start", "kettle")
	}
	words := "Hand actions:"
	for i, r := range h.Rows {
		y := top + rowHigh*float64(i)
		c.text(left-12, y+rowHigh/2+5, "hands-name", "end", units.Shorten(r.Name))
		if len(r.Bars) > 0 && r.Ready > 0 {
			c.add(`<line x1="%.1f" x2="%.1f" y1="%.1f" y2="%.1f" class="hands-brews"/>`, x(r.Bars[0].From), x(r.Ready), y+rowHigh/2,
				y+rowHigh/2)
			c.add(`<circle cx="%.1f" cy="%.1f" r="5" class="flower-heart"/>`, x(r.Ready), y+rowHigh/2)
			words += fmt.Sprintf(" %s from %s, ready at %s;", r.Name, r.Bars[0].From, r.Ready)
		}
		for _, b := range r.Bars {
			class := "hands-bar"
			switch {
			case b.Off:
				class += " hands-off"
			case r.Spoken:
				class += " hands-said"
			}
			if b.Done {
				class += " hands-done"
			}
			c.add(`<rect x="%.1f" y="%.1f" width="%.1f" height="%.1f" rx="3" class="%s"><title>%s</title></rect>`, x(b.From), y+6,
				math.Max(3, x(b.To)-x(b.From)), rowHigh-12, class, template.HTMLEscapeString(fmt.Sprintf("%s %s", b.From, b.Say)))
		}
	}
	if h.Moves {
		per := x(1) - x(0)
		c.add(`<line x1="0" x2="0" y1="%.1f" y2="%.1f" class="ribbon-now" data-now="" data-from="%.3f" data-per-second="%.5f"
			transform="translate(%.1f 0)"/>`, top-4, floor+4, left, per, x(h.Now))
	}
	return c.wrap(w, floor+24, "ribbon hands", words)
}

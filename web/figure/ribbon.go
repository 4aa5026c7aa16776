package figure

import (
	"fmt"
	"html/template"
	"math"
	"strings"

	"yardbloom/core/brew"
	"yardbloom/core/recipe"
	"yardbloom/core/sim"
	"yardbloom/core/trace"
	"yardbloom/core/units"
)

// A Ribbon draws a brew over time: the poured water as a filled line, other hand actions as marks under the
// axis, the temperature as the tint of the fill and as a number. The plan is dashed and light; the actual
// pour is solid.
type Ribbon struct {
	Plan   recipe.Plan
	Actual *brew.State // state of the brew so far; nil while planning
	Now    units.Seconds
	Prefs  units.Prefs
	Trace  []trace.Reading // scale readings, drawn instead of taps
	Live   bool            // a script continues the drawing
	// Forecast adds the predictions: the level over the bed and the outflow, dashed and light.
	Forecast  *sim.Result
	Narrow    bool   // for a phone: the same text size on half the width
	Large     bool   // across a page
	Card      bool   // low and wide, for a card on paper
	Additions string // parts of the cup other than poured water, such as ice
	// Hold adds grips to the pours and returns the limits of each; nil for none.
	Limits func(recipe.Address) units.Range
}

// The margins of a ribbon inside its view box.
const (
	ribbonLeft, ribbonRight = 46.0, 14.0
	ribbonTop, ribbonFloor  = 30.0, 52.0
	ribbonMarks             = 20.0 // an additional row under the axis for marks
)

type scale struct {
	w, h, floor  float64
	tMax, weight float64
}

func (s scale) x(t units.Seconds) float64 {
	return ribbonLeft + float64(t)/s.tMax*(s.w-ribbonLeft-ribbonRight)
}

func (s scale) y(g units.Grams) float64 {
	floor := s.h - s.floor
	return floor - float64(g)/s.weight*(floor-ribbonTop)
}

func (r Ribbon) scale() scale {
	s := scale{w: 760, h: 270}
	switch {
	case r.Narrow && r.Live:
		s.w, s.h = 400, 180
	case r.Narrow:
		s.w, s.h = 400, 260
	case r.Card:
		s.w, s.h = 440, 190
	case r.Large:
		s.w, s.h = 960, 300
	case r.Live:
		s.w, s.h = 1160, 206
	}
	s.floor = ribbonFloor
	if r.Actual != nil && len(r.Actual.Marks) > 0 {
		s.floor += ribbonMarks
	}
	end := r.Plan.Window.To
	if r.Actual != nil {
		const most = 20 * 60 // limits the axis for a brew that was left running
		end = max(end, min(r.Now, most), r.Actual.Drawdown)
	}
	if r.Forecast != nil && r.Forecast.Drained {
		end = max(end, r.Forecast.Drawdown)
	}
	s.tMax = math.Ceil((float64(end)+8)/15) * 15
	s.weight = float64(r.water()) * 1.04
	for _, x := range r.Trace {
		s.weight = max(s.weight, min(float64(x.Grams), 1.3*float64(r.water()))*1.02)
	}
	return s
}

func (r Ribbon) water() units.Grams {
	if n := len(r.Plan.Steps); n > 0 {
		return max(1, r.Plan.Steps[n-1].Total)
	}
	return 1
}

// PerSecond returns the movement of the now line per second, in view box units. With From it is all that a
// script needs to move the line.
func (r Ribbon) PerSecond() float64 {
	s := r.scale()
	return s.x(1) - s.x(0)
}

// From returns the position of the now line at 0 s.
func (r Ribbon) From() float64 { return r.scale().x(0) }

// SVG draws the ribbon.
func (r Ribbon) SVG() template.HTML {
	var c canvas
	s := r.scale()
	r.axes(&c, s)
	r.drawPlan(&c, s)
	if r.Forecast != nil {
		r.drawForecast(&c, s)
	}
	if r.Actual != nil {
		r.drawPoured(&c, s)
	}
	if r.Actual == nil && len(r.Trace) > 0 {
		c.add(`<path d="%s" class="ribbon-real"/>`, r.tracePath(s))
	}
	r.hands(&c, s)
	var data []string
	if r.Limits != nil {
		r.grips(&c, s)
		data = r.measures(s)
	}
	class := "ribbon ribbon-wide"
	switch {
	case r.Narrow:
		class = "ribbon ribbon-narrow"
	case r.Card:
		class = "ribbon"
	}
	if r.Live {
		u := r.Prefs.Unit(units.Water)
		data = append(data, fmt.Sprintf(`data-floor="%.2f"`, s.y(0)),
			fmt.Sprintf(`data-per-gram="%.5f"`, float64(s.y(0)-s.y(units.Grams(u.Canonical(1))))), fmt.Sprintf(`data-ends="%.1f"`, s.tMax))
	}
	data = append(data, fmt.Sprintf(`data-from="%.3f"`, r.From()), fmt.Sprintf(`data-per-second="%.5f"`, r.PerSecond()))
	if r.Limits != nil { // a group of controls, not an image
		return c.wrapAs("group", s.w, s.h, class, r.words(), data...)
	}
	return c.wrap(s.w, s.h, class, r.words(), data...)
}

// Both draws the ribbon for a wide screen and for a phone; the style sheet shows one.
func (r Ribbon) Both() []template.HTML {
	wide, narrow := r, r
	wide.Narrow, narrow.Narrow = false, true
	return []template.HTML{wide.SVG(), narrow.SVG()}
}

func (r Ribbon) axes(c *canvas, s scale) {
	floor := s.y(0)
	from, to := s.x(r.Plan.Window.From), s.x(r.Plan.Window.To)
	c.add(`<rect x="%.1f" y="%.1f" width="%.1f" height="%.1f" class="ribbon-window"/>`, from, ribbonTop, to-from, floor-ribbonTop)
	for t := 0.0; t <= s.tMax; t += timeStep(s.tMax, 30) {
		x := s.x(units.Seconds(t))
		whole := math.Mod(t, 60) == 0
		if whole {
			c.add(`<line x1="%.1f" x2="%.1f" y1="%.1f" y2="%.1f" class="ribbon-grid"/>`, x, x, ribbonTop, floor)
		}
		if whole || !r.Narrow {
			c.text(x, floor+16, "ribbon-tick", "middle", units.Seconds(t).String())
		}
	}
	u := r.Prefs.Unit(units.Water)
	step := round(u.Shown(float64(r.water())) / 3)
	for n := 1.0; n*step < u.Shown(float64(r.water()))*1.03; n++ {
		g := units.Grams(u.Canonical(n * step))
		c.add(`<line x1="%.1f" x2="%.1f" y1="%.1f" y2="%.1f" class="ribbon-grid"/>`, ribbonLeft, s.w-ribbonRight, s.y(g), s.y(g))
		c.text(ribbonLeft-7, s.y(g)+4, "ribbon-tick", "end", u.Number(float64(g)))
	}
	c.text(ribbonLeft-7, ribbonTop-10, "ribbon-tick", "end", u.Symbol)
	c.add(`<line x1="%.1f" x2="%.1f" y1="%.1f" y2="%.1f" class="ribbon-axis"/>`, ribbonLeft, s.w-ribbonRight, floor, floor)
	at, anchor := (from+to)/2, "middle"
	if r.Narrow { // avoid the label of the last total
		at, anchor = from, "start"
	}
	c.text(at, ribbonTop-8, "ribbon-aim", anchor, "aim "+r.Plan.Finish.String())
	c.text(s.x(0)+4, ribbonTop-8, "ribbon-heat", "start", r.Additions)
}

// round returns a round number near v, for the ticks of an axis.
func round(v float64) float64 {
	power := math.Pow10(int(math.Floor(math.Log10(math.Max(v, 1e-6)))))
	for _, m := range []float64{1, 2, 5, 10} {
		if v <= m*power*1.25 {
			return m * power
		}
	}
	return power
}

// drawPlan fills the water of each pour and everything after it, so that the tint of a pour stays visible
// under the next.
func (r Ribbon) drawPlan(c *canvas, s scale) {
	line := []string{fmt.Sprintf("M%.1f %.1f", s.x(0), s.y(0))}
	last := units.Celsius(-1)
	for i, st := range r.Plan.Steps {
		if st.Act != recipe.PourWater {
			continue
		}
		until := r.until(i)
		from := st.Total - st.Water
		c.add(`<path d="M%.1f %.1fL%.1f %.1fL%.1f %.1fL%.1f %.1fL%.1f %.1fZ" class="ribbon-water %s"/>`,
			s.x(st.Start), s.y(0), s.x(st.Start), s.y(from), s.x(st.End()), s.y(st.Total), s.x(until), s.y(st.Total), s.x(until), s.y(0),
			tint(st.Temperature))
		line = append(line, fmt.Sprintf("L%.1f %.1fL%.1f %.1fL%.1f %.1f", s.x(st.Start), s.y(from), s.x(st.End()), s.y(st.Total),
			s.x(until), s.y(st.Total)))
		r.label(c, s, i, until, &last)
	}
	c.add(`<path d="%s" class="ribbon-plan"/>`, strings.Join(line, ""))
}

// until returns the start of the pour after a step, or the aim.
func (r Ribbon) until(step int) units.Seconds {
	for _, st := range r.Plan.Steps[step+1:] {
		if st.Act == recipe.PourWater {
			return st.Start
		}
	}
	return r.Plan.Finish
}

// label prints a pour's total over its step, clear of the actual line, and its temperature if it is a new
// one.
func (r Ribbon) label(c *canvas, s scale, step int, until units.Seconds, last *units.Celsius) {
	st := r.Plan.Steps[step]
	mid, over := (s.x(st.Start)+s.x(until))/2, st.Total
	if r.Actual != nil && 2*step < len(r.Actual.Stages) {
		over = max(over, r.Actual.Stages[2*step].Weighed)
	}
	c.text(mid, s.y(over)-8, "ribbon-total", "middle", r.Prefs.Unit(units.Water).Number(float64(st.Total)))
	if st.Temperature != *last && st.Temperature > 0 {
		*last = st.Temperature
		c.text(mid, s.y(over)-25, "ribbon-heat", "middle", r.Prefs.Unit(units.Temperature).Format(float64(st.Temperature)))
	}
}

// drawPoured draws the poured water as a solid line.
func (r Ribbon) drawPoured(c *canvas, s scale) {
	d := fmt.Sprintf("M%.1f %.1f", s.x(0), s.y(0))
	for i, st := range r.Actual.Stages {
		if i > r.Actual.Current || st.Skipped {
			continue
		}
		from, to, left := st.Entered, st.To, st.Left
		if st.Kind == brew.Pouring {
			left = min(left, from+max(st.Lasts, 1))
			if st.Tapped || i < r.Actual.Current && r.Actual.Stages[i+1].Tapped {
				left = st.Left
			}
		}
		if i == r.Actual.Current && !r.Actual.Finished {
			if r.Now < left {
				to = st.From + (st.To-st.From)*units.Grams(math.Max(0, float64((r.Now-from)/max(left-from, 1))))
			}
			left = min(max(r.Now, from), max(left, r.Now))
		}
		d += fmt.Sprintf("L%.1f %.1fL%.1f %.1f", s.x(from), s.y(st.From), s.x(left), s.y(to))
	}
	switch {
	case len(r.Trace) > 0:
		c.add(`<path d="%s" class="ribbon-real ribbon-trace"/>`, r.tracePath(s))
	default:
		c.add(`<path d="%s" class="ribbon-real"/>`, d)
	}
	for _, m := range r.Actual.Marks {
		x := s.x(m.At)
		row := s.y(0) + 36 + ribbonMarks
		c.add(`<path d="M%.1f %.1fl-4.5 8h9z" class="ribbon-mark"/>`, x, row-9)
		c.text(x+8, row, "ribbon-marked", "start", string(m.What))
	}
	if r.Actual.Finished {
		x := s.x(r.Actual.Drawdown)
		c.add(`<line x1="%.1f" x2="%.1f" y1="%.1f" y2="%.1f" class="ribbon-end"/>`, x, x, ribbonTop, s.y(0))
	} else {
		c.add(`<line x1="0" x2="0" y1="%.1f" y2="%.1f" class="ribbon-now" data-now="" data-from="%.3f" data-per-second="%.5f"
			transform="translate(%.1f 0)"/>`,
			ribbonTop-4, s.y(0)+4, r.From(), r.PerSecond(), s.x(r.Now))
	}
}

// tracePath returns the line of scale readings while the brewer was on the scale.
func (r Ribbon) tracePath(s scale) string {
	var d strings.Builder
	pen, high := "M", units.Grams(0)
	for _, x := range Thin(r.Trace, s.tMax/600) {
		if x.At < 0 || float64(x.At) > s.tMax {
			continue
		}
		if x.Grams < high-lifted {
			pen = "M" // the brewer is off the scale
			continue
		}
		high = max(high, x.Grams)
		fmt.Fprintf(&d, "%s%.1f %.1f", pen, s.x(x.At), s.y(max(0, x.Grams)))
		pen = "L"
	}
	return d.String()
}

// lifted is the minimum drop of the reading when the brewer is off the scale, g.
const lifted = 15

// Thin thins out a trace to a minimum interval, s.
func Thin(all []trace.Reading, every float64) (out []trace.Reading) {
	for _, x := range all {
		if n := len(out); n == 0 || float64(x.At-out[n-1].At) >= every {
			out = append(out, x)
		}
	}
	return out
}

// drawForecast draws the predicted level over the bed, relative to the rim at the top of the figure, and the
// outflow on a scale of 10 g/s.
func (r Ribbon) drawForecast(c *canvas, s scale) {
	const fullFlow = 10.0 // g/s
	height := s.y(0) - ribbonTop
	level, flow := []string{}, []string{}
	end := min(s.tMax, float64(r.Forecast.Drawdown))
	const every = 2
	for i := 0; i < len(r.Forecast.Level) && float64(i)*sim.Every <= end; i += every {
		x := s.x(units.Seconds(float64(i) * sim.Every))
		over := math.Max(0, r.Forecast.Level[i]-r.Forecast.BedHeight) / math.Max(1, r.Forecast.Rim-r.Forecast.BedHeight)
		level = append(level, fmt.Sprintf("%.1f %.1f", x, s.y(0)-height*math.Min(1, over)))
		flow = append(flow, fmt.Sprintf("%.1f %.1f", x, s.y(0)-height*math.Min(1, r.Forecast.Outflow[i]/fullFlow)))
	}
	if len(level) < 2 {
		return
	}
	c.add(`<path d="M%s" class="ribbon-level"/>`, strings.Join(level, "L"))
	c.add(`<path d="M%s" class="ribbon-outflow"/>`, strings.Join(flow, "L"))
	x := s.x(units.Seconds(end))
	c.add(`<line x1="%.1f" x2="%.1f" y1="%.1f" y2="%.1f" class="ribbon-foreseen"/>`, x, x, ribbonTop+26, s.y(0))
	c.text(x, ribbonTop+20, "ribbon-tick", "middle", r.Forecast.Drawdown.String())
}

// hands marks the hand actions other than pouring under the axis.
func (r Ribbon) hands(c *canvas, s scale) {
	row := s.y(0) + 36
	free := 0.0 // x where the next label has room
	mark := func(t units.Seconds, what string) {
		c.add(`<circle cx="%.1f" cy="%.1f" r="3.5" class="ribbon-hand"/>`, s.x(t), row-4)
		if at := s.x(t) + 7; at >= free {
			const letter = 6.6
			c.text(at, row, "ribbon-tick", "start", what)
			free = at + letter*float64(len(what)) + 8
		}
	}
	for _, st := range r.Plan.Steps {
		switch {
		case st.Then != recipe.NoHand:
			mark(st.End(), st.Then.String())
		case st.Act == recipe.BreakCrust:
			mark(st.Start, "break crust")
		case st.Act == recipe.OpenValve:
			mark(st.Start, "open valve")
		}
	}
}

// words describes the ribbon for screen readers.
func (r Ribbon) words() string {
	var out []string
	u := r.Prefs.Unit(units.Water)
	for _, st := range r.Plan.Steps {
		switch st.Act {
		case recipe.PourWater:
			out = append(out, fmt.Sprintf("%s pour to %s", st.Start, u.Format(float64(st.Total))))
		case recipe.BreakCrust:
			out = append(out, fmt.Sprintf("%s break the crust", st.Start))
		case recipe.OpenValve:
			out = append(out, fmt.Sprintf("%s open the valve", st.Start))
		}
	}
	words := "Pour schedule: " + strings.Join(out, ", ") + fmt.Sprintf("; aim to finish at %s.", r.Plan.Finish)
	if r.Actual != nil && r.Actual.Finished {
		words += fmt.Sprintf(" It finished at %s.", r.Actual.Drawdown)
	}
	return words
}

package figure

import (
	"fmt"
	"html/template"
	"math"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// Dial draws a grinder's dial over the sizes that coffee is ground at: a round of
// settings in its own terms, fine at the left, coarse at the right, with the texture
// of each stretch outside.
func Dial(d gear.Dial) template.HTML {
	const (
		w, h       = 660.0, 250.0
		cx, cy     = w / 2, 214.0
		inner, out = 120.0, 150.0
		fine       = 380.0 // µm, at the left end
		coarse     = 1100.0
	)
	angle := func(size float64) float64 { return math.Pi * (size - fine) / (coarse - fine) }
	at := func(size, r float64) (x, y float64) {
		return cx - r*math.Cos(angle(size)), cy - r*math.Sin(angle(size))
	}
	var c canvas
	x0, y0 := at(fine, out)
	x1, y1 := at(coarse, out)
	c.add(`<path d="M%.1f %.1fA%.0f %.0f 0 0 1 %.1f %.1f" class="dial-rim"/>`, x0, y0, out, out, x1, y1)
	c.dialMarks(d, at, fine, coarse, inner, out)
	for _, size := range []float64{470, 620, 770, 920, 1040} {
		x, y := at(size, out+14)
		anchor := "middle"
		if x < cx-40 {
			anchor = "end"
		} else if x > cx+40 {
			anchor = "start"
		}
		c.text(x, y, "ribbon-tick", anchor, gear.Texture(units.Micrometres(size)))
	}
	c.text(cx, cy-30, "dial-words", "middle", "finer ← → coarser")
	c.text(cx, cy-8, "ribbon-tick", "middle", fmt.Sprintf("one step is %s µm", units.Trim(math.Abs(float64(d.Step)), 1)))
	return c.wrap(w, h, "dial", fmt.Sprintf("The dial from %s, fine, to %s, coarse.", d.Setting(fine), d.Setting(coarse)))
}

// dialMarks draws one line a step, and prints the setting of about every eighth of the round.
func (c *canvas) dialMarks(d gear.Dial, at func(size, r float64) (x, y float64), fine, coarse, inner, out float64) {
	step := math.Abs(float64(d.Step))
	steps := (coarse - fine) / step
	every := max(1, int(math.Ceil(steps/8)))
	const most = 400 // lines: a finer dial is drawn as an even rim
	if steps > most {
		return
	}
	for i := range int(steps) + 1 {
		size := float64(d.Snap(units.Micrometres(fine))) + float64(i)*step
		if size < fine || size > coarse {
			continue
		}
		from := out - 9
		if d.Steps(units.Micrometres(size))%every == 0 {
			from = out - 18
			x, y := at(size, inner)
			c.text(x, y+5, "dial-setting", "middle", units.Trim(d.Reading(units.Micrometres(size)), 2))
		}
		x0, y0 := at(size, from)
		x1, y1 := at(size, out)
		c.add(`<line x1="%.1f" y1="%.1f" x2="%.1f" y2="%.1f" class="dial-mark"/>`, x0, y0, x1, y1)
	}
}

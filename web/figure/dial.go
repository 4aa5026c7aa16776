package figure

import (
	"fmt"
	"html/template"
	"math"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// Range of the drawn dial, µm: fine on the left, coarse on the right.
const dialFine, dialCoarse = 380.0, 1100.0

// dialForm is the layout of a dial. The narrow one has the textures of its ends below it.
type dialForm struct {
	class      string
	w, h, cy   float64
	inner, out float64 // radii of the settings and of the rim
	settings   float64 // approximate number of labels
	textures   []float64
}

var (
	wideDial = dialForm{class: "dial ribbon-wide", w: 660, h: 250, cy: 214, inner: 120, out: 150, settings: 8,
		textures: []float64{470, 620, 770, 920, 1040}}
	narrowDial = dialForm{class: "dial ribbon-narrow", w: 330, h: 216, cy: 172, inner: 122, out: 150, settings: 6}
)

// Dial draws a grinder's dial with its settings and the textures they give, in a wide and a
// narrow layout.
func Dial(d gear.Dial) []template.HTML {
	return []template.HTML{wideDial.draw(d), narrowDial.draw(d)}
}

// at returns the position of a size at a radius.
func (f dialForm) at(size, r float64) (x, y float64) {
	angle := math.Pi * (size - dialFine) / (dialCoarse - dialFine)
	return f.w/2 - r*math.Cos(angle), f.cy - r*math.Sin(angle)
}

func (f dialForm) draw(d gear.Dial) template.HTML {
	var c canvas
	middle := f.w / 2
	x0, y0 := f.at(dialFine, f.out)
	x1, y1 := f.at(dialCoarse, f.out)
	c.add(`<path d="M%.1f %.1fA%.0f %.0f 0 0 1 %.1f %.1f" class="dial-rim"/>`, x0, y0, f.out, f.out, x1, y1)
	f.marks(&c, d)
	for _, size := range f.textures {
		x, y := f.at(size, f.out+14)
		anchor := "middle"
		if x < middle-40 {
			anchor = "end"
		} else if x > middle+40 {
			anchor = "start"
		}
		c.text(x, y, "ribbon-tick", anchor, gear.Texture(units.Micrometres(size)))
	}
	if len(f.textures) == 0 {
		c.text(2, f.cy+22, "ribbon-tick", "start", gear.Texture(480))
		c.text(f.w-2, f.cy+40, "ribbon-tick", "end", gear.Texture(dialCoarse))
	}
	c.text(middle, f.cy-30, "dial-words", "middle", "finer ← → coarser")
	c.text(middle, f.cy-8, "ribbon-tick", "middle", fmt.Sprintf("one step is %s µm", units.Trim(math.Abs(float64(d.Step)), 1)))
	return c.wrap(f.w, f.h, f.class, fmt.Sprintf("The dial from %s, fine, to %s, coarse.", d.Setting(dialFine), d.Setting(dialCoarse)))
}

// marks draws one line per step and labels some of them.
func (f dialForm) marks(c *canvas, d gear.Dial) {
	step := math.Abs(float64(d.Step))
	steps := (dialCoarse - dialFine) / step
	every := max(1, int(math.Ceil(steps/f.settings)))
	const most = 400 // lines: a finer dial is drawn as an even rim
	if steps > most {
		return
	}
	for i := range int(steps) + 1 {
		size := float64(d.Snap(dialFine)) + float64(i)*step
		if size < dialFine || size > dialCoarse {
			continue
		}
		from := f.out - 9
		if d.Steps(units.Micrometres(size))%every == 0 {
			from = f.out - 18
			x, y := f.at(size, f.inner)
			c.text(x, y+5, "dial-setting", "middle", units.Trim(d.Number(units.Micrometres(size)), 2))
		}
		x0, y0 := f.at(size, from)
		x1, y1 := f.at(size, f.out)
		c.add(`<line x1="%.1f" y1="%.1f" x2="%.1f" y2="%.1f" class="dial-mark"/>`, x0, y0, x1, y1)
	}
}

package figure

import (
	"fmt"
	"html/template"
	"math"

	"yardbloom/core/sim"
	"yardbloom/core/units"
)

// A Cutaway draws a brewer cut open, to scale, over its carafe: the bed, the
// water as the brew model sees it from second to second, the rim. Every moment
// is drawn here; a script only picks the one to be shown.
type Cutaway struct {
	Brewer   sim.Brewer
	Forecast *sim.Result
	Prefs    units.Prefs
}

// FrameEvery is the time between two moments of a cutaway, s.
const FrameEvery = 3

// Frames is how many moments there are.
func (c Cutaway) Frames() int {
	n := int(math.Min(float64(c.Forecast.Drawdown), float64(len(c.Forecast.Level)-1)*sim.Every))/FrameEvery + 1
	const most = 200 // ten minutes: a brew that goes on longer has stalled
	return min(n, most)
}

// Highest is the moment at which the water stands highest.
func (c Cutaway) Highest() int {
	best := 0
	for i := range c.Frames() {
		if c.Forecast.Level[i*FrameEvery] > c.Forecast.Level[best*FrameEvery] {
			best = i
		}
	}
	return best
}

// The picture, in view units of one millimetre.
const (
	cutWidth   = 128.0
	cutMiddle  = cutWidth / 2
	cutTop     = 8.0
	cutGap     = 12.0 // between outlet and carafe
	carafeR    = 44.0
	carafeTall = 66.0
	cutWords   = 22.0
)

// SVG draws all moments and shows the one at which the water stands highest.
func (c Cutaway) SVG() template.HTML {
	var out canvas
	rim := c.Forecast.Rim
	outlet := cutTop + rim
	floor := outlet + cutGap + carafeTall
	wall := func(z float64) (l, r, y float64) { // z over the outlet, mm
		half := c.Brewer.Radius(z/1000) * 1000
		return cutMiddle - half, cutMiddle + half, outlet - z
	}
	slab := func(from, to float64) string {
		l0, r0, y0 := wall(from)
		l1, r1, y1 := wall(to)
		return fmt.Sprintf("M%.1f %.1fL%.1f %.1fL%.1f %.1fL%.1f %.1fZ", l0, y0, l1, y1, r1, y1, r0, y0)
	}
	shown := c.Highest()
	for i := range c.Frames() {
		class := "cut-frame off"
		if i == shown {
			class = "cut-frame"
		}
		at := i * FrameEvery
		level, beverage := c.Forecast.Level[at], c.Forecast.Curves.Beverage[at]
		out.add(`<g class="%s">`, class)
		if level > c.Forecast.BedHeight+0.3 {
			out.add(`<path d="%s" class="cut-water"/>`, slab(c.Forecast.BedHeight, level))
		}
		full := math.Min(carafeTall-2, beverage*1000/(math.Pi*carafeR*carafeR)) // 1 g is 1000 mm³
		out.add(`<rect x="%.1f" y="%.1f" width="%.1f" height="%.1f" class="cut-coffee"/>`, cutMiddle-carafeR, floor-full, 2*carafeR, full)
		out.text(cutMiddle, floor+10, "cut-words", "middle", fmt.Sprintf("%s · %s", units.Seconds(at), c.Prefs.Unit(units.Temperature).Format(c.Forecast.Slurry[at])))
		out.text(cutMiddle, floor+19, "cut-words", "middle", fmt.Sprintf("%.0f mm · %s", level, c.Prefs.Unit(units.Water).Format(beverage)))
		out.add(`</g>`)
	}
	out.add(`<path d="%s" class="cut-bed"/>`, slab(0, c.Forecast.BedHeight))
	l0, r0, y0 := wall(0)
	l1, r1, y1 := wall(rim)
	out.add(`<path d="M%.1f %.1fL%.1f %.1fM%.1f %.1fL%.1f %.1f" class="cut-wall"/>`, l1, y1, l0, y0, r1, y1, r0, y0)
	out.add(`<path d="M%.1f %.1fH%.1f" class="cut-rim"/>`, l1-4, y1, r1+4)
	out.add(`<path d="M%.1f %.1fV%.1fH%.1fV%.1f" class="cut-wall"/>`, cutMiddle-carafeR, floor-carafeTall, floor, cutMiddle+carafeR, floor-carafeTall)
	words := fmt.Sprintf("The brewer cut open: the bed is %.0f mm high, the water rises to %.0f of %.0f mm at %s.",
		c.Forecast.BedHeight, c.Forecast.TopLevel, rim, units.Seconds(shown*FrameEvery))
	return out.wrap(cutWidth, floor+cutWords, "cutaway", words)
}

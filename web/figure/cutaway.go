package figure

import (
	"cmp"
	"encoding/json"
	"fmt"
	"html/template"
	"math"
	"strings"

	"yardbloom/core/sim"
	"yardbloom/core/units"
)

// A Cutaway draws a cross-section of a brewer over its carafe, to scale: the bed, the predicted water level
// over time, the rim. All moments are computed here; a script selects the visible one.
type Cutaway struct {
	Brewer   sim.Brewer
	Forecast *sim.Result
	Prefs    units.Prefs
	// Crust and Release are the times at which the crust of a steep is broken and its valve opens; 0: no
	// steep.
	Crust, Release units.Seconds
}

// FrameEvery is the interval of the moments of a cutaway, s.
const FrameEvery = 3

// Frames returns the number of moments.
func (c Cutaway) Frames() int {
	n := int(math.Min(float64(c.Forecast.Drawdown), float64(len(c.Forecast.Level)-1)*sim.Every))/FrameEvery + 1
	const most = 200 // ten minutes: a longer brew has stalled
	return min(n, most)
}

// Highest returns the moment of the highest water level.
func (c Cutaway) Highest() int {
	best := 0
	for i := range c.Frames() {
		if c.Forecast.Level[i*FrameEvery] > c.Forecast.Level[best*FrameEvery] {
			best = i
		}
	}
	return best
}

// The layout, in view units of one millimetre.
const (
	cutMinWidth = 128.0 // minimum width
	cutTop      = 8.0
	cutGap      = 12.0 // between outlet and carafe
	carafeTall  = 66.0
	cutText     = 11.4 // text size under a narrow brewer
)

// SVG draws the moment of the highest level. All moments are in data-frames, as a list of: the water's
// path, the coffee's top and height, the paths of the crust and of the ice, and the two lines of text.
func (c Cutaway) SVG() template.HTML {
	var out canvas
	rim := c.Forecast.Rim
	l0, r0, y0 := c.wall(0)
	l1, r1, y1 := c.wall(rim)
	shown := c.Highest()
	frames := make([]cutFrame, c.Frames())
	for i := range frames {
		frames[i] = c.frame(i * FrameEvery)
	}
	now := frames[shown]
	out.add(`<path d="%s" class="cut-water"/>`, now.Water)
	out.add(`<path d="%s" class="cut-crust"/>`, now.Crust)
	out.add(`<rect x="%.1f" y="%.1f" width="%.1f" height="%.1f" class="cut-coffee"/>`, c.middle()-c.carafe(), now.Top, 2*c.carafe(),
		now.Height)
	out.add(`<path d="%s" class="cut-ice"/>`, now.Ice)
	size := cutText * 2 * c.middle() / cutMinWidth // the same size on screen in a wide brewer's figure
	for i, line := range []string{now.When, now.What} {
		out.add(`<text x="%.1f" y="%.1f" font-size="%.1f" text-anchor="middle" class="cut-words">%s</text>`, c.middle(),
			c.floor()+size*1.25*float64(i+1), size, template.HTMLEscapeString(line))
	}
	out.add(`<path d="%s" class="cut-bed"/>`, c.slab(0, c.Forecast.BedHeight))
	const paper = 1.8 // from the wall
	out.add(`<path d="M%.1f %.1fL%.1f %.1fH%.1fL%.1f %.1f" class="cut-paper"/>`, l1+paper, y1+2, l0+paper/2, y0, r0-paper/2, r1-paper, y1+2)
	out.add(`<path d="M%.1f %.1fL%.1f %.1fM%.1f %.1fL%.1f %.1f" class="cut-wall"/>`, l1, y1, l0, y0, r1, y1, r0, y0)
	out.add(`<path d="M%.1f %.1fH%.1f" class="cut-rim"/>`, l1-4, y1, r1+4)
	out.add(`<path d="M%.1f %.1fV%.1fH%.1fV%.1f" class="cut-wall"/>`, c.middle()-c.carafe(), c.floor()-carafeTall, c.floor(),
		c.middle()+c.carafe(), c.floor()-carafeTall)
	length := c.Prefs.Unit(units.Length)
	words := fmt.Sprintf("The brewer cut open: the bed is %s high, the water rises to %s of %s at %s.",
		length.Format(c.Forecast.BedHeight), length.Number(c.Forecast.TopLevel), length.Format(rim), units.Seconds(shown*FrameEvery))
	if ice := c.Forecast.Ice[0]; ice > 0 {
		words += fmt.Sprintf(" %s of ice lie in the carafe.", c.Prefs.Unit(units.Water).Format(ice))
	}
	list, _ := json.Marshal(frames) // strings and numbers always marshal
	return out.wrap(2*c.middle(), c.floor()+size*3, "cutaway", words,
		fmt.Sprintf(`data-frames="%s"`, template.HTMLEscapeString(string(list))))
}

// cutFrame holds the parts that change from moment to moment.
type cutFrame struct {
	Water       string
	Top, Height float64
	Crust, Ice  string
	When, What  string
}

// MarshalJSON encodes a frame as a list, to save space.
func (f cutFrame) MarshalJSON() ([]byte, error) {
	return json.Marshal([]any{f.Water, f.Top, f.Height, f.Crust, f.Ice, f.When, f.What})
}

func (c Cutaway) frame(at int) cutFrame {
	level, beverage := c.Forecast.Level[at], c.Forecast.Curves.Beverage[at]
	full := units.Round(beverage*1000/(math.Pi*c.carafe()*c.carafe()), 1)
	f := cutFrame{Top: units.Round(c.floor()-full, 1), Height: full,
		When: fmt.Sprintf("%s · %s", units.Seconds(at), c.Prefs.Unit(units.Temperature).Format(c.Forecast.Slurry[at])),
		What: fmt.Sprintf("%s · %s", c.Prefs.Unit(units.Length).Format(level), c.Prefs.Unit(units.Water).Format(beverage))}
	if level > c.Forecast.BedHeight+0.3 {
		f.Water = c.slab(c.Forecast.BedHeight, level)
		const thick = 5 // mm of grounds that float until stirred
		if until := cmp.Or(c.Crust, c.Release); c.Release > 0 && units.Seconds(at) < until && level > c.Forecast.BedHeight+3*thick {
			f.Crust = c.slab(level-thick, level)
		}
	}
	f.Ice = c.cubes(c.Forecast.Ice[at], f.Top)
	return f
}

// cubes draws ice as cubes floating in the carafe, in rows.
func (c Cutaway) cubes(ice, top float64) string {
	const gramsEach, side, most = 12.0, 9.0, 40
	n := min(int(math.Ceil(ice/gramsEach-0.5)), most)
	perRow := max(1, int(2*c.carafe()/(side+3)))
	rows := (n + perRow - 1) / perRow
	// They rest on the floor until there is enough coffee.
	y0 := min(c.floor()-float64(rows)*(side+2), top-side*0.3)
	var out strings.Builder
	for i := range n {
		row, column := i/perRow, i%perRow
		x := c.middle() - c.carafe() + 3 + float64(column)*(side+3)
		fmt.Fprintf(&out, "M%.1f %.1fl%.1f 1.4l-1.4 %.1fl-%.1f -1.4Z", x, y0+float64(row)*(side+2), side-1, side-2, side-1)
	}
	return out.String()
}

// middle returns the x of the axis, with room for the wider of brewer and carafe.
func (c Cutaway) middle() float64 {
	return max(cutMinWidth/2, math.Ceil(c.Brewer.Radius(c.Forecast.Rim/1000)*1000)+8, math.Ceil(c.carafe())+4)
}

// carafe returns the radius of a carafe that holds the brew.
func (c Cutaway) carafe() float64 {
	const least, room = 44.0, 1.15
	return max(least, math.Sqrt(float64(c.Forecast.Beverage)*1000*room/(math.Pi*carafeTall))) // 1 g is 1000 mm³
}

// floor returns the y of the carafe's floor.
func (c Cutaway) floor() float64 { return cutTop + c.Forecast.Rim + cutGap + carafeTall }

// wall returns the inside of the brewer, left and right, at z mm over the outlet.
func (c Cutaway) wall(z float64) (l, r, y float64) {
	half := c.Brewer.Radius(z/1000) * 1000
	return c.middle() - half, c.middle() + half, cutTop + c.Forecast.Rim - z
}

// slab returns the path of the brewer's content between two heights.
func (c Cutaway) slab(from, to float64) string {
	l0, r0, y0 := c.wall(from)
	l1, r1, y1 := c.wall(to)
	return fmt.Sprintf("M%.1f %.1fL%.1f %.1fL%.1f %.1fL%.1f %.1fZ", l0, y0, l1, y1, r1, y1, r0, y0)
}

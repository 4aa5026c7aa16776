// Package chart draws ordinary charts as SVG: lines, points with errors and bars over an axis, and a ranking. Colours come from the
// style sheet, so that a chart follows the theme. Every chart has a summary in words and a table of its numbers.
package chart

import (
	"fmt"
	"html"
	"html/template"
	"math"
	"strconv"
	"strings"
)

// A Point is a value at a position of the horizontal axis.
type Point struct {
	X, Y  float64
	Error float64 // standard error; 0: none is drawn
	Band  float64 // half the height of a band around 0; 0: none is drawn
	Name  string  // in the table; empty: the label of the nearest tick
	Note  string  // beside the number in the table
	Best  bool    // drawn larger
}

// A Tick is a label on the horizontal axis.
type Tick struct {
	At    float64
	Label string
	Below string // a second line
}

// A Chart has one series of points over a horizontal axis, whose ticks the caller gives.
type Chart struct {
	Title    string // of the vertical axis: quantity and unit, such as "Extraction yield, %"
	Points   []Point
	Line     bool // points are joined
	Bars     bool // drawn as bars from 0
	Decimals int  // of values
	Ticks    []Tick
	Axis     string               // of the horizontal axis
	Lo, Hi   float64              // the least range of the vertical axis; equal: from the values
	Format   func(float64) string // of values; nil: a number with Decimals
	About    string               // sentence after the summary
}

// A chart is as wide as a phone, so that its letters stay legible there.
const (
	width, height = 390.0, 230.0
	left, right   = 56.0, 14.0
	top, foot     = 36.0, 44.0
	lineHeight    = 16.0
	letter        = 7.6 // width of a letter of a tick
	ticksWanted   = 5
)

// text formats a value.
func (c Chart) text(v float64) string {
	if c.Format != nil {
		return c.Format(v)
	}
	return strconv.FormatFloat(v, 'f', c.Decimals, 64)
}

// tick formats a value of the axis, with the decimals that its step needs.
func (c Chart) tick(v, step float64) string {
	if c.Format != nil {
		return c.Format(v)
	}
	return strconv.FormatFloat(v, 'f', decimals(step), 64)
}

// decimals returns the number of decimals of multiples of a step.
func decimals(step float64) int { return max(0, int(math.Ceil(-math.Log10(step)-1e-9))) }

// scale returns the range of the vertical axis and the step of its ticks.
func (c Chart) scale() (lo, hi, step float64) {
	lo, hi = math.Inf(1), math.Inf(-1)
	if c.Lo < c.Hi {
		lo, hi = c.Lo, c.Hi
	}
	if c.Bars {
		lo = 0
	}
	for _, p := range c.Points {
		lo, hi = min(lo, p.Y-p.Error), max(hi, p.Y+p.Error)
		if p.Band > 0 {
			lo, hi = min(lo, -p.Band), max(hi, p.Band)
		}
	}
	return round(lo, hi, math.Pow10(-c.Decimals), c.Bars)
}

// round widens a range to whole steps: 1, 2 or 5 times a power of ten, a handful of them. A range below least is widened to it, upwards
// alone if from is fixed.
func round(lo, hi, least float64, from bool) (float64, float64, float64) {
	if math.IsInf(lo, 0) || math.IsInf(hi, 0) {
		return 0, 1, 1
	}
	if hi-lo < least {
		hi += least
		if !from {
			lo -= least
		}
	}
	step := max(least, math.Pow10(int(math.Floor(math.Log10((hi-lo)/ticksWanted)))))
	for _, m := range []float64{1, 2, 5, 10} {
		if (hi-lo)/(m*step) <= ticksWanted {
			step *= m
			break
		}
	}
	return math.Floor(lo/step+1e-9) * step, math.Ceil(hi/step-1e-9) * step, step
}

// span returns the range of the horizontal axis.
func (c Chart) span() (lo, hi float64) {
	lo, hi = math.Inf(1), math.Inf(-1)
	for _, p := range c.Points {
		lo, hi = min(lo, p.X), max(hi, p.X)
	}
	for _, t := range c.Ticks {
		lo, hi = min(lo, t.At), max(hi, t.At)
	}
	if math.IsInf(lo, 0) {
		return 0, 1
	}
	pad := max(0.5, 0.03*(hi-lo))
	return lo - pad, hi + pad
}

// A drawing is an SVG that is being written.
type drawing struct{ strings.Builder }

func begin(height float64, summary string) *drawing {
	d := &drawing{}
	fmt.Fprintf(d, `<svg viewBox="0 0 %.0f %.0f" class="chart" role="img" aria-label="%s">`, width, height, html.EscapeString(summary))
	return d
}

func (d *drawing) text(x, y float64, class, anchor, text string) {
	fmt.Fprintf(d, `<text x="%.1f" y="%.1f" class="%s" text-anchor="%s">%s</text>`, x, y, class, anchor, html.EscapeString(text))
}

func (d *drawing) path(class, format string, args ...any) {
	fmt.Fprintf(d, `<path d="%s" class="%s"/>`, fmt.Sprintf(format, args...), class)
}

func (d *drawing) end() template.HTML {
	d.WriteString("</svg>")
	return template.HTML(d.String())
}

// SVG draws the chart.
func (c Chart) SVG() template.HTML {
	lo, hi, step := c.scale()
	from, to := c.span()
	bottom := height - foot
	for _, t := range c.Ticks {
		if t.Below != "" {
			bottom = height - foot - lineHeight
		}
	}
	x := func(v float64) float64 { return left + (v-from)/(to-from)*(width-left-right) }
	y := func(v float64) float64 { return bottom - (v-lo)/(hi-lo)*(bottom-top) }
	d := begin(height, c.Summary())
	d.text(4, 16, "chart-title", "start", c.Title)
	c.band(d, x, y)
	for v := lo; v <= hi+step/2; v += step {
		d.path("chart-grid", "M%.1f %.1fH%.1f", left, y(v), width-right)
		d.text(left-8, y(v)+4, "chart-tick", "end", c.tick(v, step))
	}
	d.path("chart-axis", "M%.1f %.1fH%.1f", left, y(min(hi, max(lo, 0))), width-right)
	last := math.Inf(-1)
	for _, t := range c.Ticks { // labels that would touch the one before are left out
		half := letter * float64(max(len([]rune(t.Label)), len([]rune(t.Below)))) / 2
		if at := x(t.At); at-half > last {
			d.text(at, bottom+lineHeight+2, "chart-tick", "middle", t.Label)
			if t.Below != "" {
				d.text(at, bottom+2*lineHeight+2, "chart-tick", "middle", t.Below)
			}
			last = at + half + letter
		}
	}
	d.text(width-right, height-6, "chart-tick", "end", c.Axis)
	if c.Line {
		path := ""
		for i, p := range c.Points {
			path += fmt.Sprintf("%c%.1f %.1f", "ML"[min(i, 1)], x(p.X), y(p.Y))
		}
		d.path("chart-line", "%s", path)
	}
	wide := min(28, 0.7*(width-left-right)/max(1, to-from))
	for _, p := range c.Points {
		if c.Bars {
			fmt.Fprintf(d, `<rect x="%.1f" y="%.1f" width="%.1f" height="%.1f" class="chart-bar"/>`, x(p.X)-wide/2, y(p.Y), wide, max(0, y(lo)-y(p.Y)))
			continue
		}
		if p.Error > 0 {
			d.path("chart-error", "M%.1f %.1fV%.1f", x(p.X), y(p.Y-p.Error), y(p.Y+p.Error))
		}
		d.dot(x(p.X), y(p.Y), p.Best)
	}
	return d.end()
}

// dot draws a value.
func (d *drawing) dot(x, y float64, best bool) {
	radius, class := 4.0, "chart-dot"
	if best {
		radius, class = 7, "chart-dot chart-best"
	}
	fmt.Fprintf(d, `<circle cx="%.1f" cy="%.1f" r="%.0f" class="%s"/>`, x, y, radius, class)
}

// band draws the bands around 0 as one shape.
func (c Chart) band(d *drawing, x, y func(float64) float64) {
	up, down := "", ""
	for _, p := range c.Points {
		if p.Band > 0 {
			up += fmt.Sprintf("L%.1f %.1f", x(p.X), y(p.Band))
			down = fmt.Sprintf("L%.1f %.1f", x(p.X), y(-p.Band)) + down
		}
	}
	if up != "" {
		d.path("chart-band", "M%s%sZ", up[1:], down)
	}
}

// Summary describes the chart in a sentence: how many values there are, their range, and the first and the last one.
func (c Chart) Summary() string {
	if len(c.Points) == 0 {
		return c.Title + ": no values yet."
	}
	least, most := c.Points[0].Y, c.Points[0].Y
	for _, p := range c.Points {
		least, most = min(least, p.Y), max(most, p.Y)
	}
	out := fmt.Sprintf("%s: %d values from %s to %s; the first %s, the last %s.", c.Title, len(c.Points), c.text(least), c.text(most),
		c.text(c.Points[0].Y), c.text(c.Points[len(c.Points)-1].Y))
	if len(c.Points) == 1 {
		out = fmt.Sprintf("%s: %s.", c.Title, c.text(least))
	}
	return strings.TrimSpace(out + " " + c.About)
}

// A Row is a line of the table of numbers.
type Row struct{ At, Value, Note string }

// Rows returns the numbers of the chart, with the label of the nearest tick.
func (c Chart) Rows() []Row {
	out := make([]Row, len(c.Points))
	for i, p := range c.Points {
		nearest, off := p.Name, math.Inf(1)
		for _, t := range c.Ticks {
			if d := math.Abs(t.At - p.X); d < off && p.Name == "" {
				nearest, off = strings.TrimSpace(t.Label+" "+t.Below), d
			}
		}
		out[i] = Row{nearest, c.text(p.Y), p.Note}
		if p.Error > 0 {
			out[i].Value += " ± " + c.text(p.Error)
		}
	}
	return out
}

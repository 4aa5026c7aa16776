// Package chart draws ordinary charts as SVG: lines and points with errors over an axis, with ticks and units. Colours come from the
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
	Note  string  // beside the point
	Best  bool    // drawn larger
}

// A Tick is a label on the horizontal axis.
type Tick struct {
	At    float64
	Label string
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
}

const (
	width, height = 640.0, 220.0
	left, right   = 58.0, 18.0
	top, foot     = 34.0, 46.0
	letter        = 6.6 // width of a letter of a tick
	ticksWanted   = 5
)

// text formats a value.
func (c Chart) text(v float64) string {
	if c.Format != nil {
		return c.Format(v)
	}
	return strconv.FormatFloat(v, 'f', c.Decimals, 64)
}

// scale returns the range of the vertical axis and the step of its ticks: 1, 2 or 5 times a power of ten, a handful of them.
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
	}
	if math.IsInf(lo, 0) || math.IsInf(hi, 0) {
		return 0, 1, 1
	}
	least := math.Pow10(-c.Decimals)
	if hi-lo < least {
		hi += least
		if !c.Bars {
			lo -= least
		}
	}
	step = math.Pow10(int(math.Floor(math.Log10((hi - lo) / ticksWanted))))
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

// SVG draws the chart.
func (c Chart) SVG() template.HTML {
	lo, hi, step := c.scale()
	from, to := c.span()
	x := func(v float64) float64 { return left + (v-from)/(to-from)*(width-left-right) }
	y := func(v float64) float64 { return height - foot - (v-lo)/(hi-lo)*(height-top-foot) }
	var b strings.Builder
	fmt.Fprintf(&b, `<svg viewBox="0 0 %.0f %.0f" class="chart" role="img" aria-label="%s">`, width, height, html.EscapeString(c.Summary()))
	write := func(x, y float64, class, anchor, text string) {
		fmt.Fprintf(&b, `<text x="%.1f" y="%.1f" class="%s" text-anchor="%s">%s</text>`, x, y, class, anchor, html.EscapeString(text))
	}
	write(4, 14, "chart-title", "start", c.Title)
	for v := lo; v <= hi+step/2; v += step {
		fmt.Fprintf(&b, `<path d="M%.1f %.1fH%.1f" class="chart-grid"/>`, left, y(v), width-right)
		write(left-8, y(v)+4, "chart-tick", "end", c.text(v))
	}
	fmt.Fprintf(&b, `<path d="M%.1f %.1fH%.1f" class="chart-axis"/>`, left, y(lo), width-right)
	last := math.Inf(-1)
	for _, t := range c.Ticks { // labels that would touch the one before are left out
		half := letter * float64(len([]rune(t.Label))) / 2
		if at := x(t.At); at-half > last {
			write(at, height-foot+18, "chart-tick", "middle", t.Label)
			last = at + half + letter
		}
	}
	write(width-right, height-6, "chart-tick", "end", c.Axis)
	if c.Line {
		path := ""
		for i, p := range c.Points {
			path += fmt.Sprintf("%c%.1f %.1f", "ML"[min(i, 1)], x(p.X), y(p.Y))
		}
		fmt.Fprintf(&b, `<path d="%s" class="chart-line"/>`, path)
	}
	wide := min(28, 0.7*(width-left-right)/max(1, to-from))
	for _, p := range c.Points {
		if c.Bars {
			fmt.Fprintf(&b, `<rect x="%.1f" y="%.1f" width="%.1f" height="%.1f" class="chart-bar"/>`, x(p.X)-wide/2, y(p.Y), wide, max(0, y(lo)-y(p.Y)))
			continue
		}
		if p.Error > 0 {
			fmt.Fprintf(&b, `<path d="M%.1f %.1fV%.1f" class="chart-error"/>`, x(p.X), y(p.Y-p.Error), y(p.Y+p.Error))
		}
		radius, class := 4.0, "chart-dot"
		if p.Best {
			radius, class = 7, "chart-dot chart-best"
		}
		fmt.Fprintf(&b, `<circle cx="%.1f" cy="%.1f" r="%.0f" class="%s"/>`, x(p.X), y(p.Y), radius, class)
	}
	b.WriteString("</svg>")
	return template.HTML(b.String())
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
	if len(c.Points) == 1 {
		return fmt.Sprintf("%s: %s.", c.Title, c.text(least))
	}
	return fmt.Sprintf("%s: %d values from %s to %s; the first %s, the last %s.", c.Title, len(c.Points), c.text(least), c.text(most),
		c.text(c.Points[0].Y), c.text(c.Points[len(c.Points)-1].Y))
}

// A Row is a line of the table of numbers.
type Row struct{ At, Value, Note string }

// Rows returns the numbers of the chart, with the label of the nearest tick.
func (c Chart) Rows() []Row {
	out := make([]Row, len(c.Points))
	for i, p := range c.Points {
		nearest, off := "", math.Inf(1)
		for _, t := range c.Ticks {
			if d := math.Abs(t.At - p.X); d < off {
				nearest, off = t.Label, d
			}
		}
		out[i] = Row{nearest, c.text(p.Y), p.Note}
		if p.Error > 0 {
			out[i].Value += " ± " + c.text(p.Error)
		}
	}
	return out
}

package figure

import (
	"fmt"
	"html/template"
	"math"
	"strings"

	"yardbloom/core/trace"
	"yardbloom/core/units"
)

// A Course is the water of one brew over time: as weighed, or from the start and end of each pour.
type Course struct {
	Name   string
	Pours  []CoursePour
	Trace  []trace.Reading // nil: no scale was under it
	Ends   units.Seconds   // drawdown; 0 if unknown
	Letter string          // labels its line
}

// A CoursePour is one pour.
type CoursePour struct {
	Start, End units.Seconds
	From, To   units.Grams // totals
}

// An Overlay draws the courses of several brews over each other. Aligned by pour, equal pours begin at one place, and the waits
// before them are as long as the longest.
type Overlay struct {
	Courses []Course
	ByPour  bool
	Prefs   units.Prefs
	Narrow  bool // for a phone
}

// Both returns the wide and the narrow overlay, of which the style sheet shows one.
func (o Overlay) Both() []template.HTML {
	wide, narrow := o, o
	wide.Narrow, narrow.Narrow = false, true
	return []template.HTML{wide.SVG(), narrow.SVG()}
}

// place returns the position in s of a moment of a course.
func (o Overlay) place(c Course, t units.Seconds) float64 {
	if !o.ByPour {
		return float64(t)
	}
	at := 0
	for i, p := range c.Pours {
		if t >= p.Start {
			at = i
		}
	}
	if len(c.Pours) == 0 {
		return float64(t)
	}
	return o.begins(at) + float64(t-c.Pours[at].Start)
}

// begins returns the position at which pour i begins in all courses: after the longest time from the pour before.
func (o Overlay) begins(i int) float64 {
	at := 0.0
	for n := 1; n <= i; n++ {
		longest := 0.0
		for _, c := range o.Courses {
			if n < len(c.Pours) {
				longest = max(longest, float64(c.Pours[n].Start-c.Pours[n-1].Start))
			}
		}
		at += longest
	}
	return at
}

// points returns the line of a course: positions in s, and grams.
func (o Overlay) points(c Course) (out [][2]float64) {
	if len(c.Trace) > 0 {
		high := units.Grams(0)
		for _, r := range Thin(c.Trace, 0.5) {
			if r.At < 0 || c.Ends > 0 && r.At > c.Ends || r.Grams < high-lifted { // or the brewer is off the scale
				continue
			}
			high = max(high, r.Grams)
			out = append(out, [2]float64{o.place(c, r.At), float64(max(0, r.Grams))})
		}
		return out
	}
	for i, p := range c.Pours {
		if i > 0 { // the wait
			out = append(out, [2]float64{o.place(c, p.Start), float64(p.From)})
		}
		out = append(out, [2]float64{o.place(c, p.Start), float64(p.From)}, [2]float64{o.place(c, p.Start) + float64(p.End-p.Start), float64(p.To)})
	}
	if c.Ends > 0 && len(out) > 0 {
		out = append(out, [2]float64{o.place(c, c.Ends), out[len(out)-1][1]})
	}
	return out
}

// SVG draws the overlay with axes in minutes and in the person's unit of water.
func (o Overlay) SVG() template.HTML {
	const left, right, top, foot = 52.0, 26.0, 24.0, 44.0
	w, h, every := 960.0, 330.0, 30.0
	if o.Narrow {
		w, h, every = 400, 300, 60
	}
	lines := make([][][2]float64, len(o.Courses))
	tMax, gMax := 60.0, 50.0
	for i, course := range o.Courses {
		lines[i] = o.points(course)
		for _, p := range lines[i] {
			tMax, gMax = max(tMax, p[0]), max(gMax, p[1])
		}
	}
	tMax, gMax = math.Ceil((tMax+8)/15)*15, gMax*1.05
	x := func(t float64) float64 { return left + t/tMax*(w-left-right) }
	y := func(g float64) float64 { return h - foot - g/gMax*(h-top-foot) }
	var c canvas
	for t := 0.0; t <= tMax; t += timeStep(tMax, every) {
		c.add(`<line x1="%.1f" x2="%.1f" y1="%.1f" y2="%.1f" class="ribbon-grid"/>`, x(t), x(t), top, h-foot)
		if !o.ByPour {
			c.text(x(t), h-foot+17, "ribbon-tick", "middle", units.Seconds(t).String())
		}
	}
	if o.ByPour {
		for i := range o.mostPours() {
			name := fmt.Sprintf("pour %d", i+1)
			if o.Narrow {
				name = fmt.Sprint(i + 1)
			}
			c.text(x(o.begins(i)), h-foot+17, "ribbon-tick", "middle", name)
		}
	}
	u := o.Prefs.Unit(units.Water)
	for g, step := 0.0, round(u.Shown(gMax)/3); g <= u.Shown(gMax); g += step {
		at := y(u.Canonical(g))
		c.add(`<line x1="%.1f" x2="%.1f" y1="%.1f" y2="%.1f" class="ribbon-grid"/>`, left, w-right, at, at)
		c.text(left-7, at+4, "ribbon-tick", "end", u.Number(u.Canonical(g)))
	}
	c.text(left-7, top-9, "ribbon-tick", "end", u.Symbol)
	var names []string
	for i, line := range lines {
		path := ""
		for n, p := range line {
			path += fmt.Sprintf("%c%.1f %.1f", "ML"[min(n, 1)], x(p[0]), y(p[1]))
		}
		course := o.Courses[i]
		c.add(`<path d="%s" class="overlay overlay-%d"/>`, path, i+1)
		if n := len(line); n > 0 {
			end := line[n-1]
			c.text(min(x(end[0])+4, w-12), y(end[1])-5-4*float64(i%2), fmt.Sprintf("overlay-name overlay-%d", i+1), "start", course.Letter)
		}
		names = append(names, course.Letter+" is "+course.Name)
	}
	class := "ribbon overlays ribbon-wide"
	if o.Narrow {
		class = "ribbon overlays ribbon-narrow"
	}
	return c.wrap(w, h, class, "Water over time. "+strings.Join(names, "; ")+".")
}

func (o Overlay) mostPours() (n int) {
	for _, c := range o.Courses {
		n = max(n, len(c.Pours))
	}
	return n
}

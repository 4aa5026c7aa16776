package figure

import (
	"fmt"
	"html/template"
	"math"
	"strings"

	"yardbloom/core/units"
)

// Levels draws the results of a trial's levels: a dot with its error for each, and the prediction beside
// it, dashed.
type Levels struct {
	Names    []string
	Means    []float64
	Errors   []float64
	Expected []float64 // 0 for no prediction
	Unit     string
	Decimals int
}

// lines breaks a label into at most three lines of about so many letters.
func lines(label string, letters int) []string {
	const most = 3
	out := []string{""}
	for word := range strings.FieldsSeq(label) {
		last := &out[len(out)-1]
		switch {
		case *last == "":
			*last = word
		case len([]rune(*last))+1+len([]rune(word)) <= letters:
			*last += " " + word
		case len(out) < most:
			out = append(out, word)
		default:
			*last = strings.TrimSuffix(*last, "…") + "…"
		}
	}
	return out
}

// Draw returns the figure.
func (l Levels) Draw() template.HTML {
	if len(l.Means) == 0 {
		return ""
	}
	const w, h, left, right, top, foot = 560.0, 290.0, 54.0, 20.0, 28.0, 60.0
	e := extent{l.Means[0], l.Means[0]}
	for i, m := range l.Means {
		e.cover(m, 1.2*l.Errors[i])
		if l.Expected[i] > 0 {
			e.cover(l.Expected[i], 0)
		}
	}
	pad := max(0.08*(e.hi-e.lo), math.Pow10(-l.Decimals))
	e.lo, e.hi = e.lo-pad, e.hi+pad
	x := func(i int) float64 { return left + (float64(i)+0.5)*(w-left-right)/float64(len(l.Means)) }
	y := func(v float64) float64 { return top + (e.hi-v)/(e.hi-e.lo)*(h-top-foot) }
	var c canvas
	for _, v := range e.ticks(0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100) {
		c.add(`<path d="M%.1f %.1fH%.1f" class="map-grid"/>`, left, y(v), w-right)
		c.text(left-7, y(v)+4, "map-tick", "end", units.Trim(v, 2))
	}
	c.text(4, 12, "map-name", "start", l.Unit)
	path := ""
	for i := range l.Means {
		if l.Expected[i] <= 0 {
			continue
		}
		if path == "" {
			path = fmt.Sprintf("M%.1f %.1f", x(i), y(l.Expected[i]))
		} else {
			path += fmt.Sprintf("L%.1f %.1f", x(i), y(l.Expected[i]))
		}
	}
	if path != "" {
		c.add(`<path d="%s" class="level-expected"/>`, path)
	}
	for i, m := range l.Means {
		const letter = 7.0 // width
		for n, line := range lines(l.Names[i], int((w-left-right)/float64(len(l.Means))/letter)) {
			c.text(x(i), h-foot+20+14*float64(n), "map-name", "middle", line)
		}
		c.add(`<path d="M%.1f %.1fV%.1fM%.1f %.1fh14M%.1f %.1fh14" class="level-error"/>`, x(i), y(m-l.Errors[i]), y(m+l.Errors[i]), x(i)-7,
			y(m-l.Errors[i]), x(i)-7, y(m+l.Errors[i]))
		c.add(`<circle cx="%.1f" cy="%.1f" r="7" class="flower-heart"/>`, x(i), y(m))
	}
	words := "Level by level:"
	for i, m := range l.Means {
		words += fmt.Sprintf(" %s %.*f ± %.*f;", l.Names[i], l.Decimals, m, l.Decimals, l.Errors[i])
	}
	return c.wrap(w, h, "map levels", words)
}

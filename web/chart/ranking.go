package chart

import (
	"fmt"
	"html/template"
	"math"
	"strconv"
)

// A Ranked is a named value of a Ranking.
type Ranked struct {
	Name  string
	Value float64
	Error float64 // standard error
	Note  string  // in the table
	Best  bool    // drawn larger
}

// A Ranking shows named values with their errors below each other, in the order in which they are given.
type Ranking struct {
	Title    string // quantity and unit of the horizontal axis
	Items    []Ranked
	Decimals int
}

const (
	rankTop, rankFoot, rankRow = 24.0, 34.0, 40.0
	rankLeft                   = 8.0
)

// SVG draws the ranking.
func (r Ranking) SVG() template.HTML {
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, i := range r.Items {
		lo, hi = min(lo, i.Value-i.Error), max(hi, i.Value+i.Error)
	}
	lo, hi, step := round(lo, hi, math.Pow10(-r.Decimals), false)
	x := func(v float64) float64 { return rankLeft + 12 + (v-lo)/(hi-lo)*(width-rankLeft-right-24) }
	bottom := rankTop + rankRow*float64(len(r.Items))
	d := begin(bottom+rankFoot, r.Summary())
	d.text(4, 16, "chart-title", "start", r.Title)
	for v := lo; v <= hi+step/2; v += step {
		d.path("chart-grid", "M%.1f %.1fV%.1f", x(v), rankTop, bottom)
		d.text(x(v), bottom+18, "chart-tick", "middle", strconv.FormatFloat(v, 'f', decimals(step), 64))
	}
	d.path("chart-axis", "M%.1f %.1fH%.1f", rankLeft, bottom, width-right)
	const most = 44 // letters
	for n, i := range r.Items {
		y := rankTop + rankRow*float64(n)
		name := []rune(i.Name)
		if len(name) > most {
			name = append(name[:most-1], '…')
		}
		d.text(rankLeft, y+16, "chart-name", "start", string(name))
		d.path("chart-error", "M%.1f %.1fH%.1f", x(i.Value-i.Error), y+28, x(i.Value+i.Error))
		d.dot(x(i.Value), y+28, i.Best)
	}
	return d.end()
}

// Summary describes the ranking in a sentence.
func (r Ranking) Summary() string {
	if len(r.Items) == 0 {
		return r.Title + ": no values yet."
	}
	first := r.Items[0]
	out := fmt.Sprintf("%s: %s first with %s ± %s", r.Title, first.Name, r.text(first.Value), r.text(first.Error))
	if n := len(r.Items); n > 1 {
		out += fmt.Sprintf(", of %d; %s last with %s", n, r.Items[n-1].Name, r.text(r.Items[n-1].Value))
	}
	return out + "."
}

func (r Ranking) text(v float64) string { return strconv.FormatFloat(v, 'f', r.Decimals, 64) }

// Rows returns the numbers of the ranking.
func (r Ranking) Rows() []Row {
	out := make([]Row, len(r.Items))
	for n, i := range r.Items {
		out[n] = Row{i.Name, r.text(i.Value) + " ± " + r.text(i.Error), i.Note}
	}
	return out
}

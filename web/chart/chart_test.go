package chart

import (
	"math"
	"regexp"
	"strconv"
	"strings"
	"testing"
)

// The axis has round ticks that enclose all values with their errors, labels do not touch, and a value is where its tick is.
// Mutations caught: an axis upside down, a scale that cuts off an error, ticks on top of each other, a bar that does not begin at 0.
func TestScaleAndLabels(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		c            Chart
		lo, hi, step float64
	}{
		{Chart{Points: []Point{{X: 1, Y: 18.2, Error: 0.5}, {X: 2, Y: 20.9, Error: 0.4}}, Decimals: 1}, 17, 22, 1},
		{Chart{Points: []Point{{X: 1, Y: 5}, {X: 2, Y: 8}}, Lo: 1, Hi: 10}, 0, 10, 2},
		{Chart{Points: []Point{{X: 1, Y: 3}, {X: 2, Y: 117}}, Bars: true}, 0, 150, 50},
		{Chart{Points: []Point{{X: 1, Y: 7}}}, 6, 8, 1}, {Chart{}, 0, 1, 1},
	} {
		if lo, hi, step := c.c.scale(); math.Abs(lo-c.lo) > 1e-9 || math.Abs(hi-c.hi) > 1e-9 || math.Abs(step-c.step) > 1e-9 {
			t.Errorf("%+v: from %g to %g by %g, want %g to %g by %g", c.c.Points, lo, hi, step, c.lo, c.hi, c.step)
		}
	}
	c := Chart{Title: "Mark, of 10", Points: []Point{{X: 1, Y: 5, Note: "first"},
		{X: 2, Y: 8, Error: 0.5, Note: "finer", Best: true}, {X: 30, Y: 6}}, Line: true, Lo: 1, Hi: 10,
		Ticks: []Tick{{At: 1, Label: "1 May 2026"}, {At: 2, Label: "2 May 2026"}, {At: 30, Label: "30 May 2026"}}, Axis: "day"}
	svg := string(c.SVG())
	if strings.Contains(svg, ">2 May 2026<") || !strings.Contains(svg, ">30 May 2026<") || !strings.Contains(svg, "chart-best") {
		t.Errorf("labels or the best point: %s", svg)
	}
	heights := regexp.MustCompile(`cy="([0-9.]+)"`).FindAllStringSubmatch(svg, -1)
	first, _ := strconv.ParseFloat(heights[0][1], 64)
	second, _ := strconv.ParseFloat(heights[1][1], 64)
	tick := regexp.MustCompile(`y="([0-9.]+)" class="chart-tick" text-anchor="end">8<`).FindStringSubmatch(svg)
	if at, _ := strconv.ParseFloat(tick[1], 64); math.Abs(at-4-second) > 0.2 || first <= second {
		t.Errorf("5 is at %v, 8 at %v beside its tick at %v", first, second, tick[1])
	}
	if got := c.Summary(); got != "Mark, of 10: 3 values from 5 to 8; the first 5, the last 6." {
		t.Error(got)
	}
	if rows := c.Rows(); rows[1] != (Row{"2 May 2026", "8 ± 0", "finer"}) && rows[1] != (Row{"2 May 2026", "8 ± 1", "finer"}) {
		t.Errorf("%+v", rows)
	}
}

package practice

import (
	"math"
	"testing"

	"yardbloom/core/trace"
	"yardbloom/core/units"
)

// stream returns the scale readings of a pour whose rate oscillates by a relative amplitude.
func stream(rate, swing, late, lasts float64) (out []trace.Reading) {
	g := 0.0
	for i := -20; float64(i)/10 < late+lasts+3; i++ {
		at := float64(i) / 10
		if at >= late && at < late+lasts {
			g += rate * (1 + swing*math.Sin(at*1.3)) / 10
		}
		out = append(out, trace.Reading{At: units.Seconds(at), Grams: units.Grams(math.Round(g*10) / 10)})
	}
	return out
}

// A steady pour on time scores nearly full marks; each fault lowers its own part only.
func TestEachFaultLowersItsOwnScore(t *testing.T) {
	l, _ := LessonByID("slow-and-steady")
	good, ok := Try{Lesson: l, Readings: stream(4, 0, 0.4, 25)}.Score()
	if !ok || good.All < 92 || good.Steady < 92 || math.Abs(float64(good.Water-100)) > 1.5 {
		t.Fatalf("a good pour: %+v, %v", good, ok)
	}
	for name, c := range map[string]struct {
		try   []trace.Reading
		worse func(Score) int
	}{
		"unsteady": {stream(4, 0.4, 0.4, 25), func(s Score) int { return s.Steady }},
		"late":     {stream(4, 0, 4, 25), func(s Score) int { return s.Start }},
		"too much": {stream(4, 0, 0.4, 28), func(s Score) int { return s.Amount }},
		"too fast": {stream(5, 0, 0.4, 20), func(s Score) int { return s.Pace }},
	} {
		s, ok := Try{Lesson: l, Readings: c.try}.Score()
		if !ok || c.worse(s) > 70 || s.All >= good.All {
			t.Errorf("%s: %+v", name, s)
		}
		lost := 0
		for _, part := range []int{s.Steady, s.Start, s.Amount, s.Pace} {
			if part < 85 {
				lost++
			}
		}
		if lost != 1 {
			t.Errorf("%s costs in %d places: %+v", name, lost, s)
		}
	}
	taps, ok := Try{Lesson: l, Began: 0.3, Ended: 25.3, Water: 100}.Score()
	if !ok || taps.Steady != -1 || taps.All < 98 {
		t.Errorf("by taps: %+v", taps)
	}
	if _, ok := (Try{Lesson: l, Readings: stream(0, 0, 1, 5)}).Score(); ok {
		t.Error("nothing was poured, and it has a score")
	}
}

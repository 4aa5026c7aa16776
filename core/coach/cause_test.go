package coach

import (
	"testing"

	"yardbloom/core/cup"
)

// A cup within 1.2 points of yield, or 0.12 % of strength, is good; beyond that the larger deviation names
// the fault. Mutations caught: another threshold, a strict comparison, yield and strength confused.
func TestFaultByDistanceFromTheAim(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		dy, ds float64
		want   Cause
	}{
		{0, 0, OnAim}, {1.2, 0, OnAim}, {-1.2, 0, OnAim}, {0, 0.119, OnAim},
		{1.21, 0, Over}, {-1.21, 0, Under}, {0, 0.121, Strong}, {0, -0.121, Weak},
		{1, 0.1, Over}, {-1, 0.1, Under}, {0.9, -0.1, Weak}, {-0.9, 0.1, Strong},
	} {
		if got := fault(c.dy, c.ds); got != c.want {
			t.Errorf("%g points and %g %% off: %v, want %v", c.dy, c.ds, got, c.want)
		}
	}
}

// What a person says of two cups decides whether the last change spoilt the cup, even against the marks; "the same" decides nothing.
// Mutations caught: a comparison that is not heard, worse taken for better.
func TestComparisonWithTheLastCupIsHeard(t *testing.T) {
	t.Parallel()
	worse := func(than cup.Than, was, is int) float64 {
		before := Case{Cup: cup.Cup{Taste: cup.Taste{Overall: was}}}
		now := Case{Cup: cup.Cup{Taste: cup.Taste{Overall: is, Better: than}}, Path: []Case{before}}
		return (&weighing{Case: now}).worse()
	}
	for _, c := range []struct {
		than    cup.Than
		was, is int
		lo, hi  float64
	}{
		{cup.ClearlyWorse, 7, 7, 0.9, 1}, {cup.LittleWorse, 6, 7, 0.8, 0.9}, {cup.LittleBetter, 7, 6, 0.1, 0.2}, {cup.ClearlyBetter, 8, 6, 0, 0.05},
		{cup.Same, 8, 6, 0.95, 1}, {"", 6, 8, 0, 0.05},
	} {
		if got := worse(c.than, c.was, c.is); got < c.lo || got > c.hi {
			t.Errorf("%q with marks of %d and %d: worse with %.2f", c.than, c.was, c.is, got)
		}
	}
}

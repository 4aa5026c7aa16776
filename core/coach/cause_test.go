package coach

import "testing"

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

package coach

import "testing"

// Mutations caught: the sign of a direction, strength named before yield, a tiny effect named.
func TestDirectionOfAdvice(t *testing.T) {
	change := func(strength, yield float64) Advice {
		return Advice{Do: Change, First: &Proposal{Effect: Effect{Strength: strength, Yield: yield}}}
	}
	for _, c := range []struct {
		name string
		a    Advice
		want Direction
	}{
		{"a good cup", Advice{Do: Stop}, AsItIs},
		{"repeat", Advice{Do: Repeat}, ""},
		{"measure", Advice{Do: Measure}, ""},
		{"a larger dose", change(0.1, -0.2), Stronger},
		{"a smaller dose", change(-0.1, 0.2), Lighter},
		{"finer", change(0.04, 0.9), MoreExtraction},
		{"coarser", change(-0.04, -0.9), LessExtraction},
		{"a swirl", change(0.02, 0.29), ""},
		{"a small step of strength", change(0.025, 0), Stronger},
	} {
		if got := c.a.Direction(); got != c.want {
			t.Errorf("%s: %q, want %q", c.name, got, c.want)
		}
	}
}

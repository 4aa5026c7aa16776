package forecast

import (
	"math"
	"testing"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
)

// Two recipes that differ by a step of the grinder differ as that step does, equal ones not at all, and the error of the difference
// is smaller than that of either. Mutations caught: first and second exchanged, errors that do not cancel.
func TestCompareIsTheDifference(t *testing.T) {
	t.Parallel()
	q := question(gear.OpenCone, coffee.Medium)
	finer := q.Recipe.With(recipe.AddressOf(recipe.Grind), float64(q.Recipe.Grind)-100)
	v, err := Compare(q, q.Recipe, finer)
	if err != nil || v.Yield < 0.2 || v.Time < 5 || math.Abs(v.Second.Yield.Value-v.First.Yield.Value-v.Yield) > 1e-9 {
		t.Fatalf("%v: 100 µm finer differ by %+.2f points and %+.0f s", err, v.Yield, float64(v.Time))
	}
	f, err := Predict(q)
	if err != nil || v.YieldError <= 0 || v.YieldError >= f.Yield.Error {
		t.Errorf("± %.2f for the difference, ± %.2f for one", v.YieldError, f.Yield.Error)
	}
	if same, err := Compare(q, q.Recipe, q.Recipe); err != nil || same.Yield != 0 || same.YieldError > 1e-9 || same.Tasted() != NotTasted {
		t.Errorf("%v: the same recipe twice: %+v", err, same.Difference)
	}
	for _, c := range []struct {
		d       Difference
		tasted  Tasted
		repeats int
	}{
		// σ is 2 % of 20 %: n = 2 (2.2 × 0.4 / d)² is 1.5 for a point, 6.2 for half a point and 155 for a tenth.
		{Difference{Yield: 1}, Probably, 2}, {Difference{Yield: -0.5}, Perhaps, 7}, {Difference{Yield: 0.1}, NotTasted, 0},
		{Difference{Strength: -0.12}, Probably, 0}, {Difference{Lean: 0.012}, Perhaps, 0},
	} {
		if got, n := c.d.Tasted(), c.d.Repeats(20, 12); got != c.tasted || n != c.repeats {
			t.Errorf("%+v: tasted %v after %d, want %v after %d", c.d, got, n, c.tasted, c.repeats)
		}
	}
}

package forecast

import (
	"testing"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
)

// A first recipe aims at a person's liking, drains, and comes as near as the bed allows. Mutations caught: a recipe that stalls, one that is
// farther than before, an aim at the yield alone.
func TestAimedComesNearer(t *testing.T) {
	t.Parallel()
	q := question(gear.OpenCone, coffee.MediumLight)
	var before, after Forecast
	if err := before.Run(q); err != nil {
		t.Fatal(err)
	}
	for _, to := range []Liking{{19, 1.28}, {21.5, 1.32}, {20, 1.6}, {18, 1.64}, {23, 1.44}, {26, 2.2}} {
		next := q
		r, ok := Aimed(q, to)
		next.Recipe = r
		if err := after.Run(next); err != nil {
			t.Fatal(err)
		}
		if !ok && len(recipe.Changes(q.Recipe, r)) > 0 || ok && to.from(after) >= to.from(before) {
			t.Errorf("%v: %v, from %.2f to %.2f away", to, ok, to.from(before), to.from(after))
		}
		if !after.Drained {
			t.Errorf("%v: it stalls", to)
		}
		if plausible := to.Yield < 24; plausible && to.from(after) > 0.8 {
			t.Errorf("%v: it is still %.2f away, at %.2f %% and %.2f %%", to, to.from(after), after.Yield.Value, after.TDS)
		}
	}
}

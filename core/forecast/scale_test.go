package forecast

import (
	"math"
	"testing"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A recipe scaled up, down or to another brewer keeps its cup: the yield within the effect of a dial step,
// and the strength.
func TestScaledRecipeKeepsTheCup(t *testing.T) {
	q := question(gear.OpenCone, coffee.Medium)
	q.Recipe = FirstRecipe(q, recipe.ThreeRounds)
	for _, c := range []struct {
		name string
		kind gear.BrewerKind
		dose units.Grams
	}{{"smaller", gear.OpenCone, 13}, {"larger", gear.OpenCone, 26}, {"flat bed", gear.FlatBed, 18}, {"heavy paper", gear.HeavyCone, 30},
		{"steeper", gear.ValveSteeper, 18}} {
		to := question(c.kind, coffee.Medium)
		to.Gear.Brewer.Holds = 700
		s, err := Scale(q, to, c.dose)
		if err != nil {
			t.Fatalf("%s: %v", c.name, err)
		}
		if s.Recipe.Dose != c.dose || math.Abs(s.Recipe.Ratio()-q.Recipe.Ratio()) > 0.5/float64(c.dose) {
			t.Errorf("%s: %v g at 1 : %v", c.name, s.Recipe.Dose, s.Recipe.Ratio())
		}
		if off := math.Abs(s.Is.Yield.Value - s.Was.Yield.Value); off > 0.35 && !s.Unreachable {
			t.Errorf("%s: yields %.1f %%, was %.1f", c.name, s.Is.Yield.Value, s.Was.Yield.Value)
		}
		if s.OtherStyle != (c.kind == gear.ValveSteeper) || s.Recipe.Steeps() != s.OtherStyle {
			t.Errorf("%s: another style: %v", c.name, s.OtherStyle)
		}
		if window := s.Recipe.Plan().Window; s.Is.Drawdown < window.From-1 || s.Is.Drawdown > window.To+1 {
			t.Errorf("%s: drains at %v, aims at %v to %v", c.name, s.Is.Drawdown, window.From, window.To)
		}
	}
	larger, _ := Scale(q, q, 26)
	if larger.Recipe.Grind <= q.Recipe.Grind {
		t.Errorf("a deeper bed is ground at %v µm, the smaller one at %v", larger.Recipe.Grind, q.Recipe.Grind)
	}
}

package forecast

import (
	"fmt"
	"math"

	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A Liking is a position that a person likes, % EY and % TDS.
type Liking struct{ Yield, Strength float64 }

// Aimed returns a recipe changed in grind, ratio and temperature so that the model predicts a liking, or as near to it as the bed
// allows: it must drain within a third of the end of its window, without an overflow and without a new warning. ok is false if
// nothing can be changed.
func Aimed(q Question, to Liking) (r recipe.Recipe, ok bool) {
	const longer, tries = 1.35, 3
	var now, then Forecast
	if now.Run(q) != nil || !now.Drained {
		return q.Recipe, false
	}
	warnings := len(recipe.Check(q.Recipe, q.Gear, q.Prefs))
	share := 1.0
	for range tries {
		yield, strength := now.Yield.Value+share*(to.Yield-now.Yield.Value), now.TDS+share*(to.Strength-now.TDS)
		t, err := Together(q, []Target{{YieldOf, yield}, {StrengthOf, strength}}, recipe.Grind, recipe.Ratio, recipe.Temperature)
		if err != nil {
			return q.Recipe, false
		}
		next := q
		next.Recipe = t.Recipe.With(recipe.AddressOf(recipe.Ratio), units.Round(t.Recipe.Ratio(), 1))
		window := next.Recipe.Plan().Window
		fits := then.Run(next) == nil && then.Drained && (then.Overflow < 0 || now.Overflow >= 0) &&
			(!window.IsSet() || float64(then.Drawdown) < longer*float64(window.To)) && len(recipe.Check(next.Recipe, q.Gear, q.Prefs)) <= warnings
		if fits && to.from(then) < to.from(now) {
			return next.Recipe, true
		}
		share *= 0.6
	}
	return q.Recipe, false
}

// Reason explains grind, ratio and temperature of a recipe that aims at a liking.
func (l Liking) Reason(b *Beliefs) string {
	return fmt.Sprintf("Grind, ratio and temperature together are set for the cups of such coffees that you liked, about %.1f %% of yield at "+
		"%.2f %% of TDS, by the model %s.", l.Yield, l.Strength, basis(b))
}

// from returns the distance of a forecast in points of yield or 0.1 % of strength.
func (l Liking) from(f Forecast) float64 {
	return math.Hypot(f.Yield.Value-l.Yield, 10*(f.TDS-l.Strength))
}

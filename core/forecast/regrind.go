package forecast

import (
	"errors"

	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// Regrind returns the recipe of a question with its grind recalculated for the gear of
// another one: the size at which the model expects the drawdown of before, or the yield
// of before where water waits for a valve or pours wait for the bed. Where no grind gives
// that drawdown it is the nearest end of the usual range, short of a yield that hardly
// anybody likes. to holds the new gear; its recipe is ignored.
func Regrind(q, to Question) recipe.Recipe {
	to.Recipe = q.Recipe
	to.Recipe.Grind = to.Gear.Grinder.Snap(q.Recipe.Grind)
	var was Forecast
	if was.Ask(q) != nil || !was.Drained {
		return to.Recipe
	}
	goal, value := DrainIn, float64(was.Drawdown)
	if q.Recipe.Steeps() || q.Recipe.Waits() {
		goal, value = YieldOf, was.Yield.Value
	}
	r, err := Reach(to, goal, recipe.Grind, value)
	var far *UnreachableError
	switch {
	case err == nil:
		to.Recipe = r
	case errors.As(err, &far):
		to.Recipe.Grind = to.Gear.Grinder.Snap(units.Micrometres(nearestEnd(far, value)))
	}
	var is Forecast
	if is.Ask(to) == nil && is.Yield.Value < plausible.Lo && was.Yield.Value >= plausible.Lo {
		if r, err := Reach(to, YieldOf, recipe.Grind, plausible.Lo); err == nil {
			return r
		}
	}
	return to.Recipe
}

// nearestEnd is the end of the usual grinds that comes nearest to a value no grind gives:
// both drawdown and yield fall as the grind gets coarser.
func nearestEnd(far *UnreachableError, value float64) float64 {
	if value < far.Seen.Lo {
		return recipe.Grind.Usual().Hi
	}
	return recipe.Grind.Usual().Lo
}

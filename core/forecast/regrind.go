package forecast

import (
	"errors"

	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// Regrind returns the recipe of q with its grind recalculated for the gear of to, whose own
// recipe is ignored. The new size gives the same predicted drawdown; for a closed steep and
// for pours that wait for the bed, the same predicted yield. If no size does, Regrind uses the
// nearest end of the usual range, but keeps the yield at or above the least plausible one.
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

// nearestEnd returns the end of the usual range of grinds that comes nearest to an unreachable
// value. Drawdown and yield both fall as the grind gets coarser.
func nearestEnd(far *UnreachableError, value float64) float64 {
	if value < far.Seen.Lo {
		return recipe.Grind.Usual().Hi
	}
	return recipe.Grind.Usual().Lo
}

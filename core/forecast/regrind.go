package forecast

import (
	"errors"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// Regrind returns the recipe of q with its grind recalculated for the gear of to, whose own
// recipe is ignored. The new size gives the same predicted drawdown; for a closed steep and
// for pours that wait for the bed, the same predicted yield. If no size does, Regrind uses the
// nearest end of the usual range, but keeps the yield at or above the least plausible one.
func Regrind(q, to Question) recipe.Recipe {
	to.Recipe = q.Recipe
	if !to.Gear.Grinder.Adjustable() {
		to.Recipe.Grind = gear.BoughtSize
		return to.Recipe
	}
	to.Recipe.Grind = to.Gear.Grinder.Snap(q.Recipe.Grind)
	var was Forecast
	if was.Run(q) != nil || !was.Drained {
		return to.Recipe
	}
	goal, value := DrainIn, float64(was.Drawdown)
	if q.Recipe.Steeps() || q.Recipe.WaitsByEye() {
		goal, value = YieldOf, was.Yield.Value
	}
	if r, _, err := grindFor(to, goal, value); err == nil {
		to.Recipe = r
	}
	var is Forecast
	if is.Run(to) == nil && is.Yield.Value < plausible.Lo && was.Yield.Value >= plausible.Lo {
		if r, err := Reach(to, YieldOf, recipe.Grind, plausible.Lo); err == nil {
			return r
		}
	}
	return to.Recipe
}

// grindFor returns the recipe of q ground to reach a value of a goal. If no grind does, it uses the
// nearest end of the usual range and reports that the value is unreachable.
func grindFor(q Question, goal Goal, value float64) (r recipe.Recipe, unreachable bool, err error) {
	r, err = Reach(q, goal, recipe.Grind, value)
	var far *UnreachableError
	if !errors.As(err, &far) {
		return r, false, err
	}
	r = q.Recipe
	r.Grind = q.Gear.Grinder.Snap(units.Micrometres(nearestEnd(far, value)))
	return r, true, nil
}

// nearestEnd returns the end of the usual range of grinds that is closest to an unreachable value. Drawdown
// and yield both fall with coarser grinds.
func nearestEnd(far *UnreachableError, value float64) float64 {
	if value < far.Seen.Lo {
		return recipe.Grind.Usual().Hi
	}
	return recipe.Grind.Usual().Lo
}

package forecast

import (
	"fmt"
	"math"

	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A Goal is a figure that a recipe can be made to have.
type Goal string

// The goals.
const (
	DrainIn    Goal = "drain in"
	YieldOf    Goal = "yield"
	StrengthOf Goal = "strength"
)

// A way is how a goal is reached: the knob that is turned, how far it may go,
// and the figure that it moves.
type way struct {
	knob  recipe.Knob
	field units.Range
	read  func(Forecast) float64
	set   func(r recipe.Recipe, v, retained float64) recipe.Recipe
}

var ways = map[Goal]way{
	DrainIn:    {recipe.KnobGrind, units.Range{Lo: 380, Hi: 1200}, func(f Forecast) float64 { return float64(f.Drawdown) }, turn(recipe.KnobGrind)},
	YieldOf:    {recipe.KnobGrind, units.Range{Lo: 380, Hi: 1200}, func(f Forecast) float64 { return f.Yield.Value }, turn(recipe.KnobGrind)},
	StrengthOf: {recipe.KnobRatio, units.Range{Lo: 11, Hi: 20}, func(f Forecast) float64 { return f.TDS }, sameCup},
}

func turn(k recipe.Knob) func(recipe.Recipe, float64, float64) recipe.Recipe {
	return func(r recipe.Recipe, v, _ float64) recipe.Recipe { return r.With(k, v) }
}

// sameCup changes the ratio and keeps what ends up in the cup.
func sameCup(r recipe.Recipe, ratio, retained float64) recipe.Recipe {
	cup := r.Amounts(retained).Cup
	a, err := recipe.Solve(recipe.Amounts{Ratio: ratio, Cup: cup}, [2]recipe.Field{recipe.Ratio, recipe.Cup}, retained)
	if err != nil {
		return r.With(recipe.KnobRatio, ratio)
	}
	r.Dose, r.Water = units.Grams(units.Round(float64(a.Dose), 1)), units.Grams(math.Round(float64(a.Water)))
	return r
}

// Reach returns the recipe that the model expects to meet a goal, changed in as
// few things as the goal allows: the grind for a drawdown (s) or a yield (%),
// the ratio at the same cup for a strength (% TDS). The grind is left at a step
// of the dial. Where nothing in the field does, a units.Sentence says what comes closest.
func Reach(q Question, goal Goal, value float64) (recipe.Recipe, error) {
	w, ok := ways[goal]
	if !ok {
		return q.Recipe, units.Sentence("That cannot be solved for.")
	}
	var f Forecast
	at := func(v float64) (float64, error) {
		next := q
		next.Recipe = w.set(q.Recipe, v, q.Gear.Brewer.Retained)
		err := f.Ask(next)
		return w.read(f), err
	}
	lo, hi := w.field.Lo, w.field.Hi
	atLo, err := at(lo)
	if err != nil {
		return q.Recipe, err
	}
	atHi, err := at(hi)
	if err != nil {
		return q.Recipe, err
	}
	if value > max(atLo, atHi) || value < min(atLo, atHi) {
		return q.Recipe, outOfReach(goal, value, atLo, atHi)
	}
	for range 18 { // halving 820 µm eighteen times leaves less than any dial can tell
		mid := (lo + hi) / 2
		v, err := at(mid)
		if err != nil {
			return q.Recipe, err
		}
		if (v > value) == (atLo > atHi) {
			lo = mid
		} else {
			hi = mid
		}
	}
	r := w.set(q.Recipe, (lo+hi)/2, q.Gear.Brewer.Retained)
	r.Grind = q.Gear.Grinder.Snap(r.Grind)
	return r, nil
}

func outOfReach(goal Goal, value, a, b float64) error {
	lo, hi := min(a, b), max(a, b)
	switch goal {
	case DrainIn:
		return units.Sentence(fmt.Sprintf("No grind drains in %s: with these pours the model sees %s at the coarsest and %s where the bed nearly clogs. Change the pours or the dose.",
			units.Seconds(value), units.Seconds(lo), units.Seconds(hi)))
	case YieldOf:
		return units.Sentence(fmt.Sprintf("No grind gives %.1f %%: the model sees %.1f to %.1f %% with these pours at this temperature.", value, lo, hi))
	default:
		return units.Sentence(fmt.Sprintf("No usual ratio gives %.2f %% in this cup: the model sees %.2f to %.2f %%.", value, lo, hi))
	}
}

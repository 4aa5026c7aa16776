package forecast

import (
	"errors"
	"fmt"
	"math"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/root"
	"yardbloom/core/units"
)

// A Goal is a predicted figure that a recipe can be solved for.
type Goal string

// The goals.
const (
	DrainIn    Goal = "drain in" // s
	YieldOf    Goal = "yield"    // % EY
	StrengthOf Goal = "strength" // % TDS, at the same cup
)

// aim defines how a goal is read from a forecast, its tolerance, and the knobs that may reach it, the most
// usual one first.
type aim struct {
	read  func(Forecast) float64
	near  float64
	knobs []recipe.Knob
}

var aims = map[Goal]aim{
	DrainIn: {func(f Forecast) float64 { return float64(f.Drawdown) }, 0.3,
		[]recipe.Knob{recipe.Grind, recipe.Ratio, recipe.Temperature}},
	YieldOf: {func(f Forecast) float64 { return f.Yield.Value }, 0.02,
		[]recipe.Knob{recipe.Grind, recipe.Temperature, recipe.Ratio}},
	StrengthOf: {func(f Forecast) float64 { return f.TDS }, 0.002,
		[]recipe.Knob{recipe.Ratio, recipe.Grind, recipe.Temperature}},
}

// Knobs lists the knobs that may reach the goal, the most usual one first.
func (g Goal) Knobs() []recipe.Knob { return aims[g].knobs }

// A turn defines how a knob is set while solving, and how the result is rounded to a value that can be set.
type turn struct {
	now  func(Question) float64
	set  func(q Question, goal Goal, v float64) recipe.Recipe
	snap func(q Question, v float64) float64
}

var turns = map[recipe.Knob]turn{
	recipe.Grind: {
		now: func(q Question) float64 { return float64(q.Recipe.Grind) },
		set: func(q Question, _ Goal, v float64) recipe.Recipe {
			return q.Recipe.With(recipe.AddressOf(recipe.Grind), v)
		},
		snap: func(q Question, v float64) float64 { return float64(q.Gear.Grinder.Snap(units.Micrometres(v))) },
	},
	recipe.Temperature: {
		now: func(q Question) float64 { return float64(q.Recipe.Temperature()) },
		set: func(q Question, _ Goal, v float64) recipe.Recipe {
			return q.Recipe.With(recipe.AddressOf(recipe.Temperature), v)
		},
		snap: func(q Question, v float64) float64 { return min(math.Round(v), hottest(q)) },
	},
	recipe.Ratio: {
		now: func(q Question) float64 { return q.Recipe.Ratio() },
		set: func(q Question, goal Goal, v float64) recipe.Recipe {
			if goal == StrengthOf {
				return sameCup(q.Recipe, v, q.Gear.Brewer.Retained)
			}
			return q.Recipe.With(recipe.AddressOf(recipe.Ratio), v)
		},
		snap: func(_ Question, v float64) float64 { return v }, // whole grams are the resolution
	},
}

// within returns the range of a knob while solving: its usual one, the temperature up to the local boiling
// point, and the full range of the ratio, which a requested strength may need.
func within(q Question, k recipe.Knob) units.Range {
	switch k {
	case recipe.Temperature:
		return units.Range{Lo: min(k.Usual().Lo, hottest(q)-5), Hi: hottest(q)}
	case recipe.Ratio:
		return k.Range()
	}
	return k.Usual()
}

func hottest(q Question) float64 { return float64(gear.MaxTemperature(q.Gear.Boiling)) }

// sameCup changes the ratio and keeps the beverage.
func sameCup(r recipe.Recipe, ratio, retained float64) recipe.Recipe {
	cup := r.Amounts(retained).Cup
	a, err := recipe.Solve(recipe.Amounts{Ratio: ratio, Cup: cup}, [2]recipe.Knob{recipe.Ratio, recipe.Cup}, retained)
	if err != nil {
		return r.With(recipe.AddressOf(recipe.Ratio), ratio)
	}
	return r.ResizeRounded(a.Dose, a.Water)
}

// A Way is one knob set to reach a goal with the resulting prediction, or the reason why it cannot.
type Way struct {
	Knob      recipe.Knob
	Recipe    recipe.Recipe
	Predicted Forecast
	Err       error // an *UnreachableError, or an error of Of
}

// Ways tries every knob that may reach a goal.
func Ways(q Question, goal Goal, value float64) []Way {
	var out []Way
	for _, k := range goal.Knobs() {
		w := Way{Knob: k}
		w.Recipe, w.Err = Reach(q, goal, k, value)
		if w.Err == nil {
			next := q
			next.Recipe = w.Recipe
			w.Err = w.Predicted.Run(next)
		}
		out = append(out, w)
	}
	return out
}

// Reach sets one knob of a recipe so that the model predicts the goal: s of drawdown, % of yield, % TDS at
// the same cup. It rounds the knob to a value that can be set: a dial step, a whole degree. If no value in
// the range reaches the goal, it returns an *UnreachableError.
func Reach(q Question, goal Goal, knob recipe.Knob, value float64) (recipe.Recipe, error) {
	a, known := aims[goal]
	t, turns := turns[knob]
	if !known || !turns || knob == recipe.Grind && !q.Gear.Grinder.Adjustable() {
		return q.Recipe, ErrUnsolvable
	}
	var f Forecast
	run := f.Run
	if goal == DrainIn {
		run = f.RunFlow
	}
	off := func(v float64) (float64, error) {
		next := q
		next.Recipe = t.set(q, goal, v)
		err := run(next)
		return a.read(f) - value, err
	}
	v, err := root.Find(off, within(q, knob), t.now(q), a.near)
	var none root.NoneError
	switch {
	case err == nil:
		return t.set(q, goal, t.snap(q, v)), nil
	case errors.As(err, &none):
		return q.Recipe, &UnreachableError{knob, goal, units.Range{Lo: value + min(none.AtLo, none.AtHi),
			Hi: value + max(none.AtLo, none.AtHi)}}
	default:
		return q.Recipe, err
	}
}

// ErrUnsolvable is returned for a knob that a goal cannot be solved for.
var ErrUnsolvable = errors.New("this goal cannot be reached by that knob")

// An UnreachableError holds the predictions over the range of a knob that does not reach a goal.
type UnreachableError struct {
	Knob recipe.Knob
	Goal Goal
	Seen units.Range // in the goal's unit: s or %
}

func (e *UnreachableError) Error() string {
	return fmt.Sprintf("%s: no %s reaches it; the model predicts %g to %g", e.Goal, e.Knob, e.Seen.Lo, e.Seen.Hi)
}

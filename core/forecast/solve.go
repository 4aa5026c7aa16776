package forecast

import (
	"errors"
	"fmt"
	"math"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A Goal is a figure that a recipe can be made to have.
type Goal string

// The goals.
const (
	DrainIn    Goal = "drain in" // s
	YieldOf    Goal = "yield"    // % EY
	StrengthOf Goal = "strength" // % TDS, at the same cup
)

// aim is how a goal is read from a forecast, when it counts as met, and the
// knobs that may reach it, the most usual one first.
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

// Knobs lists what may be turned to reach a goal, the most usual one first.
func (g Goal) Knobs() []recipe.Knob { return aims[g].knobs }

// A turn is how a knob is set to reach a goal, and how it is left at what a person
// can really set.
type turn struct {
	now  func(Question) float64
	set  func(q Question, goal Goal, v float64) recipe.Recipe
	snap func(q Question, v float64) float64
}

var turns = map[recipe.Knob]turn{
	recipe.Grind: {
		now:  func(q Question) float64 { return float64(q.Recipe.Grind) },
		set:  func(q Question, _ Goal, v float64) recipe.Recipe { return q.Recipe.With(recipe.Of(recipe.Grind), v) },
		snap: func(q Question, v float64) float64 { return float64(q.Gear.Grinder.Snap(units.Micrometres(v))) },
	},
	recipe.Temperature: {
		now: func(q Question) float64 { return float64(q.Recipe.Temperature()) },
		set: func(q Question, _ Goal, v float64) recipe.Recipe {
			return q.Recipe.With(recipe.Of(recipe.Temperature), v)
		},
		snap: func(q Question, v float64) float64 { return min(math.Round(v), hottest(q)) },
	},
	recipe.Ratio: {
		now: func(q Question) float64 { return q.Recipe.Ratio() },
		set: func(q Question, goal Goal, v float64) recipe.Recipe {
			if goal == StrengthOf {
				return sameCup(q.Recipe, v, q.Gear.Brewer.Retained)
			}
			return q.Recipe.With(recipe.Of(recipe.Ratio), v)
		},
		snap: func(_ Question, v float64) float64 { return v }, // whole grams are as near as it gets
	},
}

// within is the range in which a knob is turned to reach a goal: its usual one,
// the temperature up to the boiling point of the place, and the ratio as far as it
// can be set, since a strength that a person asks for may need it.
func within(q Question, k recipe.Knob) units.Range {
	switch k {
	case recipe.Temperature:
		return units.Range{Lo: min(k.Usual().Lo, hottest(q)-5), Hi: hottest(q)}
	case recipe.Ratio:
		return k.Range()
	}
	return k.Usual()
}

func hottest(q Question) float64 { return float64(gear.Hottest(q.Gear.Boiling)) }

// sameCup changes the ratio and keeps what ends up in the cup.
func sameCup(r recipe.Recipe, ratio, retained float64) recipe.Recipe {
	cup := r.Amounts(retained).Cup
	a, err := recipe.Solve(recipe.Amounts{Ratio: ratio, Cup: cup}, [2]recipe.Knob{recipe.Ratio, recipe.Cup}, retained)
	if err != nil {
		return r.With(recipe.Of(recipe.Ratio), ratio)
	}
	return r.Weigh(a.Dose, a.Water)
}

// A Way is one knob turned until the model expects a goal, and what it expects
// then, or, where no setting does, why.
type Way struct {
	Knob   recipe.Knob
	Recipe recipe.Recipe
	Then   Forecast
	Err    error // a *UnreachableError, or what Of returns
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
			w.Err = w.Then.Ask(next)
		}
		out = append(out, w)
	}
	return out
}

// Reach turns one knob of a recipe until the model expects a goal of it: s of
// drawdown, % of yield, % TDS at the same cup. The knob is left where a person
// can set it: at a step of the dial, a whole degree. Where no setting in its range
// does, it returns an *UnreachableError.
func Reach(q Question, goal Goal, knob recipe.Knob, value float64) (recipe.Recipe, error) {
	a, known := aims[goal]
	t, turns := turns[knob]
	if !known || !turns {
		return q.Recipe, ErrUnsolvable
	}
	var f Forecast
	off := func(v float64) (float64, error) {
		next := q
		next.Recipe = t.set(q, goal, v)
		err := f.Ask(next)
		return a.read(f) - value, err
	}
	v, err := root(off, within(q, knob), t.now(q), a.near)
	var none noRoot
	switch {
	case err == nil:
		return t.set(q, goal, t.snap(q, v)), nil
	case errors.As(err, &none):
		return q.Recipe, &UnreachableError{knob, goal, units.Range{Lo: value + min(none.atLo, none.atHi), Hi: value + max(none.atLo, none.atHi)}}
	default:
		return q.Recipe, err
	}
}

// noRoot is the error of a range in which a function is never 0. It holds the function's values at both ends.
type noRoot struct{ atLo, atHi float64 }

func (noRoot) Error() string { return "no root" }

// root finds where a function that rises or falls over a range is 0, within
// near of it. From a start inside the range it steps outwards until the sign changes,
// then narrows down by false position with the Illinois rule: about seven calls,
// most of them near the start. Where there is no root it returns a noRoot.
func root(off func(float64) (float64, error), within units.Range, start, near float64) (float64, error) {
	start = max(within.Lo, min(within.Hi, start))
	v, err := off(start)
	if err != nil || math.Abs(v) <= near {
		return start, err
	}
	stride := (within.Hi - within.Lo) / 12
	if start+stride > within.Hi {
		stride = -stride
	}
	next, err := off(start + stride)
	if err != nil {
		return 0, err
	}
	a, b := point{start, v}, point{start + stride, next}
	if (b.off-a.off)*a.off > 0 { // away from 0: go the other way
		a, b, stride = b, a, -stride
	}
	for a.off*b.off > 0 {
		if b.at <= within.Lo || b.at >= within.Hi {
			return 0, ends(off, within)
		}
		stride *= 1.7
		a = b
		b.at = max(within.Lo, min(within.Hi, b.at+stride))
		if b.off, err = off(b.at); err != nil {
			return 0, err
		}
	}
	return narrow(off, a, b, near)
}

// point is a place and how far off it is.
type point struct{ at, off float64 }

// narrow finds the root between two points of different sign.
func narrow(off func(float64) (float64, error), a, b point, near float64) (float64, error) {
	const most = 30
	for range most {
		mid := (a.at*b.off - b.at*a.off) / (b.off - a.off)
		v, err := off(mid)
		if err != nil || math.Abs(v) <= near || math.Abs(b.at-a.at) < 1e-6 {
			return mid, err
		}
		if v*b.off < 0 {
			a = b
		} else {
			a.off /= 2
		}
		b = point{mid, v}
	}
	return b.at, nil
}

// ends returns the error noRoot with a function's values at the ends of its range.
func ends(off func(float64) (float64, error), within units.Range) error {
	lo, err := off(within.Lo)
	if err != nil {
		return err
	}
	hi, err := off(within.Hi)
	if err != nil {
		return err
	}
	return noRoot{lo, hi}
}

// ErrUnsolvable is returned for a knob that cannot be turned to reach a goal.
var ErrUnsolvable = errors.New("this goal cannot be reached by that knob")

// An UnreachableError says what the model sees over the whole range of a knob
// that does not reach a goal.
type UnreachableError struct {
	Knob recipe.Knob
	Goal Goal
	Seen units.Range // in the goal's unit: s or %
}

func (e *UnreachableError) Error() string {
	return fmt.Sprintf("%s: no %s does; the model sees %g to %g", e.Goal, e.Knob, e.Seen.Lo, e.Seen.Hi)
}

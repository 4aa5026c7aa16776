package forecast

import (
	"math"
	"sync"

	"yardbloom/core/cup"
	"yardbloom/core/recipe"
	"yardbloom/core/sim"
	"yardbloom/core/units"
)

// Outcome holds the measurable results of a brew.
type Outcome struct {
	Drawdown float64 // s
	Drained  bool
	Beverage float64 // g
	Yield    float64 // %, by the formula of the brewer's method
	Strength float64 // TDS, %
}

// Outcome returns the measurable results of a run of the model.
func (q Question) Outcome(r *sim.Result) Outcome {
	o := Outcome{float64(r.Drawdown), r.Drained, float64(r.Beverage), r.EY, r.TDS}
	if q.Recipe.Steeps() {
		o.Yield += r.Kept // a steep's yield includes the liquid in the grounds, at its own strength
	}
	return o
}

// The scatter between two brews of one recipe and the error of the model: standard deviations, relative for
// times and strengths.
const (
	scatterTime     = 0.06 // of the time that is not controlled by a valve
	scatterStrength = 0.02
	// of a blade, whose sizes differ each time by about an eighth
	scatterBlade         = 0.25
	scatterBladeStrength = 0.05
	wrongTime            = 0.04
	wrongStrength        = 0.015
	wrongBeverage        = 1.5 // g
)

// OwnError returns the error of a brew that no parameter explains: scatter and model error. free is the part of
// the drawdown that no valve controls, s.
func (q Question) OwnError(o Outcome, free float64) Outcome {
	time, strength := scatterTime, scatterStrength
	if !q.Gear.Grinder.Repeatable() {
		time, strength = scatterBlade, scatterBladeStrength
	}
	return Outcome{Drawdown: math.Hypot(time, wrongTime) * free, Beverage: wrongBeverage,
		Yield: math.Hypot(strength, wrongStrength) * o.Yield, Strength: math.Hypot(strength, wrongStrength) * o.Strength}
}

// Scatter returns the standard deviation between two brews of one recipe. free is the part of the drawdown that no valve controls, s.
func (q Question) Scatter(o Outcome, free float64) Outcome {
	if !q.Gear.Grinder.Repeatable() {
		return Outcome{Drawdown: scatterBlade * free, Yield: scatterBladeStrength * o.Yield, Strength: scatterBladeStrength * o.Strength}
	}
	return Outcome{Drawdown: scatterTime * free, Yield: scatterStrength * o.Yield, Strength: scatterStrength * o.Strength}
}

// results is a pool of buffers for the runs of a forecast.
var results = sync.Pool{New: func() any { return new(sim.Result) }}

// sides holds the outcomes with the parameters one standard deviation to either side along each column of
// the beliefs' root; ran marks the runs that succeeded.
type sides struct {
	at  [Parameters][2]Outcome
	ran [Parameters][2]bool
}

// runSides runs the model for all sides, several at a time.
func (q Question) runSides() *sides {
	var out sides
	brew, b := q.Brew(), q.beliefs()
	Parallel(2*int(Parameters), func(mine Indices) {
		r := results.Get().(*sim.Result)
		defer results.Put(r)
		for i := range mine {
			column, side := i/2, i%2
			theta := b.Mean
			for p := range theta {
				theta[p] += float64(1-2*side) * b.Root[p][column]
			}
			if sim.RunLumped(r, WithParameters(brew, theta)) == nil {
				out.at[column][side], out.ran[column][side] = q.Outcome(r), true
			}
		}
	})
	return &out
}

// anyMissing reports whether one side of any column is outside the model's range or stalls where the other does not.
func (s *sides) anyMissing() bool {
	for column := range s.at {
		if !s.ran[column][0] || !s.ran[column][1] || s.at[column][0].Drained != s.at[column][1].Drained {
			return true
		}
	}
	return false
}

// halfDifference returns half the difference between the two sides of a column or, if one of them stalls or is
// outside the model's range, the difference from the other.
func halfDifference(up, down, at float64, oneSided bool) float64 {
	switch {
	case !oneSided:
		return (up - down) / 2
	case math.Abs(up-at) < math.Abs(down-at):
		return up - at
	}
	return down - at
}

// spread computes the errors of a forecast: half the difference between the two sides of each column,
// combined with its own scatter.
func (f *Forecast) spread(q Question) {
	all, base := q.runSides(), q.Outcome(&f.Result)
	between := base // both sides at once, run like them
	if all.anyMissing() {
		r := results.Get().(*sim.Result)
		if sim.RunLumped(r, WithParameters(q.Brew(), q.beliefs().Mean)) == nil {
			between = q.Outcome(r)
		}
		results.Put(r)
	}
	var sum Outcome
	for column := range all.at {
		up, down := all.at[column][0], all.at[column][1]
		if !all.ran[column][0] {
			up = between
		}
		if !all.ran[column][1] {
			down = between
		}
		one := !all.ran[column][0] || !all.ran[column][1]
		sum.Drawdown += square(halfDifference(up.Drawdown, down.Drawdown, between.Drawdown, one || up.Drained != down.Drained))
		sum.Beverage += square(halfDifference(up.Beverage, down.Beverage, between.Beverage, one))
		sum.Yield += square(halfDifference(up.Yield, down.Yield, between.Yield, one))
		sum.Strength += square(halfDifference(up.Strength, down.Strength, between.Strength, one))
	}
	own := q.OwnError(base, base.Drawdown-float64(q.Brew().Release))
	f.Yield = cup.Figure{Value: base.Yield, Error: math.Sqrt(sum.Yield + square(own.Yield))}
	f.Strength = cup.Figure{Value: base.Strength, Error: math.Sqrt(sum.Strength + square(own.Strength))}
	f.BeverageError = units.Grams(math.Sqrt(sum.Beverage + square(own.Beverage)))
	f.DrawdownError = 0
	if f.Drained { // a stalled bed has no drawdown
		f.DrawdownError = units.Seconds(math.Sqrt(sum.Drawdown + square(own.Drawdown)))
	}
}

// The relative model error of a difference. Reports of what a hand or a stream does differ by half of the effect.
const (
	wrongDifference = 0.2
	wrongHand       = 0.5
)

// byHand lists the knobs whose effect depends on the hand.
var byHand = map[recipe.Knob]bool{recipe.HandAfter: true, recipe.PourHeight: true, recipe.PourPattern: true, recipe.Rate: true, recipe.Pours: true}

// AddErrors computes the errors of the effects of moves. Errors common to the recipe before and after a move,
// which are most of the error of either, cancel. It skips nil differences.
func AddErrors(q Question, moves []Move, differences []*Difference) {
	before := q.runSides()
	for i, d := range differences {
		if d != nil {
			moved := q
			moved.Recipe = q.Recipe.With(moves[i].Address, moves[i].To)
			wrong := wrongDifference
			if byHand[moves[i].Address.Knob] {
				wrong = wrongHand
			}
			d.sure(before, moved.runSides(), wrong)
		}
	}
}

func (d *Difference) sure(a, b *sides, wrong float64) {
	yield, time := square(wrong*d.Yield), square(wrong*float64(d.Time))
	both := [2]bool{true, true}
	for column := range a.at {
		if a.ran[column] != both || b.ran[column] != both {
			continue
		}
		from, to := a.at[column], b.at[column]
		yield += square((to[0].Yield - from[0].Yield - to[1].Yield + from[1].Yield) / 2)
		if from[0].Drained && from[1].Drained && to[0].Drained && to[1].Drained {
			time += square((to[0].Drawdown - from[0].Drawdown - to[1].Drawdown + from[1].Drawdown) / 2)
		}
	}
	d.YieldError, d.TimeError = math.Sqrt(yield), units.Seconds(math.Sqrt(time))
}

func square(v float64) float64 { return v * v }

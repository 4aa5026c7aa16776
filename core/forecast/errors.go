package forecast

import (
	"math"
	"sync"

	"yardbloom/core/cup"
	"yardbloom/core/sim"
	"yardbloom/core/units"
)

// Outcome is what can be measured of a brew.
type Outcome struct {
	Drawdown float64 // s
	Drained  bool
	Beverage float64 // g
	Yield    float64 // %, by the formula of the brewer's method
	Strength float64 // TDS, %
}

// Outcome is what can be measured of a run of the model for the question.
func (q Question) Outcome(r *sim.Result) Outcome {
	o := Outcome{float64(r.Drawdown), r.Drained, float64(r.Beverage), r.EY, r.TDS}
	if q.Recipe.Steeps() {
		o.Yield += r.Kept // a steep's yield counts what stays in the grounds, at its own strength
	}
	return o
}

// What two brews of one recipe differ by, and what the model itself leaves out: one
// standard deviation, as shares of a time or a strength.
const (
	scatterTime     = 0.06 // of the time that is not set by a valve's clock
	scatterStrength = 0.02
	wrongTime       = 0.04
	wrongStrength   = 0.015
	wrongBeverage   = 1.5 // g
)

// Own is the error of a brew that no parameter explains: its scatter and what the
// model leaves out. free is the part of the drawdown that no valve's clock sets, s.
func Own(o Outcome, free float64) Outcome {
	return Outcome{Drawdown: math.Hypot(scatterTime, wrongTime) * free, Beverage: wrongBeverage,
		Yield: math.Hypot(scatterStrength, wrongStrength) * o.Yield, Strength: math.Hypot(scatterStrength, wrongStrength) * o.Strength}
}

// results are buffers for the runs of one forecast.
var results = sync.Pool{New: func() any { return new(sim.Result) }}

// sides are the outcomes of a brew with the parameters one standard deviation to
// either side along each column of the beliefs' root; ran says which the model could make.
type sides struct {
	at  [Parameters][2]Outcome
	ran [Parameters][2]bool
}

// aside runs the brew of a question to all sides, several at a time.
func (q Question) aside() *sides {
	var out sides
	brew, b := q.Brew(), q.beliefs()
	Share(2*int(Parameters), func(mine Numbers) {
		r := results.Get().(*sim.Result)
		defer results.Put(r)
		for i := range mine {
			column, side := i/2, i%2
			theta := b.Mean
			for p := range theta {
				theta[p] += float64(1-2*side) * b.Root[p][column]
			}
			if sim.RunCoarse(r, Turned(brew, theta)) == nil {
				out.at[column][side], out.ran[column][side] = q.Outcome(r), true
			}
		}
	})
	return &out
}

// half is half of what lies between the two sides of a column, or, where one of them
// stalls or lies outside the model's ranges, the way to the nearer one.
func half(up, down, at float64, oneSided bool) float64 {
	switch {
	case !oneSided:
		return (up - down) / 2
	case math.Abs(up-at) < math.Abs(down-at):
		return up - at
	}
	return down - at
}

// spread works out the errors of a forecast: half of what lies between the two sides
// along each column is one part of the error, and its own scatter another.
func (f *Forecast) spread(q Question) {
	all, base := q.aside(), q.Outcome(&f.Result)
	var sum Outcome
	for column := range all.at {
		up, down := all.at[column][0], all.at[column][1]
		if !all.ran[column][0] {
			up = base
		}
		if !all.ran[column][1] {
			down = base
		}
		one := !all.ran[column][0] || !all.ran[column][1]
		sum.Drawdown += square(half(up.Drawdown, down.Drawdown, base.Drawdown, one || up.Drained != down.Drained))
		sum.Beverage += square(half(up.Beverage, down.Beverage, base.Beverage, one))
		sum.Yield += square(half(up.Yield, down.Yield, base.Yield, one))
		sum.Strength += square(half(up.Strength, down.Strength, base.Strength, one))
	}
	own := Own(base, base.Drawdown-float64(q.Brew().Release))
	f.Yield = cup.Figure{Value: base.Yield, Error: math.Sqrt(sum.Yield + square(own.Yield))}
	f.Strength = cup.Figure{Value: base.Strength, Error: math.Sqrt(sum.Strength + square(own.Strength))}
	f.BeverageError = units.Grams(math.Sqrt(sum.Beverage + square(own.Beverage)))
	f.DrawdownError = 0
	if f.Drained { // a bed that stalls has no time to be off by
		f.DrawdownError = units.Seconds(math.Sqrt(sum.Drawdown + square(own.Drawdown)))
	}
}

// wrongDifference is what the model leaves out of a difference, as a share of it.
const wrongDifference = 0.2

// Sure works out the errors of what moves change. What is common to the recipe
// before and after one, which is most of the error of either, drops out. A difference
// that is nil is left alone.
func Sure(q Question, moves []Move, differences []*Difference) {
	before := q.aside()
	for i, d := range differences {
		if d != nil {
			moved := q
			moved.Recipe = q.Recipe.With(moves[i].Address, moves[i].To)
			d.sure(before, moved.aside())
		}
	}
}

func (d *Difference) sure(a, b *sides) {
	yield, time := square(wrongDifference*d.Yield), square(wrongDifference*float64(d.Time))
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

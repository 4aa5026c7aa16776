package forecast

import (
	"math"
	"sync"
	"sync/atomic"

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

// Ask returns the outcome of a brew of the model.
func outcome(r *sim.Result, immersion bool) Outcome {
	o := Outcome{float64(r.Drawdown), r.Drained, float64(r.Beverage), r.EY, r.TDS}
	if immersion {
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

// spread works out the errors of a forecast: the model is run with the parameters one
// standard deviation to either side along each column of the beliefs' root, and half
// of what lies between the two is one part of the error.
func (f *Forecast) spread(q Question, brew sim.Brew, b *Beliefs) {
	const sides = 2
	var got [Parameters][sides]Outcome
	var ran [Parameters][sides]bool
	immersion := q.immersion()
	var next atomic.Int64
	var all sync.WaitGroup
	for range workers {
		all.Go(func() {
			r := results.Get().(*sim.Result)
			defer results.Put(r)
			for i := next.Add(1) - 1; i < int64(Parameters)*sides; i = next.Add(1) - 1 {
				column, side := i/sides, i%sides
				theta := b.Mean
				for p := range theta {
					theta[p] += float64(1-2*side) * b.Root[p][column]
				}
				if sim.RunCoarse(r, Turned(brew, theta)) == nil {
					got[column][side], ran[column][side] = outcome(r, immersion), true
				}
			}
		})
	}
	all.Wait()
	base := outcome(&f.Result, immersion)
	var sum Outcome
	for column := range got {
		up, down := got[column][0], got[column][1]
		if !ran[column][0] {
			up = base
		}
		if !ran[column][1] {
			down = base
		}
		half := func(up, down, at float64, oneSided bool) float64 {
			switch {
			case !oneSided:
				return (up - down) / 2
			case math.Abs(up-at) < math.Abs(down-at): // the other side stalls, or lies outside the model's ranges
				return up - at
			}
			return down - at
		}
		one := !ran[column][0] || !ran[column][1]
		add := func(to *float64, half float64) { *to += half * half }
		add(&sum.Drawdown, half(up.Drawdown, down.Drawdown, base.Drawdown, one || up.Drained != down.Drained))
		add(&sum.Beverage, half(up.Beverage, down.Beverage, base.Beverage, one))
		add(&sum.Yield, half(up.Yield, down.Yield, base.Yield, one))
		add(&sum.Strength, half(up.Strength, down.Strength, base.Strength, one))
	}
	own := Own(base, base.Drawdown-float64(brew.Release))
	f.Yield = cup.Figure{Value: base.Yield, Error: math.Sqrt(sum.Yield + own.Yield*own.Yield)}
	f.Strength = cup.Figure{Value: base.Strength, Error: math.Sqrt(sum.Strength + own.Strength*own.Strength)}
	f.BeverageError = units.Grams(math.Sqrt(sum.Beverage + own.Beverage*own.Beverage))
	f.DrawdownError = 0
	if f.Drained { // a bed that stalls has no time to be off by
		f.DrawdownError = units.Seconds(math.Sqrt(sum.Drawdown + own.Drawdown*own.Drawdown))
	}
}

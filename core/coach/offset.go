package coach

import (
	"math"

	"yardbloom/core/forecast"
	"yardbloom/core/units"
)

// An offset is how far the brews of a bag lie from what the model expects of them, on the
// mean: as measured, or else as their drawdowns tell.
type offset struct {
	n, yields, strengths float64
	timed, times         float64 // how many drawdowns, and the sum of the logarithms of measured over predicted
}

// perDrawdown is how many points of yield go with a drawdown that is longer by a factor
// of e, where the grind is what made it so.
const perDrawdown = 3.5

// count adds a brew to the offset.
func (o *offset) count(c Case, f forecast.Forecast) {
	timed := c.Cup.Drawdown > 0 && f.Drained && f.Drawdown > 0 && !c.Recipe.Steeps()
	late := 0.0
	if timed {
		late = max(-0.8, min(0.8, math.Log(float64(c.Cup.Drawdown/f.Drawdown))))
		o.timed, o.times = o.timed+1, o.times+late
	}
	if y, ok := c.Yield(); ok {
		o.n, o.yields, o.strengths = o.n+1, o.yields+y.Value-f.Yield.Value, o.strengths+c.Cup.TDS-f.TDS
		return
	}
	if timed {
		points := max(-2, min(2, perDrawdown*late))
		o.n, o.yields, o.strengths = o.n+1, o.yields+points, o.strengths+points/f.Yield.Value*f.TDS
	}
}

// half is what the model's own word counts for, in brews.
const half = 0.5

// of is where the next brew of a recipe lies.
func (o offset) of(f forecast.Forecast) spot {
	return spot{f.Yield.Value + o.yields/(o.n+half), f.TDS + o.strengths/(o.n+half)}
}

// cup is where a cup lies: by its recipe, and, where it was measured, partly by its own figures.
func (o offset) cup(c Case, f forecast.Forecast) spot {
	const own = 0.4 // of what a cup's own reading says; the rest is the instruments' error
	at := o.of(f)
	if y, ok := c.Yield(); ok {
		at.yield += own * (y.Value - at.yield)
		at.strength += own * (c.Cup.TDS - at.strength)
	}
	return at
}

// slower is how much longer this bag's brews take than the model expects.
func (o offset) slower() float64 { return math.Exp(o.times / (o.timed + half/4)) }

// How far a drawdown may lie from the prediction, as a share of it: for a first brew, and
// from brew to brew.
const firstTime, brewToBrew = 0.2, 0.08

// lag is how much later a brew drained than was predicted, by the model and the brews before it.
func (o offset) lag(c Case, f forecast.Forecast) lag {
	if c.Cup.Drawdown <= 0 || !f.Drained || f.Drawdown <= 0 || c.Recipe.Steeps() {
		return lag{}
	}
	predicted, off := f.Drawdown, math.Hypot(firstTime, brewToBrew)
	if o.timed > 0 {
		predicted, off = predicted*units.Seconds(math.Exp(o.times/o.timed)), brewToBrew*math.Sqrt(1+1/o.timed)
	}
	return lag{by: c.Cup.Drawdown - predicted, errors: math.Log(float64(c.Cup.Drawdown/predicted)) / off}
}

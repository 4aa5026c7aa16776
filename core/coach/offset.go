package coach

import (
	"math"

	"yardbloom/core/forecast"
	"yardbloom/core/units"
)

// An offset is the mean deviation of a bag's brews from the model's predictions, from measurements or else
// from drawdowns.
type offset struct {
	n, yields, strengths float64
	timed, times         float64 // number of drawdowns, and sum of ln(measured / predicted)
	measured             float64 // number of measured brews
}

// perDrawdown is the change of the yield, in points, for a drawdown longer by a factor of e because of the
// grind.
const perDrawdown = 3.5

// count includes a brew.
func (o *offset) count(c Case, f forecast.Forecast) {
	timed := c.Cup.Drawdown > 0 && f.Drained && f.Drawdown > 0 && !c.Recipe.Steeps()
	late := 0.0
	if timed {
		late = max(-0.8, min(0.8, math.Log(float64(c.Cup.Drawdown/f.Drawdown))))
		o.timed, o.times = o.timed+1, o.times+late
	}
	if y, ok := c.Yield(); ok {
		o.n, o.yields, o.strengths = o.n+1, o.yields+y.Value-f.Yield.Value, o.strengths+c.Cup.TDS-f.TDS
		o.measured++
		return
	}
	if timed {
		points := max(-2, min(2, perDrawdown*late))
		o.n, o.yields, o.strengths = o.n+1, o.yields+points, o.strengths+points/f.Yield.Value*f.TDS
	}
}

// half is the weight of the model's own prediction, in brews.
const half = 0.5

// of returns the expected position of the next brew of a recipe.
func (o offset) of(f forecast.Forecast) spot {
	return spot{f.Yield.Value + o.yields/(o.n+half), f.TDS + o.strengths/(o.n+half)}
}

// error returns the standard error of the offset, in points of yield.
func (o offset) error() float64 {
	const unmeasured, measured = 1.1, 0.5 // of a bag, by its drawdowns alone; and of one measured brew
	if o.measured == 0 {
		return unmeasured
	}
	return measured / math.Sqrt(o.measured)
}

// cup returns the estimated position of a cup: by its recipe and, if it was measured, partly by its own
// figures.
func (o offset) cup(c Case, f forecast.Forecast) spot {
	const own = 0.4 // weight of the cup's own measurement; the rest is instrument error
	at := o.of(f)
	if y, ok := c.Yield(); ok {
		at.yield += own * (y.Value - at.yield)
		at.strength += own * (c.Cup.TDS - at.strength)
	}
	return at
}

// slower returns the ratio of this bag's drawdowns to the predicted ones.
func (o offset) slower() float64 { return math.Exp(o.times / (o.timed + half/4)) }

// The relative standard deviation of a drawdown from the prediction: for a first brew, and between brews.
const firstTime, brewToBrew = 0.2, 0.08

// lag returns the delay of a drawdown against the prediction by the model and the earlier brews.
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

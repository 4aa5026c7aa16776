package coach

import (
	"math"
	"slices"

	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A choice is one change with what the model and the aim expect of it.
type choice struct {
	recipe.Change
	then forecast.Forecast
	mark float64 // expected
	gain float64 // of the mark, less the price of a large change
	help float64 // probability that it is liked more
}

// question asks the model about a case.
func (c Case) question() forecast.Question {
	return forecast.Question{Recipe: c.Recipe, Bag: c.Bag, Now: c.Now, Gear: c.Gear, Beliefs: c.Beliefs}
}

// sizes are how far each knob may be turned at once, up and down, in its own steps.
var sizes = map[recipe.Knob][]float64{
	recipe.Grind:       {1, 2, 3, 4, 5},
	recipe.Temperature: {2, 4, 6},
	recipe.Ratio:       {0.5, 1, 1.5, 2, 2.5},
	recipe.BloomTime:   {15, 30},
	recipe.Release:     {15, 30, 45, 60},
}

// spans are about the largest turn of each knob, in its unit.
var spans = map[recipe.Knob]float64{recipe.Grind: 125, recipe.Temperature: 6, recipe.Ratio: 2.5, recipe.BloomTime: 60, recipe.Release: 60}

// prices are what the largest turn of a knob costs, in marks; half of it costs a quarter. Of
// two changes that promise the same, the smaller is made, and by the knob that most turn first.
var prices = map[recipe.Knob]float64{recipe.Grind: 0.35, recipe.Temperature: 0.2, recipe.Ratio: 0.3, recipe.BloomTime: 0.3, recipe.Release: 0.2}

// candidates are the changes that the gear allows.
func (c Case) candidates() []recipe.Change {
	var out []recipe.Change
	for _, k := range []recipe.Knob{recipe.Grind, recipe.Temperature, recipe.Ratio, recipe.BloomTime, recipe.Release} {
		at := recipe.Of(k)
		if !c.Recipe.Has(at) {
			continue
		}
		from, limits := c.Recipe.Value(at), k.Usual()
		step := 1.0
		switch k {
		case recipe.Grind:
			if step = math.Abs(float64(c.Gear.Grinder.Step)); step == 0 {
				step = 40
			}
			from = float64(c.Gear.Grinder.Snap(units.Micrometres(from)))
		case recipe.Temperature:
			limits.Hi = float64(gear.Hottest(c.Gear.Boiling))
		}
		for _, n := range sizes[k] {
			for _, to := range []float64{from - n*step, from + n*step} {
				shorter := k == recipe.BloomTime && to < from // leaves grounds dry, which mends nothing
				if limits.Holds(to) && !shorter {
					out = append(out, recipe.Change{Address: at, From: c.Recipe.Value(at), To: to})
				}
			}
		}
	}
	return out
}

// A weighing is what the brews of a bag so far leave: where the aim lies, how likely the
// last bed was uneven, what the model expects of the last recipe, and the choices.
type weighing struct {
	aim     aim
	uneven  float64
	now     forecast.Forecast
	off     offset
	mark    float64 // expected of the recipe as it is
	choices []choice
}

// weigh goes through the brews of a bag up to this one.
func (c Case) weigh() weighing {
	w := weighing{aim: newAim()}
	path := append(slices.Clone(c.Path), c)
	expected := make([]forecast.Forecast, len(path))
	for i, past := range path {
		past.Beliefs = c.Beliefs
		if expected[i].Ask(past.question()) != nil {
			continue
		}
		w.off.count(past, expected[i])
		w.now = expected[i]
	}
	for i, past := range path {
		if expected[i].Drawdown > 0 {
			w.uneven = w.aim.learn(past, w.off.yield(expected[i]), w.off.strength(expected[i]))
		}
	}
	w.mark = w.aim.mark(w.off.yield(w.now), w.off.strength(w.now))
	changes := c.candidates()
	q := c.question()
	forecasts := make([]forecast.Forecast, len(changes))
	forecast.Share(len(changes), func(mine forecast.Numbers) {
		for i := range mine {
			turned := q
			turned.Recipe = q.Recipe.With(changes[i].Address, changes[i].To)
			if forecasts[i].Ask(turned) != nil {
				forecasts[i].Drained = false
			}
		}
	})
	for i, change := range changes {
		w.add(c, change, forecasts[i])
	}
	return w
}

// outside is how far past the window a drawdown may be turned, in seconds. The clock is
// evidence, not the verdict, so a cup may lie there; but nobody is sent further at one go.
const outside = 30

// strays says that a change takes the drawdown out of the window, or further out.
func (c Case) strays(now, then units.Seconds) bool {
	return then > now && then > c.Window.To+outside || then < now && then < c.Window.From-outside
}

// add weighs one change, unless it leads to a clog or out of the window.
func (w *weighing) add(c Case, change recipe.Change, f forecast.Forecast) {
	slower := 1.0 // this brew against what was expected of it
	if c.Cup.Drawdown > 0 && w.now.Drawdown > 0 {
		slower = float64(c.Cup.Drawdown / w.now.Drawdown)
	}
	x := choice{Change: change, then: f, mark: w.aim.mark(w.off.yield(f), w.off.strength(f))}
	x.gain = x.mark - w.mark - prices[change.Knob]*math.Pow((change.To-change.From)/spans[change.Knob], 2) - c.against(change)
	strays := !c.Recipe.Steeps() && c.strays(w.now.Drawdown*units.Seconds(slower), f.Drawdown*units.Seconds(slower))
	if !f.Drained || strays || c.refuses(change) {
		return
	}
	x.help = w.aim.better(w.off, f, w.now)
	w.choices = append(w.choices, x)
}

// refuses says that a change goes against what was seen: finer where the bed nearly clogs.
func (c Case) refuses(change recipe.Change) bool {
	return change.Knob == recipe.Grind && change.To < change.From && (stalled(c) != "" || clogging(c) != "")
}

// against is what a change costs besides, in marks, for going against the clock: finer
// where it drains late already, coarser where it drains early, or in time and is only
// bitter: cooler water leaves the flow as it is. Time is evidence, not the verdict.
func (c Case) against(change recipe.Change) float64 {
	const clock, goodFlow = 0.3, 0.6
	finer := change.To < change.From
	switch {
	case change.Knob != recipe.Grind:
	case finer && slow(c) != "", !finer && fast(c) != "":
		return clock
	case !finer && onTime(c) != "" && harsh(c) != "":
		return goodFlow
	}
	return 0
}

// An offset is how far the brews of a bag lie from what the model expects of them, on the
// mean: as measured, or else as their drawdowns tell.
type offset struct{ n, yields, strengths float64 }

// perDrawdown is how many points of yield go with a drawdown that is longer by a factor
// of e, where the grind is what made it so.
const perDrawdown = 3.5

// count adds a brew to the offset.
func (o *offset) count(c Case, f forecast.Forecast) {
	if y, ok := c.Yield(); ok {
		o.n, o.yields, o.strengths = o.n+1, o.yields+y.Value-f.Yield.Value, o.strengths+c.Cup.TDS-f.TDS
		return
	}
	if c.Cup.Drawdown <= 0 || !f.Drained || c.Recipe.Steeps() {
		return
	}
	points := perDrawdown * math.Log(float64(c.Cup.Drawdown/f.Drawdown))
	points = max(-2, min(2, points))
	o.n, o.yields, o.strengths = o.n+1, o.yields+points, o.strengths+points/f.Yield.Value*f.TDS
}

// half is what the model's own word counts for, in brews.
const half = 0.5

func (o offset) yield(f forecast.Forecast) float64    { return f.Yield.Value + o.yields/(o.n+half) }
func (o offset) strength(f forecast.Forecast) float64 { return f.TDS + o.strengths/(o.n+half) }

package forecast

import (
	"time"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/sim"
	"yardbloom/core/units"
)

// roasts are what water can take along, as a share of the dry dose, how fast, and
// how long the gas stays, by roast: a dark roast has lost some solubles and gives
// the rest up more easily; a light one is dense and lets its gas go slowly.
var roasts = map[coffee.Roast]struct{ solubles, rate, gas float64 }{
	coffee.Light: {0.285, 0.88, 1.2}, coffee.MediumLight: {0.29, 1, 1.1}, coffee.Medium: {0.29, 1.08, 1},
	coffee.MediumDark: {0.28, 1.18, 0.9}, coffee.Dark: {0.27, 1.3, 0.8},
}

// warmTo is what a rinse leaves a brewer at, °C: the heavier, the more it keeps.
var warmTo = map[gear.Material]units.Celsius{gear.Plastic: 60, gear.Metal: 65, gear.Glass: 70, gear.Ceramic: 72}

// fallOf is how far a stream falls, m.
var fallOf = map[recipe.Height]float64{recipe.Low: 0.03, recipe.Mid: 0.10, recipe.High: 0.20}

var patternOf = map[recipe.Pattern]sim.Pattern{recipe.Centre: sim.Centre, recipe.Circles: sim.Circles, recipe.Spiral: sim.Spiral, recipe.Ring: sim.Ring}

// pattern of a pour; one that is not known counts as a spiral, the usual one.
func pattern(p recipe.Pattern) sim.Pattern {
	if known, ok := patternOf[p]; ok {
		return known
	}
	return sim.Spiral
}

var motionOf = map[recipe.Hand]sim.Motion{recipe.Tap: sim.Tap, recipe.Swirl: sim.Swirl, recipe.StirBed: sim.Stir, recipe.NeedleStir: sim.NeedleStir, recipe.SurfaceStir: sim.SurfaceStir}

// Brew returns what the model is asked for a recipe.
func Brew(q Question) sim.Brew {
	r, g := q.Recipe, q.Gear
	b := sim.Brew{
		Dose:   r.Dose,
		Coffee: coffeeOf(q.Bag, q.Now),
		Grind:  grindOf(r.Grind, g.Grinder),
		Brewer: Brewer(g.Brewer), Filter: sim.Filters[g.Brewer.Filter],
		Bed: q.Bed, Ambient: q.Air(), Warm: q.Air(),
		Kettle: kettleOf(g.Kettle, r.Water), Below: q.below(),
	}
	if r.Rinse {
		b.Warm = warmTo[g.Brewer.Material]
	}
	steps := q.steps()
	for i, s := range steps {
		switch s.Act {
		case recipe.Pour:
			p := sim.Pour{Water: s.Water, Start: s.Start, Rate: s.Rate, Temperature: s.Temperature, Height: fallOf[s.Height], Pattern: pattern(s.Pattern), Then: motionOf[s.Then]}
			if s.WhenDrained && i > 0 { // not by the clock: as soon as the one before has sunk in
				p.WhenDrained, p.Start = true, steps[i-1].Start
			}
			b.Pours = append(b.Pours, p)
		case recipe.Stir:
			b.Hands = append(b.Hands, sim.Hand{At: s.Start, Motion: sim.Stir})
		case recipe.Release:
			b.Release = s.Start
		}
	}
	return b
}

func kettleOf(k gear.Kettle, water units.Grams) sim.Kettle {
	if k.Thermostat || k.Capacity == 0 { // none is known: every pour has what it asks for
		return sim.Kettle{}
	}
	return sim.Kettle{Water: k.Fill(water), Rate: k.Rate()}
}

// below is what the brew runs into: where nothing is said, a glass carafe that
// the rinse has warmed.
func (q Question) below() sim.Below {
	if q.Below != nil {
		return *q.Below
	}
	const rinsed = 40
	b := sim.Carafes[gear.Glass]
	b.Warm = q.Air()
	if q.Recipe.Rinse {
		b.Warm = rinsed
	}
	return b
}

func (q Question) steps() []recipe.Step {
	if q.Steps != nil {
		return q.Steps
	}
	return q.Recipe.Plan().Steps
}

// usualRoom is the temperature of the air where none is given, °C.
const usualRoom = 21

// Air is the temperature of the room.
func (q Question) Air() units.Celsius {
	if q.Room == nil {
		return usualRoom
	}
	return *q.Room
}

func coffeeOf(b coffee.Bag, now time.Time) sim.Coffee {
	const fresh, rested = 0.8, 0.2 // gas in a coffee of some days and of some weeks
	r, ok := roasts[b.Roast]
	if !ok {
		r = roasts[coffee.Medium]
	}
	c := sim.Coffee{Soluble: r.solubles, Rate: r.rate, Gas: rested * r.gas}
	switch b.Freshness(now) {
	case coffee.TooFresh:
		c.Gas = fresh * r.gas
	case coffee.GettingOld:
		c.Gas, c.Soluble = 0, c.Soluble-0.015
	}
	if b.Process == coffee.Decaf {
		c.Rate *= 1.1
	}
	return c
}

// grindOf is the distribution that a grinder makes at a median size.
func grindOf(size units.Micrometres, g gear.Grinder) sim.Grind {
	mill, ok := sim.Mills[g.Burrs]
	if !ok {
		mill = sim.Mills[gear.ConicalBurr]
	}
	return mill.Grind(size)
}

// Brewer is the geometry of a kind and size in the brewer's own material, with its
// rim where it holds what the person said.
func Brewer(b gear.Brewer) sim.Brewer {
	const large units.Grams = 550
	sizes := brewers[b.Kind]
	out := sizes[0]
	if b.Holds >= large {
		out = sizes[1]
	}
	if b.Holds > 0 {
		out = out.Holding(b.Holds)
	}
	if m, ok := sim.Materials[b.Material]; ok {
		return out.Of(m)
	}
	return out
}

// brewers are the two sizes of each kind.
var brewers = map[gear.BrewerKind][2]sim.Brewer{
	gear.OpenCone:     {sim.OpenConeSmall, sim.OpenConeLarge},
	gear.FlatBed:      {sim.FlatBedSmall, sim.FlatBedLarge},
	gear.HeavyCone:    {sim.HeavyConeSmall, sim.HeavyConeLarge},
	gear.ValveSteeper: {sim.SteeperSmall, sim.SteeperLarge},
}

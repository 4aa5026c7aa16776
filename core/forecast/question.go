package forecast

import (
	"cmp"
	"errors"
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
	coffee.Light: {0.277, 0.88, 1.2}, coffee.MediumLight: {0.282, 1, 1.1}, coffee.Medium: {0.282, 1.08, 1},
	coffee.MediumDark: {0.273, 1.18, 0.9}, coffee.Dark: {0.264, 1.3, 0.8},
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

// A Question is everything that a prediction of a brew needs.
type Question struct {
	Recipe recipe.Recipe
	Bag    coffee.Bag
	Gear   gear.Set
	Now    time.Time
	// Room is the temperature of the air; nil for the usual one.
	Room *units.Celsius
	// Carafe is what the brew runs into, the recipe's where it is empty, and CarafeWarm its
	// temperature; nil for what the rinse leaves it at.
	Carafe     gear.Material
	CarafeWarm *units.Celsius
	// Bed is how uneven the dry bed lies, 0 to 1.
	Bed float64
	// Beliefs are what is believed of the gear and the coffee; nil for the prior.
	Beliefs *Beliefs
	// Habits are how the person begins a coffee, and Reads how they read quantities.
	Habits recipe.Habits
	Reads  units.Prefs
}

// prior is what is believed where nothing was measured.
var prior = Prior()

func (q Question) beliefs() *Beliefs {
	if q.Beliefs == nil {
		return prior
	}
	return q.Beliefs
}

// Brew returns the brew as the model takes it, in its own units.
func (q Question) Brew() sim.Brew { return q.brew(q.Recipe.Plan()) }

func (q Question) brew(plan recipe.Plan) sim.Brew {
	r, g := q.Recipe, q.Gear
	b := sim.Brew{
		Dose:   r.Dose,
		Coffee: coffeeOf(q.Bag, q.Now),
		Grind:  grindOf(r.Grind, g.Grinder),
		Brewer: Brewer(g.Brewer), Filter: sim.Filters[g.Brewer.Filter],
		Bed: q.Bed, Ambient: q.Air(), Warm: q.Air(),
		Kettle: kettleOf(g.Kettle, r.Water()), Below: q.below(),
		Pours: make([]sim.Pour, 0, len(r.Pours)),
	}
	if r.Rinse {
		b.Warm = warmTo[g.Brewer.Material]
	}
	for i, s := range plan.Steps {
		switch s.Act {
		case recipe.PourWater:
			p := sim.Pour{Water: s.Water, Start: s.Start, Rate: s.Rate, Temperature: s.Temperature, Height: fallOf[s.Height], Pattern: pattern(s.Pattern), Then: motionOf[s.Then]}
			if s.WhenDrained && i > 0 { // not by the clock: as soon as the one before has sunk in
				p.WhenDrained, p.Start = true, plan.Steps[i-1].Start
			}
			b.Pours = append(b.Pours, p)
		case recipe.BreakCrust:
			b.Hands = append(b.Hands, sim.Hand{At: s.Start, Motion: sim.Stir})
		case recipe.OpenValve:
			b.Release = s.Start
		}
	}
	return b
}

// places are the names in the model of what can be turned for one pour.
var places = map[string]recipe.Knob{"water": recipe.Water, "start": recipe.Start, "rate": recipe.Rate, "temperature": recipe.Temperature,
	"height": recipe.PourHeight, "pattern": recipe.PourPattern}

// wholes are the names in the model of what can be turned for a whole recipe.
var wholes = map[string]recipe.Knob{"dose": recipe.Dose, "grind.median": recipe.Grind, "water": recipe.Water, "release": recipe.Release, "pours": recipe.Pours}

// addressed gives a value that the model refused its address on the recipe. What
// the recipe has no address for keeps the model's own name.
func addressed(err error) error {
	var wrong *units.ValueError
	if !errors.As(err, &wrong) {
		return err
	}
	at, _ := wrong.At.(units.Place)
	out := *wrong
	switch {
	case at.List == "" && wholes[at.Name] != "":
		out.At = recipe.Of(wholes[at.Name])
	case at.List == "pours" && places[at.Name] != "":
		out.At = recipe.Address{Knob: places[at.Name], Pour: at.Index + 1}
	case at.List == "hands": // a steeper's crust is broken so long before its valve opens
		out.At = recipe.Of(recipe.Release)
	}
	return &out
}

func kettleOf(k gear.Kettle, water units.Grams) sim.Kettle {
	if k.Thermostat || k.Capacity == 0 { // none is known: every pour has what it asks for
		return sim.Kettle{}
	}
	return sim.Kettle{Water: k.Fill(water), Rate: k.Rate()}
}

// below is what the brew runs into, with ice in it and water added afterwards.
func (q Question) below() sim.Below {
	const rinsed = 40 // °C, of a carafe that the rinse ran through
	b, ok := sim.Carafes[cmp.Or(q.Carafe, q.Recipe.Carafe)]
	if !ok {
		b = sim.Carafes[gear.Glass]
	}
	ice, dilution := q.Recipe.Ice, q.Recipe.Dilution
	b.Ice = sim.Ice{Mass: ice.Mass, Celsius: ice.Temperature, Wet: ice.Wet}
	b.Dilution, b.Added = dilution.Water, dilution.Temperature
	switch {
	case q.CarafeWarm != nil:
		b.Warm = *q.CarafeWarm
	case q.Recipe.Rinse && ice.Mass == 0:
		b.Warm = rinsed
	default:
		b.Warm = q.Air()
	}
	return b
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

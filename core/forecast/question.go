package forecast

import (
	"cmp"
	"errors"
	"math"
	"time"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/sim"
	"yardbloom/core/units"
)

// roasts holds, by roast, the soluble share of the dry dose, the relative extraction rate, and the decay
// time of the gas. A dark roast has lost some solubles and extracts more easily; a light one is dense and
// degasses slowly.
var roasts = map[coffee.Roast]struct{ solubles, rate, gas float64 }{
	coffee.Light: {0.298, 0.88, 1.2}, coffee.MediumLight: {0.303, 1, 1.1}, coffee.Medium: {0.303, 1.08, 1},
	coffee.MediumDark: {0.293, 1.18, 0.9}, coffee.Dark: {0.284, 1.3, 0.8},
}

// rinsedTemperature is the temperature of a brewer after a rinse, °C: higher for heavier materials.
var rinsedTemperature = map[gear.Material]units.Celsius{gear.Plastic: 60, gear.Metal: 65, gear.Glass: 70, gear.Ceramic: 72,
	gear.Double: 66}

// fallHeight is the height of fall of a stream, m.
var fallHeight = map[recipe.Height]float64{recipe.Low: 0.03, recipe.Mid: 0.10, recipe.High: 0.20}

var patternOf = map[recipe.Pattern]sim.Pattern{recipe.Centre: sim.Centre, recipe.Circles: sim.Circles, recipe.Spiral: sim.Spiral,
	recipe.Ring: sim.Ring, recipe.Scatter: sim.Scatter}

// pattern returns the model's pattern of a pour. An unknown one counts as a spiral.
func pattern(p recipe.Pattern) sim.Pattern {
	if known, ok := patternOf[p]; ok {
		return known
	}
	return sim.Spiral
}

var motionOf = map[recipe.HandAction]sim.Motion{recipe.Tap: sim.Tap, recipe.Swirl: sim.Swirl, recipe.StirBed: sim.Stir,
	recipe.NeedleStir: sim.NeedleStir, recipe.SurfaceStir: sim.SurfaceStir, recipe.WashWall: sim.WashWall}

// A Question is the input of a prediction.
type Question struct {
	Recipe recipe.Recipe
	Bag    coffee.Bag
	Gear   gear.Set
	Now    time.Time
	// Room is the air temperature; nil for the default.
	Room *units.Celsius
	// Carafe is the material of the carafe, the recipe's if empty. CarafeWarm is its temperature; nil for
	// that after a rinse.
	Carafe     gear.Material
	CarafeWarm *units.Celsius
	// Bed is the unevenness of the dry bed, 0 to 1.
	Bed float64
	// Blocked is the share of the flow of one side that was kept back: by a collapsed ridge or a blocked outlet.
	Blocked float64
	// Beliefs are the beliefs about gear and coffee; nil for the prior.
	Beliefs *Beliefs
	// Habits are the person's defaults for a new coffee, Reads their units.
	Habits recipe.Habits
	Prefs  units.Prefs
}

// prior is the default of Beliefs.
var prior = Prior()

func (q Question) beliefs() *Beliefs {
	if q.Beliefs == nil {
		return prior
	}
	return q.Beliefs
}

// Brew returns the brew in the units of the model.
func (q Question) Brew() sim.Brew { return q.brew(q.Recipe.Plan()) }

func (q Question) brew(plan recipe.Plan) sim.Brew {
	r, g := q.Recipe, q.Gear
	b := sim.Brew{
		Dose:   r.Dose,
		Coffee: q.coffee(),
		Grind:  grindOf(r.Grind, g.Grinder),
		Brewer: Brewer(g.Brewer), Filter: sim.Filters[g.Brewer.Filter],
		Bed: q.Bed, Ambient: q.Air(), Warm: q.Air(),
		Below: q.below(),
		Pours: make([]sim.Pour, 0, len(r.Pours)),
	}
	first, second := r.Sources(g)
	if !r.Reheat {
		b.Kettle = kettleOf(g.Kettle, first)
	}
	b.Second = kettleOf(g.Second, second)
	b.Brewer.Blocked = q.Blocked
	b.Grind.Flow, b.WaterFirst = math.Exp(flowOf(q.Bag)), r.Steeps() && r.WaterFirst
	if r.Rinse {
		b.Warm = rinsedTemperature[g.Brewer.Material]
	}
	for i, s := range plan.Steps {
		switch s.Act {
		case recipe.PourWater:
			p := sim.Pour{Water: s.Water, Start: s.Start, Rate: s.Rate, Temperature: s.Temperature, Height: fallHeight[s.Height],
				Pattern: pattern(s.Pattern), Then: motionOf[s.Then], Second: s.Second && g.Second.ID != ""}
			if r.Screen {
				p.Pattern = sim.Screen
			}
			if s.Cue.ByEye() && i > 0 { // not timed: as soon as the previous pour has drained
				p.WhenDrained, p.ToDrips, p.Start = true, s.Cue == recipe.ForDrips, plan.Steps[i-1].Start
			}
			b.Pours = append(b.Pours, p)
		case recipe.BreakCrust:
			b.Hands = append(b.Hands, sim.HandMotion{At: s.Start, Motion: sim.Stir})
		case recipe.OpenValve:
			b.Release = s.Start
		}
	}
	return b
}

// pourNames maps the model's names of the values of a pour to knobs.
var pourNames = map[string]recipe.Knob{"water": recipe.Water, "start": recipe.Start, "rate": recipe.Rate, "temperature": recipe.Temperature,
	"height": recipe.PourHeight, "pattern": recipe.PourPattern}

// recipeNames maps the model's names of the values of a whole recipe to knobs.
var recipeNames = map[string]recipe.Knob{"dose": recipe.Dose, "grind.median": recipe.Grind, "water": recipe.Water, "release": recipe.Release,
	"pours": recipe.Pours}

// addressed converts the name of a value that the model refused to its address on the recipe. It keeps the
// model's name if there is no address.
func addressed(err error) error {
	var wrong *units.ValueError
	if !errors.As(err, &wrong) {
		return err
	}
	at, _ := wrong.At.(units.Place)
	out := *wrong
	switch {
	case at.List == "" && recipeNames[at.Name] != "":
		out.At = recipe.AddressOf(recipeNames[at.Name])
	case at.List == "pours" && pourNames[at.Name] != "":
		out.At = recipe.Address{Knob: pourNames[at.Name], Pour: at.Index + 1}
	case at.List == "hands": // the crust is broken a fixed time before the valve opens
		out.At = recipe.AddressOf(recipe.Release)
	}
	return &out
}

func kettleOf(k gear.Kettle, water units.Grams) sim.Kettle {
	if k.Thermostat || k.Capacity == 0 { // no cooling: every pour has its set temperature
		return sim.Kettle{}
	}
	return sim.Kettle{Water: k.Fill(water), Rate: k.Rate()}
}

// below returns the carafe, with its ice and the dilution water.
func (q Question) below() sim.Below {
	const rinsed = 40 // °C, of a carafe that was rinsed with the filter
	b, ok := sim.Carafes[cmp.Or(q.Carafe, q.Recipe.Carafe)]
	if !ok {
		b = sim.Carafes[gear.Glass]
	}
	ice, dilution := q.Recipe.Ice, q.Recipe.Dilution
	b.Ice = sim.Ice{Mass: ice.Mass, Celsius: ice.Temperature, Wet: ice.Wet}
	b.Dilution, b.Added = dilution.Water, dilution.Temperature
	b.Discard, b.CutAt = q.Recipe.Discard, q.Recipe.CutAt
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

// SlowSide is Blocked for a brew that was seen to drain on one side only.
const SlowSide = 0.7

// usualRoom is the default air temperature, °C.
const usualRoom = 21

// Air returns the air temperature.
func (q Question) Air() units.Celsius {
	if q.Room == nil {
		return usualRoom
	}
	return *q.Room
}

func coffeeOf(b coffee.Bag, now time.Time) sim.Coffee {
	const fresh, rested = 0.8, 0.2 // gas in a fresh and in a rested coffee
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

// coffee returns the coffee as it extracts in the water of the gear. Without a known water it is an ordinary one.
func (q Question) coffee() sim.Coffee {
	c := coffeeOf(q.Bag, q.Now)
	if q.Gear.Water.ID != "" {
		c.Rate *= q.Gear.Water.Hastens()
	}
	return c
}

// acidPerSolids is the titratable acid of a roast, meq per g of dissolved solids. About an eighth of the solids of a light brew
// are chlorogenic acids of 354 g/mol, and a twentieth are citric, malic and quinic acid, partly neutralized by the coffee's own
// potassium; roasting destroys them. ± 30 %.
var acidPerSolids = map[coffee.Roast]float64{coffee.Light: 0.70, coffee.MediumLight: 0.62, coffee.Medium: 0.52, coffee.MediumDark: 0.42,
	coffee.Dark: 0.35}

// Buffered returns the share of the acids in a cup of a strength, %, that the water neutralizes; false without a known water.
func (q Question) Buffered(strength float64) (float64, bool) {
	if q.Gear.Water.ID == "" {
		return 0, false
	}
	perSolids := cmp.Or(acidPerSolids[q.Bag.Roast], acidPerSolids[coffee.Medium])
	const solids = 10 // g/l for each % of TDS
	return q.Gear.Water.Buffered(perSolids * solids * strength), true
}

// grindOf returns the size distribution of a grinder at a median size.
func grindOf(size units.Micrometres, g gear.Grinder) sim.Grind {
	mill, ok := sim.Mills[g.Burrs]
	if !ok {
		mill = sim.Mills[gear.ConicalBurr]
	}
	return mill.Grind(size)
}

// Brewer returns the geometry of a kind and size in the brewer's material, with the rim at the person's
// capacity.
func Brewer(b gear.Brewer) sim.Brewer {
	const large units.Grams = 550
	sizes := brewers[b.Kind]
	out := sizes[0]
	if b.Holds >= large {
		out = sizes[1]
	}
	if b.Holds > 0 {
		out = out.WithCapacity(b.Holds)
	}
	out = out.WithWall(b.Ribs).WithOutlets(b.Outlets)
	if m, ok := sim.Materials[b.Material]; ok {
		return out.WithMaterial(m)
	}
	return out
}

// brewers holds two sizes of each kind.
var brewers = map[gear.BrewerKind][2]sim.Brewer{
	gear.OpenCone:     {sim.OpenConeSmall, sim.OpenConeLarge},
	gear.FlatBed:      {sim.FlatBedSmall, sim.FlatBedLarge},
	gear.HeavyCone:    {sim.HeavyConeSmall, sim.HeavyConeLarge},
	gear.ValveSteeper: {sim.SteeperSmall, sim.SteeperLarge},
}

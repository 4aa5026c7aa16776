// Package forecast asks the brew model about a recipe: it turns a coffee, the
// gear and a plan into what the model needs, and what comes out into figures
// for people, each with its error.
package forecast

import (
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/sim"
	"yardbloom/core/units"
)

// A Question is what a brew is to be predicted from.
type Question struct {
	Recipe recipe.Recipe
	Bag    coffee.Bag
	Gear   brew.Gear
	Now    time.Time
	// Steps are the schedule, where it is not the one that the recipe's style makes.
	Steps []recipe.Step
	// Room is the temperature of the air, °C; 0 for the usual 21.
	Room units.Celsius
}

// A Forecast is what the model expects of a recipe. Its errors are what a brew
// may differ by, one standard error, as long as no measured brew has corrected
// the model for this coffee and this grinder.
type Forecast struct {
	sim.Result
	// Yield is the extraction yield as the cup's own formula would give it.
	Yield         cup.Figure
	Strength      cup.Figure // TDS, %
	DrawdownError units.Seconds
	BeverageError units.Grams
}

// How far a brew may lie from the model before the model has learned anything:
// most of it is the grinder's scale and fines, and what the coffee holds.
const (
	yieldError    = 1.6  // points
	strengthError = 0.11 // share of the TDS
	timeError     = 0.13 // share of the drawdown
	beverageError = 4    // g
)

// Of predicts a brew. It returns an error where the recipe lies outside what
// the model can speak for.
func Of(q Question) (Forecast, error) {
	var f Forecast
	return f, f.Ask(q)
}

// Ask predicts a brew into a Forecast whose curves are used again.
func (f *Forecast) Ask(q Question) error {
	if err := sim.RunInto(&f.Result, Brew(q)); err != nil {
		return err
	}
	y := f.EY
	if q.Gear.Brewer.Kind.Form().Immersion {
		y = f.TDS * (float64(f.Beverage)/float64(q.Recipe.Dose) + f.Retained)
	}
	f.Yield = cup.Figure{Value: y, Error: yieldError}
	f.Strength = cup.Figure{Value: f.TDS, Error: strengthError * f.TDS}
	f.DrawdownError = timeError * f.Drawdown
	f.BeverageError = beverageError
	return nil
}

// solubles are what water can take along, as a share of the dry dose, and how
// fast, by roast: a dark roast has lost some and gives the rest up more easily.
var solubles = map[coffee.Roast]struct{ share, rate float64 }{
	coffee.Light: {0.285, 0.88}, coffee.MediumLight: {0.29, 1}, coffee.Medium: {0.29, 1.08},
	coffee.MediumDark: {0.28, 1.18}, coffee.Dark: {0.27, 1.3},
}

// finesAt650 is the share of fines that a kind of grinder makes at 650 µm.
var finesAt650 = map[gear.Burrs]float64{gear.FlatBurr: 0.08, gear.ConicalBurr: 0.10, gear.HandMill: 0.09, gear.Blade: 0.22}

// warmTo is what a rinse leaves a brewer at, °C: the heavier, the more it keeps.
var warmTo = map[gear.Material]units.Celsius{gear.Plastic: 60, gear.Metal: 65, gear.Glass: 70, gear.Ceramic: 72}

// heaviness is the heat capacity of a material against that of plastic.
var heaviness = map[gear.Material]float64{gear.Plastic: 1, gear.Metal: 1.2, gear.Glass: 3, gear.Ceramic: 4}

// fallOf is how far a stream falls, m.
var fallOf = map[recipe.Height]float64{recipe.Low: 0.03, recipe.Mid: 0.10, recipe.High: 0.20}

// Brew returns what the model is asked for a recipe.
func Brew(q Question) sim.Brew {
	r, g := q.Recipe, q.Gear
	b := sim.Brew{
		Dose:   r.Dose,
		Coffee: coffeeOf(q.Bag, q.Now),
		Grind:  grindOf(r.Grind, g.Grinder),
		Brewer: brewerOf(g.Brewer), Filter: sim.Filters[g.Brewer.Filter],
		Ambient: q.room(), Warm: q.room(),
	}
	if r.Rinse {
		b.Warm = warmTo[g.Brewer.Material]
	}
	const swirl, stir = 0.45, 0.8
	for _, s := range q.steps() {
		switch s.Act {
		case recipe.Pour:
			b.Pours = append(b.Pours, sim.Pour{Water: s.Water, Start: s.Start, Rate: s.Rate, Temperature: PourTemperature(s, r, g.Kettle), Height: fallOf[s.Height]})
		case recipe.Stir:
			b.Hands = append(b.Hands, sim.Hand{At: s.Start, Strength: stir})
		case recipe.Release:
			b.Release = s.Start
		}
		if s.Swirl {
			b.Hands = append(b.Hands, sim.Hand{At: s.End(), Strength: swirl})
		}
	}
	return b
}

// PourTemperature is what the kettle gives a pour: as set, or, without a
// thermostat, what is left of it by then. Half of the water is in the kettle on average.
func PourTemperature(s recipe.Step, r recipe.Recipe, k gear.Kettle) units.Celsius {
	if k.Capacity == 0 { // no kettle is known
		return s.Temperature
	}
	const heel = 150 // g that stay in the kettle
	return k.After(s.Temperature, r.Water/2+heel, s.Start)
}

func (q Question) steps() []recipe.Step {
	if q.Steps != nil {
		return q.Steps
	}
	return q.Recipe.Plan().Steps
}

func (q Question) room() units.Celsius {
	const usual = 21
	if q.Room == 0 {
		return usual
	}
	return q.Room
}

func coffeeOf(b coffee.Bag, now time.Time) sim.Coffee {
	s, ok := solubles[b.Roast]
	if !ok {
		s = solubles[coffee.Medium]
	}
	c := sim.Coffee{Soluble: s.share, Rate: s.rate, Gas: 0.2}
	switch b.Freshness(now) {
	case coffee.TooFresh:
		c.Gas = 0.8
	case coffee.GettingOld:
		c.Gas, c.Soluble = 0, c.Soluble-0.015
	}
	if b.Process == coffee.Decaf {
		c.Rate *= 1.1
	}
	return c
}

// grindOf is the distribution at a median size: the finer a grinder is set, the more fines it makes.
func grindOf(size units.Micrometres, g gear.Grinder) sim.Grind {
	fines, ok := finesAt650[g.Burrs]
	if !ok {
		fines = 0.10
	}
	const most = 0.35
	spread := 1.0
	if g.Burrs == gear.Blade {
		spread = 1.3
	}
	return sim.Grind{Median: size, Fines: min(most, fines*650/float64(size)), Spread: spread}
}

// brewerOf picks the geometry by kind and by what the brewer holds.
func brewerOf(b gear.Brewer) sim.Brewer {
	const large units.Grams = 550
	sizes := map[gear.BrewerKind][2]sim.Brewer{
		gear.OpenCone: {sim.OpenConeSmall, sim.OpenConeLarge}, gear.FlatBed: {sim.FlatBedSmall, sim.FlatBedLarge}, gear.HeavyCone: {sim.HeavyConeSmall, sim.HeavyConeLarge}, gear.ValveSteeper: {sim.SteeperSmall, sim.SteeperLarge},
	}[b.Kind]
	out := sizes[0]
	if b.Holds >= large {
		out = sizes[1]
	}
	if heavy, ok := heaviness[b.Material]; ok {
		out.Heat *= heavy
	}
	return out
}

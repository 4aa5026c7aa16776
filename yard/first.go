package yard

import (
	"context"
	"math"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/store"
)

// Answers holds the answers of a first run. Zero values are unknown.
type Answers struct {
	Brewer  gear.BrewerKind
	Grinder gear.Burrs
	Dial    gear.DialKind // of a burr grinder: Numbered or Clicks; Words for a grinder without marks
	// Setting is the number on the dial, or of clicks, that they use for filter coffee; 0: they do not know.
	Setting    float64
	Spoons     bool // there is no scale
	Thermostat bool
	Altitude   int // m
	Prefs      units.Prefs
	Coffee     string
	Roast      coffee.Roast
}

// FirstCoffee is the name of a bag for a person who does not know the name of their coffee.
const FirstCoffee = "First coffee"

// BeginFirst stores the answers of a first run and returns the ID of the first recipe.
func (y *Yard) BeginFirst(ctx context.Context, a Answers, personID string) (draftID string, err error) {
	first := store.First{Brewer: a.brewer(), Grinder: a.grinder(), Kettle: a.kettle(), Prefs: a.Prefs, Altitude: a.Altitude, Spoons: a.Spoons,
		Bag: coffee.Bag{Name: FirstCoffee, Roast: a.Roast}}
	if a.Coffee != "" {
		first.Bag.Name = a.Coffee
	}
	ids, bagID, err := y.Store.AddFirst(ctx, personID, first)
	if err != nil {
		return "", err
	}
	set, err := y.Store.Settings(ctx, personID)
	if err != nil {
		return "", err
	}
	b, err := y.Store.ShelvedBag(ctx, bagID)
	if err != nil {
		return "", err
	}
	g, err := y.Store.Gear(ctx, ids)
	if err != nil {
		return "", err
	}
	if b.Draft != "" {
		if d, _, err := y.Store.Draft(ctx, b.Draft); err == nil && d.Gear.IDs() == ids {
			return b.Draft, nil // another screen answered alike
		}
	}
	d := y.FirstDraft(b, g, set)
	if set.Spoons {
		d.Recipe = inSpoons(d.Recipe, recipe.UsualSpoonful(a.Roast))
	}
	return y.OpenDraft(ctx, d, set)
}

// AddStarter adds one of each usual kind of gear, for a person who skips the first run. A yard with gear stays unchanged.
func (y *Yard) AddStarter(ctx context.Context) error {
	things, err := y.Store.Things(ctx)
	if err != nil || len(things) > 0 {
		return err
	}
	brewers, grinders, kettles := gear.Starter()
	return y.Store.AddGear(ctx, brewers, grinders, kettles)
}

// inSpoons rounds a recipe to half mugs of water and half tablespoons of coffee.
func inSpoons(r recipe.Recipe, spoon units.Grams) recipe.Recipe {
	halves := math.Max(2, math.Round(2*float64(r.Water())/units.Mug))
	water := halves / 2 * units.Mug
	dose := math.Max(1, math.Round(2*water/r.Ratio()/float64(spoon))) / 2 * float64(spoon)
	r = r.With(recipe.AddressOf(recipe.Water), water)
	r.Dose = units.Grams(dose)
	return r
}

// brewer returns the brewer of the answers: the usual one of its kind, or an open cone.
func (a Answers) brewer() gear.Brewer {
	usual, _, _ := gear.Starter()
	for _, b := range usual {
		if b.Kind == a.Brewer {
			return b
		}
	}
	return usual[0]
}

// grinder returns the grinder of the answers. A dial whose usual setting is not known has no numbers yet: recipes give the texture.
func (a Answers) grinder() gear.Grinder {
	g := gear.Grinder{Name: "Grinder", Burrs: gear.ConicalBurr, Dial: gear.Dial{Kind: gear.Words}, Loss: 0.3}
	switch a.Grinder {
	case gear.Blade:
		g.Name, g.Burrs, g.Loss = "Blade grinder", gear.Blade, 0.8
	case gear.Bought:
		g.Name, g.Burrs, g.Loss = "Bought ground", gear.Bought, 0
	case gear.HandMill:
		g.Name, g.Burrs, g.Loss = "Hand mill", gear.HandMill, 0.2
	}
	if a.Setting > 0 && (a.Dial == gear.Numbered || a.Dial == gear.Clicks) {
		g.Dial = gear.DialFrom(a.Dial, a.Setting)
	}
	return g
}

func (a Answers) kettle() gear.Kettle {
	if a.Thermostat {
		return gear.Kettle{Name: "Thermostat kettle", Thermostat: true, Capacity: 900}
	}
	return gear.Kettle{Name: "Kettle", Capacity: 1500}
}

// Package coach infers the most likely cause of a bad cup, with its probability, and recommends one change,
// with its size and its reason.
//
// A Case holds the facts of a brew. Its evidence gives the likelihood of each position of the cup
// relative to the aim, and of each fault. The cups of a bag narrow the aim, which is the cup that this
// person likes of this coffee, and identify the cause. A lever sets one knob; the model predicts the result
// of every lever in every size, and the one with the best expected gain is advised if it is worth its cost.
// Tables hold the experience of trainers.
package coach

import (
	"slices"
	"time"

	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A Person is the person who asks for advice.
type Person struct {
	Prefs units.Prefs
	Order recipe.LeverOrder // the lever they prefer
	Good  int               // the lowest mark of a good cup; 0 for 8
	// Measures is true if they have a refractometer.
	Measures bool
	// BrewsLeft is the number of brews that the bag still gives; 0 if unknown.
	BrewsLeft int
	// Known is their aim for other bags of this kind; nil if unknown.
	Known *Patch
	// Tongue is how they use words and marks; nil if unknown.
	Tongue *Tongue
}

// A Case is the input for the advice on a brew.
type Case struct {
	ID     string // of the brew, for the map
	Recipe recipe.Recipe
	// AsPoured is the recipe with its pours as tapped or weighed; nil: as in the recipe.
	AsPoured *recipe.Recipe
	Bag      coffee.Bag
	Now      time.Time     // time of the brew
	Window   coffee.Window // wanted drawdown
	Gear     gear.Set
	Cup      cup.Cup
	Marks    []cup.Mark // observed while pouring
	Person
	// Said is the change that was advised on this cup before, so that a small correction does not turn the advice round.
	Said *recipe.Change
	// Laters counts the delays because of the bed.
	Laters int
	// Path holds the earlier brews of this bag, the oldest first.
	Path []Case
	// Beliefs are the yard's beliefs about gear and coffee; nil for the prior.
	Beliefs *forecast.Beliefs

	ignored string        // sentence of a sign that does not count
	lag     lag           // of its drawdown, once evaluated
	late    units.Seconds // part of its drawdown that follows from how it was poured, by the model
}

// Method returns how the recipe's water meets the grounds. A steeper with its valve open counts as a cone.
func (c Case) Method() cup.Method {
	if c.Recipe.Steeps() {
		return cup.Immersion
	}
	return cup.Percolation
}

// Yield returns the extraction yield, if it was measured.
func (c Case) Yield() (cup.Figure, bool) {
	return cup.Yield(c.Measurement(), cup.UsualInstruments)
}

// Measurement returns the readings of the yield; some are zero if it was not measured.
func (c Case) Measurement() cup.Measurement {
	return cup.Measurement{Method: c.Method(), Dose: c.Recipe.Dose, Beverage: c.Cup.Beverage, Added: c.Recipe.Ice.Mass + c.Recipe.Dilution.Water,
		TDS: c.Cup.TDS, Retained: c.Gear.Brewer.Retained}
}

// step returns the step of a sense, or 0 if it was not judged or says nothing about extraction.
func (c Case) step(s cup.Sense) int {
	if _, known := traits[s]; !known {
		return 0
	}
	return c.Cup.Steps[s]
}

// brews returns the path with this brew at its end.
func (c Case) brews() []Case { return append(slices.Clone(c.Path), c) }

// good returns the lowest mark of a good cup.
func (c Case) good() int {
	if c.Good > 0 {
		return c.Good
	}
	return 8
}

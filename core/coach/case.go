// Package coach says what most likely went wrong in a brew, how sure that is,
// and the one thing to change, with its size and its reason.
//
// What is known about a brew is a Case; what can be seen in it are readings, each with how
// likely it is by where the cup lies and by what ails it. The cups of a bag narrow an aim,
// where this person likes this coffee, and tell the cause of a bad cup. A lever turns one
// knob; the model says where every lever in every size would lead, and the one that promises
// most for what it costs is advised, if any is worth it. Tables hold what a trainer knows.
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

// A Person is who asks: what is the same for all of their cups.
type Person struct {
	Prefs units.Prefs
	Order recipe.FirstTurned // what they turn first
	Good  int                // the mark from which a cup is good; 0 for 8
	// Measures says that they have a refractometer at hand.
	Measures bool
	// Known is where their aim was with other bags of this kind; nil where nothing is known.
	Known *Patch
}

// A Case is everything that advice on a brew is based on.
type Case struct {
	ID     string // of the brew, by which a map names it
	Recipe recipe.Recipe
	// Was is the recipe with its pours as they were tapped or weighed, where that is known; nil:
	// as the recipe says.
	Was    *recipe.Recipe
	Bag    coffee.Bag
	Now    time.Time     // when it was brewed
	Window coffee.Window // wanted drawdown
	Gear   gear.Set
	Cup    cup.Cup
	Marks  []cup.Mark // seen while pouring
	Person
	// Laters is how often a pour had to wait for the bed.
	Laters int
	// Path are the brews of this bag before, the oldest first.
	Path []Case
	// Beliefs are what the yard believes of this gear and coffee; nil for the prior.
	Beliefs *forecast.Beliefs

	lag  lag           // of its drawdown, once it is weighed
	late units.Seconds // how much of its drawdown is for how it was poured, by the model
}

// Method is how the recipe's water meets the grounds. A steeper whose valve stands
// open is a cone like others.
func (c Case) Method() cup.Method {
	if c.Recipe.Steeps() {
		return cup.Immersion
	}
	return cup.Percolation
}

// Yield returns the extraction yield, where it was measured.
func (c Case) Yield() (cup.Figure, bool) {
	return cup.Yield(cup.Reading{Method: c.Method(), Dose: c.Recipe.Dose, Beverage: c.Cup.Beverage, Added: c.Recipe.Ice.Mass + c.Recipe.Dilution.Water,
		TDS: c.Cup.TDS, Retained: c.Gear.Brewer.Retained}, cup.Usual)
}

func (c Case) step(s cup.Sense) int { return c.Cup.Steps[s] }

// brews are the path with this brew at its end.
func (c Case) brews() []Case { return append(slices.Clone(c.Path), c) }

// good is the mark from which a cup is good.
func (c Case) good() int {
	if c.Good > 0 {
		return c.Good
	}
	return 8
}

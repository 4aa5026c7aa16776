// Package coach says what most likely went wrong in a brew, how sure that is,
// and the one thing to change, with its size and its reason.
//
// What is known about a brew is a Case; what can be seen in it are signs; the
// table of rules goes from signs to a verdict and the levers that mend it; a
// lever turns one knob, no further than its usual range. Advise reads the table.
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

// A Case is everything that advice on a brew is based on.
type Case struct {
	Recipe recipe.Recipe
	Bag    coffee.Bag
	Now    time.Time     // when it was brewed
	Window coffee.Window // wanted drawdown
	Gear   gear.Set
	Cup    cup.Cup
	Marks  []cup.Mark // seen while pouring
	Prefs  units.Prefs
	// Path are the brews of this bag before, the oldest first.
	Path []Case
	// Beliefs are what the yard believes of this gear and coffee; nil for the prior.
	Beliefs *forecast.Beliefs
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

func (c Case) marked(what ...cup.Mark) cup.Mark {
	if i := slices.IndexFunc(c.Marks, func(m cup.Mark) bool { return slices.Contains(what, m) }); i >= 0 {
		return c.Marks[i]
	}
	return ""
}

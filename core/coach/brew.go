// Package coach says what most likely went wrong in a brew, how sure that is,
// and the one thing to change, with its size and its reason.
//
// What is known about a brew is a Brew; what can be seen in it are signs; the
// table of rules goes from signs to a verdict and the levers that mend it; a
// lever knows its limits. One small engine reads the table.
package coach

import (
	"slices"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A Brew is everything that advice can stand on.
type Brew struct {
	Recipe recipe.Recipe
	Bag    coffee.Bag
	Now    time.Time     // when it was brewed
	Window coffee.Window // wanted drawdown
	brew.Gear
	Freshness coffee.Freshness
	Cup       cup.Cup
	Marks     []string // seen while pouring
	Prefs     units.Prefs
}

// Method returns how this brew's water meets the grounds.
func (b Brew) Method() cup.Method {
	if b.Brewer.Kind.Form().Immersion {
		return cup.Immersion
	}
	return cup.Percolation
}

// Yield returns the brew's extraction yield, where it was measured.
func (b Brew) Yield() (cup.Figure, bool) {
	return cup.Yield(cup.Reading{Method: b.Method(), Dose: b.Recipe.Dose, Beverage: b.Cup.Beverage,
		TDS: b.Cup.TDS, Retained: b.Brewer.Retained}, cup.Usual)
}

func (b Brew) step(s cup.Sense) int { return b.Cup.Steps[s] }

func (b Brew) marked(what ...string) string {
	if i := slices.IndexFunc(b.Marks, func(m string) bool { return slices.Contains(what, m) }); i >= 0 {
		return b.Marks[i]
	}
	return ""
}

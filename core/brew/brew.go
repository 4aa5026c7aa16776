// Package brew is the life of a brew: from a recipe in the making over the first
// water and every touch to the cup and what the coach says of it.
//
// A Draft is a recipe in the making. Begin makes a Brew of it, Apply adds what
// happens while it is poured, Taste what was found in the cup. Each is a pure
// function that returns a new Brew; the store loads, applies and keeps.
//
// A running brew is its plan and a list of events, the first of which is its
// start; what to do now is worked out from them, so that a screen that reloads, a
// second tablet and a restarted server all come to the same second.
package brew

import (
	"cmp"
	"time"

	"yardbloom/core/coach"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/learn"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// Status is how far a brew has come.
type Status string

// The statuses of a brew.
const (
	Running   Status = "running"   // being poured
	Poured    Status = "poured"    // drawn down, not yet measured or tasted
	Done      Status = "done"      // measured or tasted
	Abandoned Status = "abandoned" // stopped before the end
)

// A Sheet is what goes into a brew: a recipe, a coffee, gear, and the brew that it
// follows on.
type Sheet struct {
	ID      string
	BagID   string
	Parent  string // the brew that this one follows on; empty for the first of a bag
	Recipe  recipe.Recipe
	Bag     coffee.Bag
	Gear    gear.Set
	Asked   *coach.Proposal // the change that was advised, where one was followed
	Created time.Time
	// Beliefs are what the yard believes of this gear and coffee at the moment; nil for
	// what the product takes for granted. They are not kept with the sheet.
	Beliefs *forecast.Beliefs
	// Habits are how the person begins a coffee, and Prefs how they read quantities. They
	// are not kept with the sheet either.
	Habits recipe.Habits
	Prefs  units.Prefs
}

// Question returns the sheet as the brew model takes it.
func (s Sheet) Question(now time.Time) forecast.Question {
	return forecast.Question{Recipe: s.Recipe, Bag: s.Bag, Gear: s.Gear, Now: now, Beliefs: s.Beliefs, Habits: s.Habits, Reads: s.Prefs}
}

// Sample returns a brew as a yard learns from it.
func (b Brew) Sample() learn.Sample {
	s := b.Sheet.Subject()
	s.ID, s.Name, s.At = b.ID, b.Bag.Name, b.Started
	s.Question = b.Sheet.Question(b.Started)
	s.Question.Beliefs = nil
	if was, known := b.Was(); known {
		s.Question.Recipe = was
	}
	s.Drawdown, s.Beverage, s.TDS = float64(b.Cup.Drawdown), float64(b.Cup.Beverage), b.Cup.TDS
	s.Simulated = b.Cup.Simulated
	return s
}

// Subject says what the parameters of a sheet's brew belong to.
func (s Sheet) Subject() learn.Sample {
	return learn.Sample{Bag: cmp.Or(s.Bag.Same(), s.BagID), Grinder: learn.GrinderKey(s.Gear.Grinder), Filter: string(s.Gear.Brewer.Filter), Brewer: s.Gear.Brewer.ID}
}

// Uses is the coffee that the brew takes out of the bag: the dose and the grinder's loss.
func (s Sheet) Uses() units.Grams { return s.Recipe.Dose + s.Gear.Grinder.Loss }

// A Brew is one time of making coffee. From its first water on it keeps its
// sheet, plan, forecast and later its advice as they were then, so that nothing
// that is edited later changes what happened.
type Brew struct {
	Sheet
	Status   Status
	Plan     recipe.Plan
	Forecast *forecast.Figures // nil where the recipe lay outside the model's ranges
	Cup      cup.Cup
	Advice   *coach.Advice // once it is tasted or measured
	Started  time.Time     // of the first water
	Ended    time.Time     // when the pouring ended, or was given up; zero while it runs
	Events   []Event       // the first is the start
	Version  int64
}

// At returns the brew's state at a moment.
func (b Brew) At(now time.Time) State {
	if !b.Ended.IsZero() && now.After(b.Ended) {
		now = b.Ended
	}
	return At(b.Plan, b.Events, b.Elapsed(now))
}

// Elapsed is the time since the first water.
func (b Brew) Elapsed(now time.Time) units.Seconds {
	return units.Seconds(max(0, now.Sub(b.Started).Seconds()))
}

// Over says that the pouring is over and the cup can be measured.
func (b Brew) Over() bool { return b.Status == Poured || b.Status == Done }

// Window is the drawdown that was wanted: the bag's own where it has one, else the plan's.
func (b Brew) Window() coffee.Window { return b.Bag.Wanted(b.Plan.Window) }

// Yield is the extraction yield, where it was measured.
func (b Brew) Yield() (cup.Figure, bool) {
	return coach.Case{Recipe: b.Poured(), Gear: b.Gear, Cup: b.Cup}.Yield()
}

// Case returns the brew as the coach takes it: with the coffee and the water as they were
// weighed, and without a change that was advised and not made.
func (b Brew) Case(who coach.Person) coach.Case {
	c := coach.Case{ID: b.ID, Recipe: b.Poured(), Bag: b.Bag, Now: b.Started, Window: b.Window(), Gear: b.Gear, Cup: b.Cup, Person: who, Beliefs: b.Beliefs}
	if was, known := b.Was(); known {
		c.Was = &was
	}
	for _, m := range b.At(b.Ended).Marks {
		c.Marks = append(c.Marks, m.What)
	}
	for _, e := range standing(b.Events) {
		if e.Kind == Later {
			c.Laters++
		}
	}
	return c
}

// Was is the recipe with its pours as they were tapped or weighed; false where there is only
// the plan: nobody touched the screen and no scale saw it, or the taps were no pours.
func (b Brew) Was() (recipe.Recipe, bool) {
	state := b.At(b.Ended)
	if !state.Finished || len(b.Events) < 2 {
		return recipe.Recipe{}, false
	}
	var done []recipe.Step
	for i, step := range state.Steps() {
		if !state.Stages[2*i].Skipped { // by an early end
			done = append(done, step)
		}
	}
	r := b.Poured()
	r.Pours = r.Along(done).Pours
	if poured := r.Water(); b.Cup.Water > 0 && poured > 0 { // as it was weighed in the end
		for i := range r.Pours {
			r.Pours[i].Water *= b.Cup.Water / poured
		}
	}
	really := b.Sheet.Question(b.Started)
	really.Recipe = r
	return r, really.Brew().Check() == nil
}

// Poured is the recipe as it was really brewed: with the dose and the water that were weighed,
// and without a change that was not made after all.
func (b Brew) Poured() recipe.Recipe {
	r := b.Recipe
	if b.Cup.NotDone && b.Asked != nil {
		r = r.With(b.Asked.Address, b.Asked.From)
	}
	return r.Weighed(b.Cup.Dose, b.Cup.Water)
}

// Package brew models the life of a brew, from the draft of a recipe over the first water and every event
// to the cup and its advice.
//
// A Draft is an editable recipe. Begin turns it into a Brew, Apply adds events while it is poured, Taste
// adds the cup. Each is a pure function that returns a new Brew; the store loads, applies and saves.
//
// A running brew is its plan and a list of events, of which the first is its start. Its state is computed
// from them, so that a reloaded screen, a second tablet and a restarted server agree.
package brew

import (
	"cmp"
	"slices"
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

// Status is the phase of a brew.
type Status string

// The statuses of a brew.
const (
	Running   Status = "running"   // in progress
	Poured    Status = "poured"    // drawn down, not yet measured or tasted
	Done      Status = "done"      // measured or tasted
	Abandoned Status = "abandoned" // stopped before the end
)

// A Sheet is the input of a brew: recipe, coffee, gear, and the previous brew.
type Sheet struct {
	ID      string
	BagID   string
	Parent  string // id of the previous brew; empty for the first of a bag
	By      string // id of the person who wrote the recipe; empty: the yard
	Recipe  recipe.Recipe
	Bag     coffee.Bag
	Gear    gear.Set
	Advised *coach.Proposal // the advised change, if one was followed
	Created time.Time
	// Purged is the coffee that was ground and thrown away before the brew. It is stored as part of what the bag lost.
	Purged units.Grams
	// Beliefs are the yard's knowledge of this gear and coffee; nil for the defaults of the model.
	// They are not stored with the sheet.
	Beliefs *forecast.Beliefs
	// Habits are the person's defaults for a new coffee, Prefs their units. They are not stored with the
	// sheet either.
	Habits recipe.Habits
	Prefs  units.Prefs
}

// Question returns the sheet as a question to the brew model.
func (s Sheet) Question(now time.Time) forecast.Question {
	return forecast.Question{Recipe: s.Recipe, Bag: s.Bag, Gear: s.Gear, Now: now, Beliefs: s.Beliefs, Habits: s.Habits, Prefs: s.Prefs}
}

// Sample returns the brew as input for learning.
func (b Brew) Sample() learn.Sample {
	s := b.Sheet.Subject()
	s.ID, s.Name, s.At = b.ID, b.Bag.Name, b.Started
	s.Question = b.Sheet.Question(b.Started)
	s.Question.Beliefs = nil
	if b.Cup.Sights[cup.OneSided] || b.marked(cup.Outlets) {
		s.Question.Blocked = forecast.SlowSide
	}
	if was, known := b.AsPoured(); known {
		s.Question.Recipe = was
	}
	s.Drawdown, s.Beverage, s.TDS = float64(b.Cup.Drawdown), float64(b.Cup.Beverage), b.Cup.TDS
	s.Simulated = b.Cup.Simulated
	return s
}

// Subject returns the bag and gear whose parameters the brew depends on.
func (s Sheet) Subject() learn.Sample {
	return learn.Sample{Bag: cmp.Or(s.Bag.CoffeeID(), s.BagID), Grinder: learn.GrinderKey(s.Gear.Grinder), Filter: string(s.Gear.Brewer.Filter),
		Brewer: s.Gear.Brewer.ID}
}

// Uses returns the coffee taken from the bag: the dose, the grinder's loss and what was purged.
func (s Sheet) Uses() units.Grams { return s.Recipe.Dose + s.Gear.Grinder.Loss + s.Purged }

// A Brew is one brew. From its first water on, its sheet, plan, forecast and later its advice are fixed, so
// that later edits change nothing in it.
type Brew struct {
	Sheet
	Status   Status
	BrewedBy string // id of a person; empty: the yard
	Plan     recipe.Plan
	Forecast *forecast.Figures // nil if the recipe was outside the model's range
	// Cup and Advice are those of Taster; see For. Advice is nil before the brew was tasted or measured.
	Cup        cup.Cup
	Advice     *coach.Advice
	Taster     string
	MeasuredBy string
	// Tastings has one tasting for each taster, in the order in which they first tasted.
	Tastings []Tasting
	Started  time.Time // of the first water
	Ended    time.Time // end of the pouring, or when it was abandoned; zero while it runs
	Events   []Event   // the first is the start
	Version  int64
}

// At returns the state of the brew at a moment.
func (b Brew) At(now time.Time) State {
	if !b.Ended.IsZero() && now.After(b.Ended) {
		now = b.Ended
	}
	return At(b.Plan, b.Events, b.Elapsed(now))
}

// Elapsed returns the time since the first water.
func (b Brew) Elapsed(now time.Time) units.Seconds {
	return units.Seconds(max(0, now.Sub(b.Started).Seconds()))
}

// Over reports whether the pouring has ended and the cup can be measured.
func (b Brew) Over() bool { return b.Status == Poured || b.Status == Done }

// Window returns the target window of the drawdown: the bag's own, or the plan's.
func (b Brew) Window() coffee.Window { return b.Bag.TargetWindow(b.Plan.Window) }

// Yield returns the measured extraction yield.
func (b Brew) Yield() (cup.Figure, bool) {
	return coach.Case{Recipe: b.AsBrewed(), Gear: b.Gear, Cup: b.Cup}.Yield()
}

// Case returns the brew as input for the coach: with the measured coffee and water, and without an advised
// change that was not made.
func (b Brew) Case(who coach.Person) coach.Case {
	c := coach.Case{ID: b.ID, Recipe: b.AsBrewed(), Bag: b.Bag, Now: b.Started, Window: b.Window(), Gear: b.Gear, Cup: b.Cup, Person: who,
		Beliefs: b.Beliefs}
	if was, known := b.AsPoured(); known {
		c.AsPoured = &was
	}
	for _, m := range b.At(b.Ended).Marks {
		c.Marks = append(c.Marks, m.What)
	}
	for _, e := range historyOf(b.Events).events {
		if e.Kind == Later {
			c.Laters++
		}
	}
	return c
}

// marked reports whether something was marked while pouring.
func (b Brew) marked(what cup.Mark) bool {
	return slices.ContainsFunc(b.At(b.Ended).Marks, func(m Mark) bool { return m.What == what })
}

// AsPoured returns the recipe with its pours as tapped or weighed. It returns false without usable taps or a
// scale.
func (b Brew) AsPoured() (recipe.Recipe, bool) {
	state := b.At(b.Ended)
	if !state.Finished || len(b.Events) < 2 {
		return recipe.Recipe{}, false
	}
	var done []recipe.Step
	for i, step := range state.Steps() {
		if !state.Stages[2*i].Skipped { // because of an early end
			done = append(done, step)
		}
	}
	r := b.AsBrewed()
	r.Pours = r.WithSteps(done).Pours
	for _, m := range state.Marks {
		if m.What == cup.CrustBroken && r.Steeps() && r.Crust == 0 {
			r.Crust = m.At
		}
	}
	if poured := r.Water(); b.Cup.Water > 0 && poured > 0 { // as weighed at the end
		for i := range r.Pours {
			r.Pours[i].Water *= b.Cup.Water / poured
		}
	}
	really := b.Sheet.Question(b.Started)
	really.Recipe = r
	return r, really.Brew().Check() == nil
}

// AsBrewed returns the recipe as brewed: with the measured dose and water, and without a change that was not
// made.
func (b Brew) AsBrewed() recipe.Recipe {
	r := b.Recipe
	if b.Cup.SkippedChange && b.Advised != nil {
		r = r.With(b.Advised.Address, b.Advised.From)
	}
	if b.Cup.Grind > 0 {
		r.Grind = b.Cup.Grind
	}
	return r.WithMeasured(b.Cup.Dose, b.Cup.Water)
}

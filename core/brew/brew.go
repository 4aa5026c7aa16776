package brew

import (
	"time"

	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// Status is how far a brew has come along the line.
type Status string

// The statuses of a brew.
const (
	Planned   Status = "planned"   // a recipe, not yet poured
	Running   Status = "running"   // being poured
	Poured    Status = "poured"    // drawn down, not yet measured or tasted
	Done      Status = "done"      // measured or tasted
	Abandoned Status = "abandoned" // stopped before the end
)

// Gear is what a brew is made with, and where.
type Gear struct {
	Brewer  gear.Brewer   `json:"brewer"`
	Grinder gear.Grinder  `json:"grinder"`
	Kettle  gear.Kettle   `json:"kettle"`
	Boiling units.Celsius `json:"boiling"`
}

// Asked is the change with which a brew follows on another, as it was advised.
type Asked struct {
	recipe.Change
	Say    string        `json:"say"`
	Reason string        `json:"reason"`
	Yield  float64       `json:"yield"` // expected, percentage points of EY
	Time   units.Seconds `json:"time"`  // expected, of drawdown
}

// A Draft is the state of a recipe that is still being typed.
type Draft struct {
	// Held are the two amounts that the person set; the others follow.
	Held [2]recipe.Field `json:"held"`
	// Ratio is the ratio as it was set: whole grams of water can only come near it.
	Ratio float64 `json:"ratio,omitempty"`
	// Typed keeps, by field, what was typed and cannot be brewed.
	Typed map[string]string `json:"typed,omitempty"`
	// Tab is the window that saved last: only another one can be surprised by it.
	Tab string `json:"tab,omitempty"`
}

// A Brew is one time of making coffee, from its recipe to its cup. Bag, Gear
// and Plan are as they were when the pouring began, so that nothing that is
// edited later changes what happened.
type Brew struct {
	ID      int64
	BagID   int64
	Parent  int64 // the brew that this one follows on; 0 for the first of a bag
	Status  Status
	Recipe  recipe.Recipe
	Plan    recipe.Plan
	Bag     coffee.Bag
	Gear    Gear
	Asked   *Asked
	Draft   Draft
	Checked []string // ticked on the checklist
	Cup     cup.Cup
	Created time.Time
	Started time.Time // zero before the first water
	Ended   time.Time // when the pouring ended, or was given up
	Version int64
	Events  []Event
}

// At returns the brew's state at a moment.
func (b Brew) At(now time.Time) State {
	if !b.Ended.IsZero() && now.After(b.Ended) {
		now = b.Ended
	}
	return At(b.Plan, b.Events, b.Elapsed(now))
}

// Ratio is the ratio as it was set, as long as the recipe is as near to it as
// whole grams of water allow, else the recipe's own.
func (b Brew) Ratio() float64 {
	const wholeGram = 0.5 + 1e-9
	if off := float64(b.Recipe.Dose)*b.Draft.Ratio - float64(b.Recipe.Water); off >= -wholeGram && off <= wholeGram {
		return b.Draft.Ratio
	}
	return b.Recipe.Ratio()
}

// Elapsed is the time since the first water, 0 before it.
func (b Brew) Elapsed(now time.Time) units.Seconds {
	if b.Started.IsZero() {
		return 0
	}
	return units.Seconds(max(0, now.Sub(b.Started).Seconds()))
}

// Uses is the coffee that the brew takes out of the bag: the dose and the grinder's loss.
func (b Brew) Uses() units.Grams { return b.Recipe.Dose + b.Gear.Grinder.Loss }

// Schedule is the plan that the brew was begun with, or, before it begins, the
// one that its recipe makes.
func (b Brew) Schedule() recipe.Plan {
	if b.Editable() {
		return b.Recipe.Plan()
	}
	return b.Plan
}

// Editable says that the recipe can still be changed.
func (b Brew) Editable() bool { return b.Status == Planned }

// Over says that the pouring is over and the cup can be measured.
func (b Brew) Over() bool { return b.Status == Poured || b.Status == Done }

package brew

import (
	"time"

	"yardbloom/core/coach"
	"yardbloom/core/coffee"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
)

// A Draft is an editable recipe before its first water, with its unfinished input. A bag can have several.
// A draft with a Name is a kept recipe in the recipe book.
type Draft struct {
	Sheet
	Name string
	// For a kept recipe: the code of its short address, its version, whether it is the favourite of its
	// coffee, and the name of the kept recipe it was copied from.
	Code      string
	Number    int
	Favourite bool
	Forked    string
	// Held holds the two amounts that the person set; the others follow.
	Held [2]recipe.Knob
	// SetRatio is the ratio as typed. Whole grams of water only approximate it.
	SetRatio float64
	// Typed holds invalid input by address.
	Typed map[string]string
	// Tab is the browser window that saved last. A version conflict is reported to other windows only.
	Tab     string
	Checked []string // checked items of the checklist
	// Timers holds the start time of each timer of the checklist, by id.
	Timers    map[string]time.Time
	UndoSteps []UndoStep // undo steps, oldest first
	RedoSteps []UndoStep // redo steps
	Version   int64
	// Aimed is the liking at which grind, ratio and temperature of the first recipe aim together; nil for none.
	Aimed *forecast.Liking
}

// DefaultHeld is the default of Held: the ratio, which people remember, and the dose, which they weigh.
var DefaultHeld = [2]recipe.Knob{recipe.Ratio, recipe.Dose}

// First returns a draft for a coffee without brews, from the person's defaults and the yard's beliefs about
// its gear, which may be nil.
func First(id string, bag coffee.Bag, g gear.Set, beliefs *forecast.Beliefs, habits recipe.Habits, now time.Time) Draft {
	d := Draft{Sheet: Sheet{ID: id, BagID: bag.ID, Bag: bag, Gear: g, Created: now, Beliefs: beliefs, Habits: habits}, Held: DefaultHeld}
	d.Recipe = forecast.FirstRecipe(d.Question(now), "")
	return d
}

// AimAt returns the draft with its recipe aimed at a person's liking, as far as its gear allows.
func (d Draft) AimAt(to forecast.Liking, now time.Time) Draft {
	d.Aimed = nil
	if r, ok := forecast.Aimed(d.Question(now), to); ok {
		d.Recipe, d.Aimed = r, &to
	}
	return d
}

// Next returns a draft that follows a brew: the same recipe, with one change if it is given.
func (b Brew) Next(id string, change *coach.Proposal, now time.Time) Draft {
	d := Draft{Sheet: b.Sheet, Held: DefaultHeld}
	d.ID, d.Parent, d.By, d.Advised, d.Created = id, b.ID, "", nil, now
	if change != nil {
		followed := *change
		followed.For = b.Taster
		d.Advised = &followed
		d.Recipe = d.Recipe.With(change.Address, change.To)
	}
	return d
}

// Copy returns a new draft with the recipe, coffee and gear of this one.
func (d Draft) Copy(id string, now time.Time) Draft {
	if d.Name != "" {
		d.Forked = d.Name
	}
	d.Code, d.Number, d.Favourite = "", 0, false
	d.ID, d.Name, d.Typed, d.Tab, d.Checked, d.Timers, d.UndoSteps, d.RedoSteps, d.Created, d.Version = id, "", nil, "", nil, nil, nil, nil, now, 0
	return d
}

// Ready reports whether the recipe can be brewed: all of its input is valid.
func (d Draft) Ready() bool { return len(d.Typed) == 0 }

// Ratio returns the ratio as typed if the recipe is as close to it as whole grams of water allow, otherwise
// the recipe's own.
func (d Draft) Ratio() float64 {
	const wholeGram = 0.5 + 1e-9
	if off := float64(d.Recipe.Dose)*d.SetRatio - float64(d.Recipe.Total()); off >= -wholeGram && off <= wholeGram {
		return d.SetRatio
	}
	return d.Recipe.Ratio()
}

// Draft returns the recipe of a brew as a draft under the same id, before its first water.
func (b Brew) Draft() Draft { return Draft{Sheet: b.Sheet, Held: DefaultHeld} }

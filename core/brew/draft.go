package brew

import (
	"time"

	"yardbloom/core/coach"
	"yardbloom/core/coffee"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
)

// A Draft is a recipe in the making: a sheet that has not met water yet, and what
// is half typed on it. A bag can have several. One with a Name is kept, to be
// brewed from again and again.
type Draft struct {
	Sheet
	Name string
	// Of one that is kept: the code of its short address, which version it is, whether it is
	// its coffee's favourite, and the name of the kept recipe that it began as.
	Code      string
	Number    int
	Favourite bool
	Forked    string
	// Held are the two amounts that the person set; the others follow.
	Held [2]recipe.Knob
	// SetRatio is the ratio as it was set: whole grams of water can only come near it.
	SetRatio float64
	// Typed keeps, by address, what was typed and cannot be brewed.
	Typed map[string]string
	// Tab is the browser window that saved last. A version conflict is reported to other windows only.
	Tab     string
	Checked []string // ticked on the checklist
	// Timers are when what is waited for on the checklist was begun, by its id.
	Timers  map[string]time.Time
	Past    []Turn // what can be taken back, the oldest first
	Future  []Turn // what was taken back and can be done again
	Version int64
}

// StartHeld are the amounts that a new draft holds: the ratio, which people keep in mind, and the dose, which they weigh.
var StartHeld = [2]recipe.Knob{recipe.Ratio, recipe.Dose}

// First returns a draft for a coffee that has not been brewed here yet, as the person
// usually begins and from what the yard believes of its gear; nil for nothing.
func First(id string, bag coffee.Bag, g gear.Set, beliefs *forecast.Beliefs, habits recipe.Habits, now time.Time) Draft {
	d := Draft{Sheet: Sheet{ID: id, BagID: bag.ID, Bag: bag, Gear: g, Created: now, Beliefs: beliefs, Habits: habits}, Held: StartHeld}
	d.Recipe = forecast.First(d.Question(now), "")
	return d
}

// Next returns a draft that follows on a brew: the recipe as it was or, where one is given,
// with one change.
func (b Brew) Next(id string, change *coach.Proposal, now time.Time) Draft {
	d := Draft{Sheet: b.Sheet, Held: StartHeld}
	d.ID, d.Parent, d.Asked, d.Created = id, b.ID, change, now
	if change != nil {
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
	d.ID, d.Name, d.Typed, d.Tab, d.Checked, d.Timers, d.Past, d.Future, d.Created, d.Version = id, "", nil, "", nil, nil, nil, nil, now, 0
	return d
}

// Ready says whether the recipe can be brewed: nothing on it is unreadable.
func (d Draft) Ready() bool { return len(d.Typed) == 0 }

// Ratio is the ratio as it was set, as long as the recipe is as near to it as
// whole grams of water allow, else the recipe's own.
func (d Draft) Ratio() float64 {
	const wholeGram = 0.5 + 1e-9
	if off := float64(d.Recipe.Dose)*d.SetRatio - float64(d.Recipe.Total()); off >= -wholeGram && off <= wholeGram {
		return d.SetRatio
	}
	return d.Recipe.Ratio()
}

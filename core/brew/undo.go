package brew

import (
	"reflect"
	"slices"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
)

// mostUndone is how many changes of a recipe in the making can be taken back.
const mostUndone = 30

// A Turn is a recipe in the making as it was before a change: what the person set, and
// the ids of the gear.
type Turn struct {
	Recipe   recipe.Recipe
	Held     [2]recipe.Knob
	SetRatio float64
	Gear     gear.IDs
}

func (d Draft) turn() Turn {
	return Turn{d.Recipe, d.Held, d.SetRatio, d.Gear.IDs()}
}

// Remember keeps how the draft was before a change, for it to be taken back. A change
// that changed nothing of the recipe is none; one that did ends what could be done again.
func (d *Draft) Remember(before Draft) {
	was := before.turn()
	if reflect.DeepEqual(was, d.turn()) {
		return
	}
	d.Past = append(slices.Clone(d.Past), was)
	if more := len(d.Past) - mostUndone; more > 0 {
		d.Past = d.Past[more:]
	}
	d.Future = nil
}

// Undo takes back the last change, and returns what the gear must be made of. It
// returns false where there is nothing to take back.
func (d *Draft) Undo() (Turn, bool) { return d.swap(&d.Past, &d.Future) }

// Redo does again what was taken back.
func (d *Draft) Redo() (Turn, bool) { return d.swap(&d.Future, &d.Past) }

func (d *Draft) swap(from, to *[]Turn) (Turn, bool) {
	last := len(*from) - 1
	if last < 0 {
		return Turn{}, false
	}
	t := (*from)[last]
	*to = append(slices.Clone(*to), d.turn())
	*from = slices.Clone((*from)[:last])
	d.Recipe, d.Held, d.SetRatio, d.Typed = t.Recipe, t.Held, t.SetRatio, nil
	return t, true
}

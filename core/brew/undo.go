package brew

import (
	"reflect"
	"slices"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
)

// maxUndo is the maximum number of undo steps of a draft.
const maxUndo = 30

// An UndoStep is the state of a draft before a change: the person's settings, and the ids of the gear.
type UndoStep struct {
	Recipe   recipe.Recipe
	Held     [2]recipe.Knob
	SetRatio float64
	Gear     gear.IDs
}

func (d Draft) undoStep() UndoStep {
	return UndoStep{d.Recipe, d.Held, d.SetRatio, d.Gear.IDs()}
}

// Remember saves the draft before a change. It does nothing if the recipe did not change; otherwise it also
// clears the redo steps.
func (d *Draft) Remember(before Draft) {
	was := before.undoStep()
	if reflect.DeepEqual(was, d.undoStep()) {
		return
	}
	d.UndoSteps = append(slices.Clone(d.UndoSteps), was)
	if more := len(d.UndoSteps) - maxUndo; more > 0 {
		d.UndoSteps = d.UndoSteps[more:]
	}
	d.RedoSteps = nil
}

// Undo undoes the last change and returns the step, whose gear the caller must load. It returns false if
// there is nothing to undo.
func (d *Draft) Undo() (UndoStep, bool) { return d.swap(&d.UndoSteps, &d.RedoSteps) }

// Redo redoes the last undone change, like Undo.
func (d *Draft) Redo() (UndoStep, bool) { return d.swap(&d.RedoSteps, &d.UndoSteps) }

func (d *Draft) swap(from, to *[]UndoStep) (UndoStep, bool) {
	last := len(*from) - 1
	if last < 0 {
		return UndoStep{}, false
	}
	t := (*from)[last]
	*to = append(slices.Clone(*to), d.undoStep())
	*from = slices.Clone((*from)[:last])
	d.Recipe, d.Held, d.SetRatio, d.Typed = t.Recipe, t.Held, t.SetRatio, nil
	return t, true
}

package brew

import (
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A Setup is the input of the checklist: a recipe, gear, the units of the person, and whether they level
// the bed of a cone instead of making a well.
type Setup struct {
	recipe.Recipe
	gear.Set
	units.Prefs
	Level bool
}

// A SetupItem is a line of the checklist.
type SetupItem struct {
	ID    string
	Do    string
	Why   string
	Value string        // the amount to set or weigh, if any
	Wait  units.Seconds // duration of its timer; 0 for none
}

// Checklist returns the steps before the first water, in order.
func (j Setup) Checklist() []SetupItem {
	var out []SetupItem
	for _, e := range checklist {
		if e.when != nil && !e.when(j) {
			continue
		}
		item := SetupItem{ID: e.id, Do: e.do, Why: e.why}
		if e.reason != nil {
			item.Why = e.reason(j)
		}
		if e.value != nil {
			item.Value = e.value(j)
		}
		if e.wait != nil {
			item.Wait = e.wait(j)
		}
		out = append(out, item)
	}
	return out
}

// Cautions returns the applicable cautions.
func (j Setup) Cautions() []string {
	var out []string
	for _, c := range cautions {
		if c.when == nil || c.when(j) {
			out = append(out, j.Prefs.Localize(c.text))
		}
	}
	return out
}

// Package setup lists what to do before the first water, and the cautions that
// go with it, for one recipe and the gear it is made with.
package setup

import (
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A Job is what there is to set up for: a recipe, gear, how the person reads
// quantities, and whether they level the bed of a cone instead of making a well.
type Job struct {
	recipe.Recipe
	gear.Set
	units.Prefs
	Level bool
}

// An Item is one line of the checklist.
type Item struct {
	ID    string
	Do    string
	Why   string
	Value string        // the figure to set or weigh, where there is one
	Wait  units.Seconds // what a timer counts down; 0 where nothing is waited for
}

// Checklist returns what a job calls for, in the order in which it is done.
func Checklist(j Job) []Item {
	var out []Item
	for _, e := range checklist {
		if e.when != nil && !e.when(j) {
			continue
		}
		item := Item{ID: e.id, Do: e.do, Why: e.why}
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

// Cautions returns the cautions that apply, in plain words.
func Cautions(j Job) []string {
	var out []string
	for _, c := range cautions {
		if c.when == nil || c.when(j) {
			out = append(out, j.Prefs.Say(c.text))
		}
	}
	return out
}

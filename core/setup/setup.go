// Package setup lists what to do before the first water, and the cautions that
// go with it, for one recipe and the gear it is made with.
package setup

import (
	"fmt"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// An Item is one line of the checklist.
type Item struct {
	ID    string
	Do    string
	Why   string
	Value string // the figure to set or weigh, where there is one
}

// A job is what an item may depend on.
type job struct {
	recipe.Recipe
	gear.Set
	units.Prefs
}

func (j job) kind(k gear.BrewerKind) bool { return j.Brewer.Kind == k }
func (j job) paper() bool                 { return j.Brewer.Filter != gear.Cloth && j.Brewer.Filter != gear.Mesh }
func (j job) show(k units.Kind, v float64) string {
	return j.Unit(k).Format(v)
}

// An entry is one possible line: it says when it applies and how it reads.
type entry struct {
	id   string
	when func(job) bool // nil: always
	do   string
	why  string
	// reason makes the why where it depends on the job.
	reason func(job) string
	value  func(job) string
}

func not(f func(job) bool) func(job) bool { return func(j job) bool { return !f(j) } }

var checklist = []entry{
	{id: "kettle", when: func(j job) bool { return j.Kettle.Thermostat }, do: "Set the kettle and fill it",
		why: "Enough for the rinse and the brew.", value: func(j job) string { return j.show(units.Temperature, float64(j.Temperature())) }},
	{id: "fill", when: func(j job) bool { return !j.Kettle.Thermostat && j.Kettle.Capacity > 0 }, do: "Fill the kettle",
		why: "For the rinse and the brew. What is in it sets how fast it cools: the schedule counts on this much.", value: func(j job) string { return j.show(units.Water, units.Round(float64(j.fill()), -1)) }},
	{id: "boil", when: func(j job) bool { return !j.Kettle.Thermostat }, do: "Boil the kettle, then leave it off the boil with the lid open",
		reason: whyWait, value: offBoil},
	{id: "filter", when: job.paper, do: "Fold the filter and seat it against the wall",
		why: "A filter that stands off the wall lets water slip past."},
	{id: "mesh", when: not(job.paper), do: "Seat the clean filter", why: "Old oils in a cloth or a mesh taste rancid."},
	{id: "rinse", when: func(j job) bool { return j.Rinse }, do: "Rinse the filter with hot water",
		why: "Takes the taste of paper away, seals the paper, warms the brewer."},
	{id: "dry", when: func(j job) bool { return !j.Rinse && j.Brewer.Filter == gear.CorrugatedPaper }, do: "Leave the corrugated paper dry",
		why: "Wet ridges collapse and choke one side; this paper has little taste of its own."},
	{id: "warm", when: func(j job) bool { return j.Brewer.Material.Heavy() }, do: "Warm the brewer well, about a cupful of hot water",
		why: "Glass and ceramic take several degrees out of the first pour."},
	{id: "valve", when: func(j job) bool { return j.kind(gear.ValveSteeper) && j.Rinse }, do: "Open the valve, let the rinse water out, then tip out the rest",
		why: "Tipped with the valve shut, the filter comes out too."},
	{id: "tip", when: func(j job) bool { return !j.kind(gear.ValveSteeper) && j.Rinse }, do: "Tip the rinse water out of the carafe",
		why: "Else it is in the cup and on the scale."},
	{id: "weigh", do: "Weigh out the coffee", why: "With what the grinder keeps for itself.",
		value: func(j job) string { return j.show(units.Dose, float64(j.Dose+j.Grinder.Loss)) }},
	{id: "grind", do: "Grind last", why: "Ground coffee goes flat within minutes.",
		value: func(j job) string { return j.Grinder.Setting(j.Grind) }},
	{id: "shut", when: func(j job) bool { return j.kind(gear.ValveSteeper) }, do: "Shut the valve",
		why: "Open, it lets the first water through."},
	{id: "well", when: func(j job) bool { return j.kind(gear.OpenCone) }, do: "Put the coffee in, make a small well in the middle",
		why: "The bloom reaches the deepest grounds."},
	{id: "level", when: func(j job) bool { return !j.kind(gear.OpenCone) }, do: "Put the coffee in, shake it level",
		why: "Water takes the shallow side."},
	{id: "cup", do: "Warm the cup", why: "Cold ceramic takes the first heat of the coffee."},
	{id: "tare", do: "Brewer level on its stand, scale at zero", why: "From here on the scale shows the running total."},
}

// fill is the water that goes into the kettle for the rinse and the brew.
func (j job) fill() units.Grams {
	const rinse = 150 // g
	water := j.Water()
	if j.Rinse || j.Brewer.Material.Heavy() {
		water += rinse
	}
	return j.Kettle.Fill(water)
}

func whyWait(j job) string {
	if j.Kettle.Taken() {
		return "Without a thermostat the wait sets the temperature: by this kettle’s own two readings."
	}
	return "Without a thermostat the wait sets the temperature. A rule of thumb, until two readings of the kettle are kept under Gear."
}

func offBoil(j job) string {
	wait := j.Kettle.OffBoilWait(j.fill(), j.Boiling, j.Temperature())
	if wait < 5 {
		return "no wait"
	}
	fives := func(s float64) int { return int(s/5+0.5) * 5 }
	return fmt.Sprintf("about %s, ± %d s", units.Seconds(fives(float64(wait))), max(5, fives(float64(wait)*j.Kettle.WaitError())))
}

// Checklist returns what this recipe and this gear call for, in the order in which it is done.
func Checklist(r recipe.Recipe, g gear.Set, p units.Prefs) []Item {
	j := job{r, g, p}
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
		out = append(out, item)
	}
	return out
}

var cautions = []struct {
	when func(job) bool
	text string
}{
	{nil, "Boiling water and steam burn. Keep the spout low, and the cord out of the way."},
	{func(j job) bool { return j.Grinder.Burrs != gear.HandMill }, "Unplug the grinder before you reach into it."},
	{func(j job) bool { return j.kind(gear.ValveSteeper) }, "The valve opens when the steeper is set on a cup: hold it, and check that the cup takes all of it."},
	{func(j job) bool { return !j.kind(gear.ValveSteeper) }, "A tall brewer on a small glass tips. Check that it stands."},
	{func(j job) bool { return j.Brewer.Material == gear.Glass }, "Cold water in hot glass can crack it. Use heat-proof glass only."},
	{nil, "Coffee above about 60 °C scalds. Let it cool before you drink."},
}

// Cautions returns the cautions that apply, in plain words.
func Cautions(r recipe.Recipe, g gear.Set) []string {
	j := job{Recipe: r, Set: g}
	var out []string
	for _, c := range cautions {
		if c.when == nil || c.when(j) {
			out = append(out, c.text)
		}
	}
	return out
}

package forecast

import (
	"strings"
	"testing"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// Every check finds its fault, describes it in a sentence, and offers a fix after which the model no longer
// predicts it.
func TestEveryCheckFindsAndFixesItsFault(t *testing.T) {
	t.Parallel()
	stove := gear.Kettle{Name: "The kettle", Capacity: 600}
	for name, c := range map[string]struct {
		kind   gear.BrewerKind
		change func(*Question)
		at     recipe.Knob // of the warning
		fix    recipe.Knob
	}{
		"a thin bed": {gear.OpenCone, func(q *Question) { q.Recipe = q.Recipe.ResizeRounded(8, 132) }, recipe.Dose, recipe.Dose},
		"over the rim": {gear.OpenCone, func(q *Question) {
			q.Gear.Brewer.Holds = 300
			q.Recipe = q.Recipe.ResizeRounded(30, 495).Divide(1).With(recipe.AddressOf(recipe.Rate), 12)
		}, recipe.Water, recipe.Pours},
		"too much to hold": {gear.ValveSteeper, func(q *Question) { q.Recipe = q.Recipe.ResizeRounded(30, 600) }, recipe.Water, recipe.Water},
		"a stall":          {gear.OpenCone, func(q *Question) { q.Recipe.Grind = 210 }, recipe.Grind, recipe.Grind},
		"too slow":         {gear.OpenCone, func(q *Question) { q.Recipe.Grind = 420 }, recipe.Grind, recipe.Grind},
		"too fast":         {gear.OpenCone, func(q *Question) { q.Recipe.Grind = 1100 }, recipe.Grind, recipe.Grind},
		"a dry bed": {gear.OpenCone, func(q *Question) {
			q.Recipe = q.Recipe.With(recipe.AddressOf(recipe.Gap), 75)
			q.Bag.Window = coffee.Window{From: 180, To: 330}
		}, recipe.Gap, recipe.Gap},
		"a drowned bed": {gear.OpenCone, func(q *Question) {
			q.Gear.Brewer.Holds = 290
			q.Recipe = q.Recipe.With(recipe.AddressOf(recipe.Rate), 10).With(recipe.AddressOf(recipe.Gap), 10).With(recipe.AddressOf(recipe.Grind), 560)
		}, recipe.Gap, recipe.Gap},
		"a kettle that cools": {gear.OpenCone, func(q *Question) {
			q.Gear.Kettle, q.Recipe = stove,
				q.Recipe.With(recipe.AddressOf(recipe.Temperature), 93)
		}, recipe.Temperature, recipe.Temperature},
		"a kettle at the boil": {gear.OpenCone, func(q *Question) {
			q.Gear.Kettle, q.Gear.Boiling, q.Bag.Window = stove, 93, coffee.Window{From: 150, To: 330}
			q.Recipe = q.Recipe.With(recipe.AddressOf(recipe.Temperature), 93).With(recipe.AddressOf(recipe.Rate), 7).With(recipe.AddressOf(recipe.BloomTime),
				30).With(recipe.AddressOf(recipe.Gap), 45)
		}, recipe.Temperature, recipe.Gap},
	} {
		q := question(c.kind, coffee.Medium)
		c.change(&q)
		f, err := Predict(q)
		if err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		var found *recipe.Warning
		all := Check(q, f, units.Prefs{})
		for i, w := range all {
			if w.At == recipe.AddressOf(c.at) && found == nil {
				found = &all[i]
			}
		}
		if found == nil || !strings.HasSuffix(found.Text, ".") {
			t.Errorf("%s: warns of %+v", name, all)
			continue
		}
		if found.Fix == nil || found.Fix.Knob != c.fix {
			t.Errorf("%s: %q offers %+v", name, found.Text, found.Fix)
			continue
		}
		q.Recipe = found.Fix.Apply(q.Recipe)
		if f, err = Predict(q); err != nil {
			t.Fatalf("%s: fixed as offered: %v", name, err)
		}
		for _, w := range Check(q, f, units.Prefs{}) {
			if w.At == recipe.AddressOf(c.at) {
				t.Errorf("%s: fixed as offered (%+v), it still warns: %s", name, found.Fix, w.Text)
			}
		}
	}
}

// Suggested recipes have no warnings.
func TestSuggestionHasNoWarnings(t *testing.T) {
	t.Parallel()
	for _, form := range gear.BrewerForms() {
		for _, roast := range coffee.Roasts() {
			q := question(form.Kind, roast)
			f, err := Predict(q)
			if err != nil {
				t.Fatal(err)
			}
			if w := Check(q, f, units.Prefs{}); len(w) > 0 {
				t.Errorf("%s, %v: %+v", form.Name, roast, w)
			}
		}
	}
}

// One step of each knob changes the cup in the direction that practitioners know, in every brewer and for
// every roast.
func TestKnobsTurnTheCupTheRightWay(t *testing.T) {
	t.Parallel()
	for _, form := range gear.BrewerForms() {
		for _, roast := range coffee.Roasts() {
			q := question(form.Kind, roast)
			r := q.Recipe
			up := func(k recipe.Knob, by float64) *Difference {
				return Try(q, []Move{{recipe.AddressOf(k), r.Value(recipe.AddressOf(k)) + by}})[0]
			}
			wider, coarser, hotter := up(recipe.Ratio, 1), up(recipe.Grind, 54), up(recipe.Temperature, 2)
			if wider.Yield <= 0 || wider.Strength >= 0 || wider.Time < 0 {
				t.Errorf("%s, %v: a wider ratio %+v", form.Name, roast, wider)
			}
			if coarser.Yield >= 0 || coarser.Strength >= 0 || coarser.Time >= 0 || coarser.Lean >= 0 {
				t.Errorf("%s, %v: coarser %+v", form.Name, roast, coarser)
			}
			if hotter.Yield <= 0 || hotter.Time >= 0 || hotter.Lean <= 0 || hotter.Tilt() != "same" { // two degrees cannot be tasted
				t.Errorf("%s, %v: hotter %+v", form.Name, roast, hotter)
			}
			if form.Immersion {
				if longer := up(recipe.Release, 30); longer.Yield <= 0 {
					t.Errorf("%s, %v: a longer steep %+v", form.Name, roast, longer)
				}
				continue
			}
			if more := up(recipe.Pours, 1); more.Yield <= 0 || more.Time <= 0 {
				t.Errorf("%s, %v: a pour more %+v", form.Name, roast, more)
			}
		}
	}
}

// The schedule shows the expected time of a pour that waits for the bed, and the expected temperature of a
// kettle that cools.
func TestScheduleHasExpectedTimesAndTemperatures(t *testing.T) {
	t.Parallel()
	q := question(gear.OpenCone, coffee.Medium)
	q.Recipe, q.Gear.Kettle = q.Recipe.With(recipe.AddressOf(recipe.Wait), 1), gear.Kettle{Capacity: 900}
	f, err := Predict(q)
	if err != nil {
		t.Fatal(err)
	}
	asked, plan := q.Recipe.Plan(), f.Plan
	for i, s := range plan.Steps {
		if i > 0 && (s.Start < plan.Steps[i-1].End() || s.Temperature >= plan.Steps[i-1].Temperature) {
			t.Errorf("step %d at %v with %v follows one until %v with %v", i, s.Start, s.Temperature, plan.Steps[i-1].End(),
				plan.Steps[i-1].Temperature)
		}
		if i > 1 && f.Pours[i].Above > 0.5 {
			t.Errorf("pour %d begins with %.1f mm over the bed", i, f.Pours[i].Above)
		}
	}
	if plan.Steps[1].Start != asked.Steps[1].Start { // the bloom keeps its time, although it has drained long before
		t.Errorf("the first pour after the bloom begins at %v", plan.Steps[1].Start)
	}
	if last := plan.Steps[len(plan.Steps)-1]; plan.Finish < last.End()+recipe.MinDrain {
		t.Errorf("ends at %v, with the last pour in at %v", plan.Finish, last.End())
	}
}

package trial

import (
	"errors"
	"testing"

	"yardbloom/core/brew"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/core/water"
)

// Each run of a trial of waters has its own water and otherwise the same sheet, and the model expects a slower extraction in
// softer water. Mutations caught: all runs with the first water, a bend between waters.
func TestTrialOfWaters(t *testing.T) {
	var waters []Option
	for _, w := range []water.Water{{ID: "soft", Name: "Soft", TypedHardness: 5, TypedAlkalinity: 5, Known: true},
		{ID: "hard", Name: "Hard", TypedHardness: 250, TypedAlkalinity: 40, Known: true}} {
		waters = append(waters, Option{Name: w.Name, Water: w})
	}
	tr, err := New("t", "waters", sheet(), OfOptions(ByWater, waters), nil, 3, ByYield, 7)
	if err != nil || len(tr.Runs) != 6 {
		t.Fatalf("%d runs, %v", len(tr.Runs), err)
	}
	for i, run := range tr.Runs {
		s := tr.SheetOf(run)
		if s.Gear.Water != waters[run.Level].Water || s.Recipe.Dose != tr.Sheet.Recipe.Dose {
			t.Errorf("run %d is brewed with %q", i, s.Gear.Water.Name)
		}
		tr = tr.SetResult(i, 20+float64(run.Level)+0.1*float64(i%2), "")
	}
	a, ok := tr.Answer()
	if !ok || a.Bend != nil {
		t.Fatalf("answer %+v", a)
	}
	a = tr.Expect(a)
	if d := a.Levels[1].Expected - a.Levels[0].Expected; d < 0.1 || d > 1 {
		t.Errorf("the model expects %+.2f points in the harder water", d)
	}
	if says := tr.LevelName(1, tr.Sheet.Prefs); says != "Hard" {
		t.Errorf("level %q", says)
	}
	if _, err := New("t", "waters", sheet(), OfOptions(ByWater, waters[:1]), nil, 3, ByYield, 7); !errors.Is(err, ErrLevels) {
		t.Errorf("one water: %v", err)
	}
}

// Every kind of option changes what it names and nothing else, and every study can be planned for a recipe that it suits.
// Mutations caught: an option that changes nothing, a study for a recipe without its setting.
func TestOptionsAndStudies(t *testing.T) {
	for _, c := range []struct {
		knob recipe.Knob
		o    Option
		done func(brew.Sheet) bool
	}{
		{ByPaper, Option{Name: "thick", Filter: gear.ThickPaper}, func(s brew.Sheet) bool { return s.Gear.Brewer.Filter == gear.ThickPaper }},
		{ByBrewer, Option{Name: "flat", Brewer: gear.Brewer{Kind: gear.FlatBed}}, func(s brew.Sheet) bool { return s.Gear.Brewer.Kind == gear.FlatBed }},
		{ByGrinder, Option{Name: "mill", Grinder: gear.Grinder{ID: "m"}}, func(s brew.Sheet) bool { return s.Gear.Grinder.ID == "m" }},
		{ByName, Option{Name: "with music"}, func(s brew.Sheet) bool { return s.Gear.Brewer == sheet().Gear.Brewer }},
	} {
		tr, err := New("t", "", sheet(), OfOptions(c.knob, []Option{{Name: "as it is", Filter: gear.StandardPaper, Brewer: sheet().Gear.Brewer}, c.o}), nil,
			2, ByYield, 1)
		if err != nil {
			t.Fatalf("%s: %v", c.knob, err)
		}
		s := tr.SheetOf(Run{Level: 1})
		if !c.done(s) || s.Recipe.Grind != sheet().Recipe.Grind || tr.NameOf(Run{Level: 1}, units.Prefs{}) != c.o.Name {
			t.Errorf("%s: brewed with %+v", c.knob, s.Gear)
		}
	}
	steeper := Option{Name: "steeper", Brewer: gear.Brewer{Kind: gear.ValveSteeper}}
	if _, err := New("t", "", sheet(), OfOptions(ByBrewer, []Option{steeper, {Brewer: sheet().Gear.Brewer}}), nil, 2, ByMark, 1); !errors.Is(err, ErrValve) {
		t.Errorf("a steeper with a pour-over's recipe: %v", err)
	}
	steeped, iced := sheet(), sheet()
	steeped.Recipe = recipe.SteepAndRelease.Style().Generate(16, 256, 93)
	iced.Recipe = recipe.IceHotAndSlow.Style().Generate(18, 270, 93)
	for _, study := range Studies() {
		planned := 0
		for _, s := range []brew.Sheet{sheet(), steeped, iced} {
			if study.For != nil && !study.For(s.Recipe) {
				continue
			}
			f := OfOptions(study.Knob, []Option{{Name: "a"}, {Name: "b"}})
			if study.Levels != nil {
				f = Of(study.Knob, study.Levels(s.Recipe)...)
			}
			if _, err := New("t", study.Name, s, f, nil, study.Repeats, study.Measure, 1); err == nil {
				planned++
			}
		}
		if planned == 0 {
			t.Errorf("%s suits no recipe", study.ID)
		}
	}
}

package coach

import (
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

func measured(tds float64, asked *brew.Asked) brew.Brew {
	r := recipe.Recipe{Style: recipe.ThreeRounds, Dose: 18, Water: 297, Grind: 650, Temperature: 93, Bloom: 3, BloomTime: 45}
	return brew.Brew{Status: brew.Done, Recipe: r, Plan: r.Plan(), Asked: asked, Gear: brew.Gear{Brewer: gear.Brewer{Kind: gear.OpenCone, Retained: 2}},
		Cup: cup.Cup{Beverage: 261, TDS: tds, Drawdown: 200}}
}

func TestAChangeIsJudgedAgainstWhatWasExpectedAndItsError(t *testing.T) {
	up := &brew.Asked{Change: recipe.Change{Knob: recipe.KnobGrind, From: 650, To: 610}, Yield: 0.8}
	for _, c := range []struct {
		name  string
		after float64
		asked *brew.Asked
		want  Verdict
	}{
		{"far more", 1.50, up, AsExpected},
		{"a little more", 1.36, up, WithinError},
		{"hardly more", 1.31, up, NoChange},
		{"a little less", 1.26, up, NoChange},
		{"far less", 1.10, up, Opposite},
		{"more, but nothing was asked", 1.50, nil, ""},
		{"not measured", 0, up, ""},
	} {
		o := Compare(measured(1.30, nil), measured(c.after, c.asked))
		if o.Verdict != c.want {
			t.Errorf("%s: %q, want %q", c.name, o.Verdict, c.want)
		}
		if (o.Yield == nil) != (c.after == 0) || o.Time == nil {
			t.Errorf("%s: yield %v, time %v", c.name, o.Yield, o.Time)
		}
	}
}

func TestTheBagsOwnWindowGoesBeforeThePlans(t *testing.T) {
	b := measured(1.3, nil)
	if got := Window(b); got != b.Plan.Window {
		t.Errorf("without a window of its own: %v", got)
	}
	b.Bag.Window = coffee.Window{From: 150, To: 170}
	if got := Of(b, units.Prefs{}).Window; got != b.Bag.Window {
		t.Errorf("with one: %v", got)
	}
}

func TestWhatWasMarkedWhilePouringIsEvidence(t *testing.T) {
	b := measured(1.3, nil)
	b.Started = time.Date(2026, 5, 12, 8, 0, 0, 0, time.UTC)
	b.Ended = b.Started.Add(200 * time.Second)
	b.Events = []brew.Event{{Kind: brew.MarkEvent, Mark: brew.DrySpot, At: 10}, {Kind: brew.MarkEvent, Mark: brew.Stall, At: 20}, {Kind: brew.Undo, At: 22}}
	if got := Of(b, units.Prefs{}).Marks; len(got) != 1 || got[0] != brew.DrySpot {
		t.Errorf("marks: %v", got)
	}
}

func BenchmarkAdvise(b *testing.B) {
	brew := base()
	brew.Cup.Steps[cup.Acidity] = 5
	for b.Loop() {
		_ = Advise(brew)
	}
}

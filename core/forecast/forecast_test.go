package forecast

import (
	"strings"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
)

var now = time.Date(2026, 5, 12, 9, 0, 0, 0, time.UTC)

func question(kind gear.BrewerKind, roast coffee.Roast) Question {
	brewers, grinders, kettles := gear.Starter()
	q := Question{Bag: coffee.Bag{Roast: roast, Process: coffee.Washed, RoastedOn: "2026-04-25"}, Now: now,
		Gear: brew.Gear{Grinder: grinders[0], Kettle: kettles[1], Boiling: 100}}
	for _, b := range brewers {
		if b.Kind == kind {
			q.Gear.Brewer, q.Gear.Brewer.Retained = b, gear.DefaultRetained
		}
	}
	q.Recipe = recipe.Suggest("", recipe.Situation{Bag: q.Bag, Brewer: q.Gear.Brewer, Grinder: q.Gear.Grinder, Boiling: 100, Now: now})
	return q
}

// What the product suggests for a first brew must be what the model calls a good one.
func TestASuggestedRecipeIsPredictedToBeAGoodStart(t *testing.T) {
	for _, form := range gear.BrewerForms() {
		for _, roast := range coffee.Roasts() {
			q := question(form.Kind, roast)
			f, err := Of(q)
			if err != nil {
				t.Fatalf("%s, %v: %v", form.Name, roast, err)
			}
			plan := q.Recipe.Plan()
			t.Logf("%s, %v: %v (aim %v), EY %.1f, TDS %.2f, beverage %.0f g, top %.0f of %.0f mm", form.Name, roast, f.Drawdown, plan.Finish, f.Yield.Value, f.TDS, float64(f.Beverage), f.TopLevel, f.Rim)
			if f.Yield.Value < 17.5 || f.Yield.Value > 23.5 {
				t.Errorf("%s, %v: EY %.1f", form.Name, roast, f.Yield.Value)
			}
			if d := f.Drawdown - plan.Finish; d < -45 || d > 45 || !f.Drained {
				t.Errorf("%s, %v: predicted %v, aimed at %v", form.Name, roast, f.Drawdown, plan.Finish)
			}
			if f.Overflow >= 0 {
				t.Errorf("%s, %v: runs over at %v", form.Name, roast, f.Overflow)
			}
		}
	}
}

func TestThePredictionFollowsCoffeeAndGear(t *testing.T) {
	ask := func(change func(*Question)) Forecast {
		q := question(gear.OpenCone, coffee.Medium)
		change(&q)
		f, err := Of(q)
		if err != nil {
			t.Fatal(err)
		}
		return f
	}
	base := ask(func(*Question) {})
	for name, c := range map[string]struct {
		change func(*Question)
		higher func(f Forecast) bool
	}{
		"stale coffee gives less":        {func(q *Question) { q.Bag.RoastedOn = "2026-01-01" }, func(f Forecast) bool { return f.Yield.Value < base.Yield.Value }},
		"fresh coffee wets more slowly":  {func(q *Question) { q.Bag.RoastedOn = "2026-05-11" }, func(f Forecast) bool { return f.Yield.Value < base.Yield.Value }},
		"a blade makes more fines":       {func(q *Question) { q.Gear.Grinder.Burrs = gear.Blade }, func(f Forecast) bool { return f.Drawdown > base.Drawdown }},
		"thick paper is slower":          {func(q *Question) { q.Gear.Brewer.Filter = gear.ThickPaper }, func(f Forecast) bool { return f.Drawdown > base.Drawdown }},
		"a cold ceramic cone takes heat": {func(q *Question) { q.Gear.Brewer.Material = gear.Ceramic; q.Recipe.Rinse = false }, func(f Forecast) bool { return f.SlurryMean < base.SlurryMean-1 }},
		"a kettle cools off its base":    {func(q *Question) { q.Gear.Kettle = gear.Kettle{Capacity: 900} }, func(f Forecast) bool { return f.SlurryMean < base.SlurryMean-0.7 && f.Yield.Value < base.Yield.Value }},
		"a swirl extracts":               {func(q *Question) { q.Recipe.Swirl = false }, func(f Forecast) bool { return f.Yield.Value < base.Yield.Value }},
	} {
		if !c.higher(ask(c.change)) {
			t.Errorf("not so: %s", name)
		}
	}
}

func TestOneStepTellsBothWays(t *testing.T) {
	q := question(gear.OpenCone, coffee.Medium)
	base, err := Of(q)
	if err != nil {
		t.Fatal(err)
	}
	steps, err := Steps(q, base, []Move{{recipe.KnobGrind, 623}, {recipe.KnobTemperature, float64(q.Recipe.Temperature) + 1}, {recipe.KnobRatio, 17}})
	if err != nil {
		t.Fatal(err)
	}
	finer, hotter, wider := steps[0], steps[1], steps[2]
	if finer.Yield <= 0 || finer.Time <= 0 || hotter.Yield <= 0 || hotter.Time > 0 || wider.Yield <= 0 || wider.Strength >= 0 {
		t.Errorf("finer %+v, hotter %+v, wider %+v", finer, hotter, wider)
	}
}

func BenchmarkFullSet(b *testing.B) {
	q := question(gear.OpenCone, coffee.Medium)
	moves := []Move{{recipe.KnobGrind, 623}, {recipe.KnobGrind, 677}, {recipe.KnobTemperature, 92}, {recipe.KnobTemperature, 94},
		{recipe.KnobRatio, 16}, {recipe.KnobRatio, 17}, {recipe.KnobBloom, 2.5}, {recipe.KnobBloom, 3.5}}
	for b.Loop() {
		base, _ := Of(q)
		if _, err := Steps(q, base, moves); err != nil {
			b.Fatal(err)
		}
	}
}

func TestAGoalIsReachedOrTheReasonIsSaid(t *testing.T) {
	q := question(gear.OpenCone, coffee.Medium)
	before := q.Recipe.Amounts(2)
	for _, c := range []struct {
		goal  Goal
		value float64
		near  float64 // half a step of the dial, or of the scale
		read  func(Forecast) float64
	}{
		{DrainIn, 190, 7, func(f Forecast) float64 { return float64(f.Drawdown) }},
		{YieldOf, 20.5, 0.45, func(f Forecast) float64 { return f.Yield.Value }},
		{StrengthOf, 1.30, 0.01, func(f Forecast) float64 { return f.TDS }},
	} {
		r, err := Reach(q, c.goal, c.value)
		if err != nil {
			t.Fatalf("%s %v: %v", c.goal, c.value, err)
		}
		next := q
		next.Recipe = r
		f, err := Of(next)
		if err != nil {
			t.Fatal(err)
		}
		if got := c.read(f); got < c.value-c.near || got > c.value+c.near {
			t.Errorf("%s %v: the recipe is predicted to give %v", c.goal, c.value, got)
		}
		if r.Grind != q.Gear.Grinder.Snap(r.Grind) {
			t.Errorf("%s: %v µm is between two clicks", c.goal, r.Grind)
		}
		if c.goal == StrengthOf {
			if cup := r.Amounts(2).Cup; cup < before.Cup-1 || cup > before.Cup+1 || r.Grind != q.Recipe.Grind {
				t.Errorf("another strength changed the cup from %v to %v g, the grind to %v", before.Cup, cup, r.Grind)
			}
		}
	}
	for goal, value := range map[Goal]float64{DrainIn: 60, YieldOf: 35, StrengthOf: 4} {
		r, err := Reach(q, goal, value)
		if err == nil || !strings.HasSuffix(err.Error(), ".") || r != q.Recipe {
			t.Errorf("%s %v: %v", goal, value, err)
		}
	}
}

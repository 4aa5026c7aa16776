package forecast

import (
	"errors"
	"math"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"
	"time"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

var now = time.Date(2026, 5, 12, 9, 0, 0, 0, time.UTC)

func question(kind gear.BrewerKind, roast coffee.Roast) Question {
	brewers, grinders, kettles := gear.Starter()
	q := Question{Bag: coffee.Bag{Roast: roast, Process: coffee.Washed, RoastedOn: "2026-04-25"}, Now: now,
		Gear: gear.Set{Grinder: grinders[0], Kettle: kettles[1], Boiling: 100}}
	for _, b := range brewers {
		if b.Kind == kind {
			q.Gear.Brewer, q.Gear.Brewer.Retained = b, gear.DefaultRetained
		}
	}
	q.Recipe = recipe.Suggest("", recipe.Situation{Bag: q.Bag, Gear: q.Gear, Now: now})
	return q
}

// The model predicts a good cup for a suggested first recipe.
func TestSuggestedRecipeHasAPlausiblePrediction(t *testing.T) {
	t.Parallel()
	for _, form := range gear.BrewerForms() {
		for _, roast := range coffee.Roasts() {
			q := question(form.Kind, roast)
			f, err := Predict(q)
			if err != nil {
				t.Fatalf("%s, %v: %v", form.Name, roast, err)
			}
			plan := q.Recipe.Plan()
			t.Logf("%s, %v: %v (aim %v), EY %.1f, TDS %.2f, beverage %.0f g, top %.0f of %.0f mm", form.Name, roast, f.Drawdown,
				plan.Finish, f.Yield.Value, f.TDS, float64(f.Beverage), f.TopLevel, f.Rim)
			if f.Yield.Value < 17.5 || f.Yield.Value > 23.5 {
				t.Errorf("%s, %v: EY %.1f", form.Name, roast, f.Yield.Value)
			}
			if w := plan.Window; f.Drawdown < w.From || f.Drawdown > w.To || !f.Drained {
				t.Errorf("%s, %v: predicted %v, wanted %v to %v", form.Name, roast, f.Drawdown, w.From, w.To)
			}
			if f.Overflow >= 0 {
				t.Errorf("%s, %v: runs over at %v", form.Name, roast, f.Overflow)
			}
		}
	}
}

func TestPredictionFollowsCoffeeAndGear(t *testing.T) {
	t.Parallel()
	ask := func(change func(*Question)) Forecast {
		q := question(gear.OpenCone, coffee.Medium)
		change(&q)
		f, err := Predict(q)
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
		"stale coffee gives less": {func(q *Question) { q.Bag.RoastedOn = "2026-01-01" },
			func(f Forecast) bool { return f.Yield.Value < base.Yield.Value }},
		"fresh coffee wets more slowly": {func(q *Question) { q.Bag.RoastedOn = "2026-05-11" },
			func(f Forecast) bool { return f.Yield.Value < base.Yield.Value }},
		"a blade makes more fines": {func(q *Question) { q.Gear.Grinder.Burrs = gear.Blade },
			func(f Forecast) bool { return f.Drawdown > base.Drawdown }},
		"thick paper is slower": {func(q *Question) { q.Gear.Brewer.Filter = gear.ThickPaper },
			func(f Forecast) bool { return f.Drawdown > base.Drawdown }},
		"a cold ceramic cone takes heat": {func(q *Question) { q.Gear.Brewer.Material = gear.Ceramic; q.Recipe.Rinse = false },
			func(f Forecast) bool { return f.SlurryMean < base.SlurryMean-1 }},
		"a kettle cools off its base": {func(q *Question) { q.Gear.Kettle = gear.Kettle{Capacity: 900} },
			func(f Forecast) bool { return f.SlurryMean < base.SlurryMean-0.7 && f.Yield.Value < base.Yield.Value }},
		"a swirl extracts": {func(q *Question) { q.Recipe = q.Recipe.With(recipe.AddressOf(recipe.HandAfter), 0) },
			func(f Forecast) bool { return f.Yield.Value < base.Yield.Value }},
	} {
		if !c.higher(ask(c.change)) {
			t.Errorf("not so: %s", name)
		}
	}
}

func TestOneStepPredictsBothDirections(t *testing.T) {
	t.Parallel()
	q := question(gear.OpenCone, coffee.Medium)
	steps := Try(q, []Move{{recipe.AddressOf(recipe.Grind), 623},
		{recipe.AddressOf(recipe.Temperature), float64(q.Recipe.Temperature()) + 1},
		{recipe.AddressOf(recipe.Ratio), 17}})
	finer, hotter, wider := steps[0], steps[1], steps[2]
	if finer.Yield <= 0 || finer.Time <= 0 || hotter.Yield <= 0 || hotter.Time > 0 || wider.Yield <= 0 || wider.Strength >= 0 {
		t.Errorf("finer %+v, hotter %+v, wider %+v", finer, hotter, wider)
	}
}

// The full set for the Recipe station: the brew, both neighbours of each knob, and the checks.
func BenchmarkFullSet(b *testing.B) {
	q := question(gear.OpenCone, coffee.Medium)
	moves := []Move{{recipe.AddressOf(recipe.Grind), 623}, {recipe.AddressOf(recipe.Grind), 677},
		{recipe.AddressOf(recipe.Temperature), 92},
		{recipe.AddressOf(recipe.Temperature), 94},
		{recipe.AddressOf(recipe.Ratio), 16}, {recipe.AddressOf(recipe.Ratio), 17}, {recipe.AddressOf(recipe.Pours), 2},
		{recipe.AddressOf(recipe.Pours), 4},
		{recipe.AddressOf(recipe.Bloom), 2.5}, {recipe.AddressOf(recipe.Bloom), 3.5},
		{recipe.AddressOf(recipe.BloomTime), 30}, {recipe.AddressOf(recipe.BloomTime), 60}, {recipe.AddressOf(recipe.Gap), 35},
		{recipe.AddressOf(recipe.Gap), 45},
		{recipe.AddressOf(recipe.Rate), 4}, {recipe.AddressOf(recipe.Rate), 6}}
	for name, size := range map[string]units.Micrometres{"all well": q.Recipe.Grind, "off the window": 1000} {
		b.Run(name, func(b *testing.B) {
			q.Recipe.Grind = size
			for b.Loop() {
				base, err := Predict(q)
				if err != nil {
					b.Fatal(err)
				}
				Try(q, moves)
				Check(q, base, units.Prefs{})
			}
		})
	}
}

// Every way that is offered reaches the goal, and every other one has a reason.
func TestGoalIsReachedOrHasAReason(t *testing.T) {
	t.Parallel()
	q := question(gear.OpenCone, coffee.Medium)
	q.Gear.Boiling = 96
	before := q.Recipe.Amounts(2)
	for _, c := range []struct {
		goal  Goal
		value float64
		near  float64 // half a step of the dial, a degree, or a gram
		read  func(Forecast) float64
		ways  int // expected number of ways
	}{
		{DrainIn, 190, 7, func(f Forecast) float64 { return float64(f.Drawdown) }, 2},
		{YieldOf, 20.5, 0.45, func(f Forecast) float64 { return f.Yield.Value }, 2},
		{StrengthOf, 1.30, 0.025, func(f Forecast) float64 { return f.TDS }, 2},
	} {
		reached := 0
		for _, w := range Ways(q, c.goal, c.value) {
			if w.Err != nil {
				if !unreachable(w.Err) {
					t.Errorf("%s by the %s: %v", c.goal, w.Knob, w.Err)
				}
				continue
			}
			reached++
			if got := c.read(w.Predicted); got < c.value-c.near || got > c.value+c.near {
				t.Errorf("%s %v by the %s: the recipe is predicted to give %v", c.goal, c.value, w.Knob, got)
			}
			if w.Recipe.Grind != q.Gear.Grinder.Snap(w.Recipe.Grind) || w.Recipe.Temperature() > 96 {
				t.Errorf("%s by the %s: %v µm, %v °C cannot be set", c.goal, w.Knob, w.Recipe.Grind, w.Recipe.Temperature())
			}
			if cup := w.Recipe.Amounts(2).Cup; c.goal == StrengthOf && (cup < before.Cup-1 || cup > before.Cup+1) {
				t.Errorf("another strength changed the cup from %v to %v g", before.Cup, cup)
			}
			for _, change := range recipe.Changes(q.Recipe, w.Recipe) {
				if change.Knob != w.Knob && !(c.goal == StrengthOf && change.Knob == recipe.SameCup) { // the same cup needs another dose
					t.Errorf("%s by the %s changed %+v", c.goal, w.Knob, change)
				}
			}
		}
		if reached < c.ways {
			t.Errorf("%s %v: only %d ways", c.goal, c.value, reached)
		}
	}
	for goal, value := range map[Goal]float64{DrainIn: 45, YieldOf: 35, StrengthOf: 9} {
		for _, w := range Ways(q, goal, value) {
			if !unreachable(w.Err) || !reflect.DeepEqual(w.Recipe, q.Recipe) {
				t.Errorf("%s %v by the %s: %v", goal, value, w.Knob, w.Err)
			}
		}
	}
}

func unreachable(err error) bool {
	var none *UnreachableError
	return errors.As(err, &none) && none.Seen.Lo <= none.Seen.Hi
}

// Every setting of the Recipe station is in the model's range. The checks terminate over all ranges and can
// fix most problems.
func TestEverySettingCanBePredicted(t *testing.T) {
	t.Parallel()
	rng := rand.New(rand.NewPCG(3, 5))
	in := func(r units.Range) float64 { return r.Lo + rng.Float64()*(r.Hi-r.Lo) }
	knobs := []recipe.Knob{recipe.Grind, recipe.Temperature, recipe.Bloom, recipe.BloomTime, recipe.Pours, recipe.Rate, recipe.Gap,
		recipe.Wait, recipe.PourHeight, recipe.Release}
	warned, mended := 0, 0
	for range 80 {
		form := gear.BrewerForms()[rng.IntN(4)]
		q := question(form.Kind, coffee.Roasts()[rng.IntN(5)])
		q.Gear.Kettle.Thermostat = rng.IntN(2) == 0
		dose := units.Grams(in(recipe.Dose.Range()))
		q.Recipe = q.Recipe.ResizeRounded(dose, min(units.Grams(recipe.Water.Range().Hi), dose*units.Grams(in(recipe.Ratio.Range()))))
		for _, k := range knobs {
			if q.Recipe.Has(recipe.AddressOf(k)) {
				q.Recipe = q.Recipe.With(recipe.AddressOf(k), in(k.Range()))
			}
		}
		f, err := Predict(q)
		if err != nil {
			t.Fatalf("%s, %+v: %v", form.Name, q.Recipe, err)
		}
		for _, w := range Check(q, f, units.Prefs{}) {
			if warned++; w.Fix != nil {
				mended++
			}
			if w.Fix != nil && math.IsNaN(w.Fix.Value) {
				t.Errorf("%s, %+v: %+v", form.Name, q.Recipe, w)
			}
		}
	}
	if t.Logf("%d of %d warnings offer a fix", mended, warned); 4*mended < 3*warned {
		t.Errorf("only %d of %d warnings offer a fix", mended, warned)
	}
}

// A first recipe in every style and brewer, for coffees from light to dark, is predicted inside its own
// window, at a setting of the dial and near the style's own grind.
func TestEveryFirstRecipeMeetsItsOwnWindow(t *testing.T) {
	brewers, grinders, kettles := gear.Starter()
	n := 0
	for _, b := range brewers {
		for _, style := range recipe.Styles(b.Kind) {
			for _, roast := range []coffee.Roast{coffee.Light, coffee.Medium, coffee.Dark} {
				b.Retained = gear.DefaultRetained
				q := Question{Bag: coffee.Bag{Roast: roast, Process: coffee.Washed, RoastedOn: "2026-04-25"},
					Gear: gear.Set{Brewer: b, Grinder: grinders[0], Kettle: kettles[1], Boiling: 100},
					Now:  time.Date(2026, 5, 12, 8, 0, 0, 0, time.UTC)}
				q.Recipe = FirstRecipe(q, style.ID)
				var f Forecast
				if err := f.Run(q); err != nil {
					t.Fatal(err)
				}
				n++
				window, start := f.Plan.Window, float64(style.Grind)
				if q.Recipe.Style != style.ID || f.Overflow >= 0 || f.Drawdown < window.From || f.Drawdown > window.To {
					t.Errorf("%s in %s, %s: drains at %v, wanted %v to %v", style.ID, b.Name, roast, f.Drawdown, window.From, window.To)
				}
				if grind := float64(q.Recipe.Grind); grind != float64(grinders[0].Snap(q.Recipe.Grind)) || grind < 0.65*start ||
					grind > 1.6*start {
					t.Errorf("%s in %s, %s: %v µm, the style's own is %v", style.ID, b.Name, roast, grind, start)
				}
				if y := f.Yield.Value; y < 18 || y > 23 {
					t.Errorf("%s in %s, %s: a first cup of %.1f %%", style.ID, b.Name, roast, y)
				}
				for _, why := range Reasons(q, units.Prefs{}) {
					if why.At == recipe.AddressOf(recipe.Grind) && !strings.HasPrefix(why.Text, "Starts here") {
						t.Errorf("%s in %s, %s: an untouched first recipe says %q", style.ID, b.Name, roast, why.Text)
					}
				}
			}
		}
	}
	t.Logf("%d first recipes", n)
}

package forecast

import (
	"errors"
	"math"
	"slices"
	"testing"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A pour to a level ends there by the model, the total stays, and levels that no amount reaches have a reason. Mutations caught:
// a level over the bed instead of the outlet, a total that grows, an error that does not tell which end is missed.
func TestPourToALevelEndsThere(t *testing.T) {
	t.Parallel()
	for _, kind := range []gear.BrewerKind{gear.OpenCone, gear.HeavyCone, gear.FlatBed} {
		q := question(kind, coffee.Medium)
		q.Gear.Brewer.Holds = 350
		was := q.Recipe
		r, err := ToLevel(q, 1, 0.6)
		if err != nil {
			t.Fatalf("%s: %v", kind, err)
		}
		q.Recipe = r
		var f Forecast
		if err := f.Run(q); err != nil || math.Abs(f.levelOf(1)-0.6) > 0.01 {
			t.Errorf("%s: %v, it ends at %.3f of the height", kind, err, f.levelOf(1))
		}
		if math.Abs(float64(r.Water()-was.Water())) > 0.01 || r.Pours[1].Level != 0.6 || !r.Pours[1].Pinned {
			t.Errorf("%s: %v g of %v, %+v", kind, r.Water(), was.Water(), r.Pours[1])
		}
		var short *LevelError
		if _, err := ToLevel(q, 1, 0.05); !errors.As(err, &short) || short.Bed < 0.05 {
			t.Errorf("%s: a level within the coffee: %v", kind, err)
		}
		q.Gear.Brewer.Holds = 1500
		if _, err := ToLevel(q, 1, 1); !errors.As(err, &short) || short.Most >= 1 || short.Most < 0.2 {
			t.Errorf("%s: the rim of a huge brewer: %v", kind, err)
		}
	}
}

// A level that another change misses draws a warning, whose fix is the same level with other water. Mutation caught: a fix that
// only stores the level.
func TestMissedLevelIsPouredAgain(t *testing.T) {
	t.Parallel()
	q := question(gear.OpenCone, coffee.Medium)
	q.Gear.Brewer.Holds = 350
	q.Recipe, _ = ToLevel(q, 1, 0.6)
	q.Recipe = q.Recipe.With(recipe.AddressOf(recipe.BloomTime), 18).With(recipe.AddressOf(recipe.Grind), 560)
	f, err := Predict(q)
	if err != nil {
		t.Fatal(err)
	}
	at := recipe.Address{Knob: recipe.Level, Pour: 2}
	i := slices.IndexFunc(Check(q, f, units.Prefs{}), func(w recipe.Warning) bool { return w.Fix != nil && w.Fix.Address == at })
	if i < 0 {
		t.Fatalf("no fix for a level of %.2f instead of 0.6: %+v", f.levelOf(1), Check(q, f, units.Prefs{}))
	}
}

// A dry bed is a fault with a clock, not when the recipe waits for the drips or its style wants it. Mutation caught: the warning
// without either exception.
func TestWantedDryBedDrawsNoWarning(t *testing.T) {
	t.Parallel()
	dry := func(style recipe.StyleID, cue recipe.Cue) bool {
		q := question(gear.OpenCone, coffee.Medium)
		q.Recipe = FirstRecipe(q, style).With(recipe.AddressOf(recipe.Gap), 90)
		for i := range q.Recipe.Pours {
			if q.Recipe.Pours[i].Cue = recipe.ForTime; i > 1 {
				q.Recipe.Pours[i].Cue = cue
			}
		}
		f, err := Predict(q)
		if err != nil {
			t.Fatal(err)
		}
		_, text := runsDry(inquiry{q, f, units.Prefs{}})
		return text != ""
	}
	if !dry(recipe.ThreeRounds, recipe.ForTime) || dry(recipe.ThreeRounds, recipe.ForDrips) || dry(recipe.Split, recipe.ForTime) {
		t.Error(dry(recipe.ThreeRounds, recipe.ForTime), dry(recipe.ThreeRounds, recipe.ForDrips), dry(recipe.Split, recipe.ForTime))
	}
}

// Walls and outlets act as their kinds do: a smooth wall and small outlets slow an open cone, tall ribs let more water past the
// bed, and a double wall keeps the slurry warmer than glass. Mutations caught: a wall or outlet without effect, ribs the wrong way.
func TestWallsOutletsAndDoubleGlassAct(t *testing.T) {
	t.Parallel()
	brewed := func(change func(*gear.Brewer)) Forecast {
		q := question(gear.OpenCone, coffee.Medium)
		q.Recipe.Rinse = false
		change(&q.Gear.Brewer)
		var f Forecast
		if err := f.Run(q); err != nil {
			t.Fatal(err)
		}
		return f
	}
	usual := brewed(func(*gear.Brewer) {})
	smooth := brewed(func(b *gear.Brewer) { b.Ribs = gear.Smooth })
	small := brewed(func(b *gear.Brewer) { b.Outlets = gear.SmallOnes })
	tall := brewed(func(b *gear.Brewer) { b.Ribs = gear.TallRibs })
	if smooth.Drawdown <= usual.Drawdown+5 || small.Drawdown <= usual.Drawdown || tall.Drawdown >= usual.Drawdown || tall.EY >= usual.EY {
		t.Errorf("drawdown %v, smooth %v, small outlets %v, tall ribs %v", usual.Drawdown, smooth.Drawdown, small.Drawdown, tall.Drawdown)
	}
	glass := brewed(func(b *gear.Brewer) { b.Material = gear.Glass })
	double := brewed(func(b *gear.Brewer) { b.Material = gear.Double })
	if double.SlurryMean <= glass.SlurryMean+1 {
		t.Errorf("slurry at %.1f °C in glass, %.1f in double-walled glass", glass.SlurryMean, double.SlurryMean)
	}
}

// Back on the heat, a plain kettle gives every pour its own temperature. Mutation caught: a kettle that cools anyway.
func TestReheatedKettleKeepsItsTemperature(t *testing.T) {
	t.Parallel()
	q := question(gear.OpenCone, coffee.Medium)
	q.Gear.Kettle = gear.Kettle{Name: "The kettle", Capacity: 600}
	off, _ := Predict(q)
	q.Recipe = q.Recipe.With(recipe.AddressOf(recipe.Between), 1)
	on, err := Predict(q)
	last := len(on.Pours) - 1
	if err != nil || on.Pours[last].Temperature < on.Pours[0].Temperature-0.1 || off.Pours[last].Temperature > on.Pours[last].Temperature-2 {
		t.Errorf("%v: the last pour has %.1f °C off the heat, %.1f °C back on it", err, off.Pours[last].Temperature, on.Pours[last].Temperature)
	}
}

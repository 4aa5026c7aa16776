package forecast

import (
	"math"
	"testing"
	"time"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// fittedTo returns the question of a first recipe in a style for a coffee of some days.
func fittedTo(id recipe.StyleID, kind gear.BrewerKind, roast coffee.Roast, dose units.Grams, days int) Question {
	q := question(kind, roast)
	q.Bag.RoastedOn = now.AddDate(0, 0, -days).Format(time.DateOnly)
	q.Recipe = FirstRecipeOf(q, id, dose)
	return q
}

// A bloom by eye leaves the same share of every bed dry: more water for a lighter or fresher coffee, up to what the bed takes up.
// Mutations caught: a fixed multiple of the dose, the wrong pour of the prediction, a bloom without a limit, a default that is
// ignored.
func TestBloomByEyeWetsTheBed(t *testing.T) {
	t.Parallel()
	byRoast := map[coffee.Roast]float64{}
	for _, roast := range []coffee.Roast{coffee.Light, coffee.Medium, coffee.Dark} {
		for _, kind := range []gear.BrewerKind{gear.OpenCone, gear.FlatBed, gear.HeavyCone} {
			for _, dose := range []units.Grams{13, 18, 27} {
				q := fittedTo(recipe.BloomByEye, kind, roast, dose, 20)
				var f Forecast
				if err := f.Run(q); err != nil {
					t.Fatal(err)
				}
				bloom := q.Recipe.Value(recipe.AddressOf(recipe.Bloom))
				if math.Abs(f.wetted()-wet) > 0.005 {
					t.Errorf("%s, %s, %g g: a bloom of %.1f wets %.3f", kind, roast, float64(dose), bloom, f.wetted())
				}
				byRoast[roast] = bloom
			}
		}
	}
	if !(byRoast[coffee.Light] > byRoast[coffee.Medium] && byRoast[coffee.Medium] > byRoast[coffee.Dark]) {
		t.Errorf("blooms by roast: %v", byRoast)
	}
	fresh := fittedTo(recipe.BloomByEye, gear.OpenCone, coffee.Light, 18, 3)
	if got := fresh.Recipe.Value(recipe.AddressOf(recipe.Bloom)); got != blooms.Hi {
		t.Errorf("a fresh coffee gets %g g/g", got)
	}
	own := question(gear.OpenCone, coffee.Light)
	own.Habits.Bloom = 2.2
	if got := FirstRecipe(own, recipe.BloomByEye).Value(recipe.AddressOf(recipe.Bloom)); math.Abs(got-2.2) > 1e-9 {
		t.Errorf("a person's own bloom of 2.2 becomes %g", got)
	}
}

// Two centred pours rise to one height, the second onto a cushion of water. Mutations caught: equal pours, a fixed gap, a
// solution for another dose.
func TestTwoCentredPoursReachOneHeight(t *testing.T) {
	t.Parallel()
	for _, kind := range []gear.BrewerKind{gear.OpenCone, gear.HeavyCone} {
		for _, roast := range []coffee.Roast{coffee.Light, coffee.Dark} {
			for _, dose := range []units.Grams{13, 18, 27} {
				q := fittedTo(recipe.TwoCentredPours, kind, roast, dose, 20)
				var f Forecast
				if err := f.Run(q); err != nil {
					t.Fatal(err)
				}
				first, second := f.Pours[1], f.Pours[2]
				if math.Abs(first.Level-second.Level) > 2 || q.Recipe.Pours[1].Water < 1.3*q.Recipe.Pours[2].Water {
					t.Errorf("%s, %s, %g g: %g g to %.1f mm, %g g to %.1f mm", kind, roast, float64(dose), float64(q.Recipe.Pours[1].Water),
						first.Level, float64(q.Recipe.Pours[2].Water), second.Level)
				}
				if second.Above < 0.5*cushion || second.Above > 1.6*cushion {
					t.Errorf("%s, %s, %g g: the second pour falls into %.1f mm", kind, roast, float64(dose), second.Above)
				}
			}
		}
	}
}

// A long bloom ends where more of it is no longer worth the wait, and uses the hand actions that are. Mutations caught: a length
// that does not depend on the coffee, a yield that is not compared at equal time, a stir that is dropped.
func TestLongBloomIsWorthItsLength(t *testing.T) {
	t.Parallel()
	length := recipe.AddressOf(recipe.BloomTime)
	for _, kind := range []gear.BrewerKind{gear.OpenCone, gear.FlatBed, gear.HeavyCone} {
		q := fittedTo(recipe.LongBloom, kind, coffee.Medium, 18, 20)
		time := q.Recipe.Value(length)
		y, ok := newYields(q)
		if !ok {
			t.Fatalf("%s: it does not drain", kind)
		}
		at := func(r recipe.Recipe) float64 { return y.of(q, r) }
		now, longer, shorter := at(q.Recipe), at(q.Recipe.With(length, time+10)), at(q.Recipe.With(length, time-20))
		const slack = 0.03 // the grind that it is compared at has changed since
		if longer-now > worthwhile+slack || now-shorter < 2*worthwhile-slack {
			t.Errorf("%s: %g s give %.2f %%, 10 s more %+.2f, 20 s less %+.2f", kind, time, now, longer-now, shorter-now)
		}
		if still := at(q.Recipe.With(efforts[0].at, 0)); now-still < worthwhile {
			t.Errorf("%s: the %s after the bloom gives %.2f points", kind, q.Recipe.Pours[0].Then, now-still)
		}
	}
	rested, fresh := fittedTo(recipe.LongBloom, gear.OpenCone, coffee.Light, 18, 20), fittedTo(recipe.LongBloom, gear.OpenCone, coffee.Light, 18, 3)
	if a, b := rested.Recipe.Value(length), fresh.Recipe.Value(length); a >= b {
		t.Errorf("a rested coffee blooms for %g s, a fresh one for %g s", a, b)
	}
}

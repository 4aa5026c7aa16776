package brew

import (
	"math"
	"strings"
	"testing"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
)

// tastedAt returns a measured brew with a TDS.
func tastedAt(tds float64, kind gear.BrewerKind) Brew {
	b := Brew{Sheet: Sheet{Recipe: recipe.ThreeRounds.Style().Generate(18, 297, 94), Gear: gear.Set{Brewer: gear.Brewer{ID: "b", Kind: kind, Retained: 2},
		Grinder: gear.Grinder{ID: "g", Burrs: gear.HandMill, Dial: gear.Dial{Kind: gear.Clicks, Zero: 50, Step: 25}}}}}
	b.Recipe.Grind = 650
	if kind == gear.ValveSteeper {
		b.Recipe = recipe.SteepAndRelease.Style().Generate(18, 297, 94)
		b.Recipe.Grind = 800
	}
	b.Cup.TDS, b.Cup.Beverage, b.Cup.Drawdown, b.Cup.Overall = tds, 260, 200, 7
	return b
}

// Calculated by hand: 1.40 % × 260 / 18 is 20.22 % ± 0.44 measured and ± 0.40 from brew to brew, so two of them are told apart by
// √2 × 0.59 = 0.84. Mutations caught: no scatter, limits of one and two exchanged, a difference without its error.
func TestGapIsRealFromTwoErrorsOn(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		tds  float64
		want Reality
	}{{1.41, CannotTell}, {1.45, CannotTell}, {1.47, MaybeReal}, {1.50, MaybeReal}, {1.53, Real}} {
		g, ok := LargestGap([]Brew{tastedAt(1.40, gear.OpenCone), tastedAt(c.tds, gear.OpenCone)})
		if !ok || g.What != "Extraction" || g.Reality != c.want || math.Abs(g.Error-0.85) > 0.03 {
			t.Errorf("%.2f %%: %+v, want %s", c.tds, g, c.want)
		}
	}
	// Six brews: the largest of fifteen differences must be larger to be real.
	var six []Brew
	for _, tds := range []float64{1.40, 1.43, 1.45, 1.47, 1.50, 1.53} {
		six = append(six, tastedAt(tds, gear.OpenCone))
	}
	if g, _ := LargestGap(six); g.Reality == Real || g.Low != 0 || g.High != 5 {
		t.Errorf("of six brews: %+v", g)
	}
}

// Two steeps in one brewer share the error of its retained water; in two brewers they do not. Mutation caught: shared errors counted
// twice.
func TestSharedErrorCancels(t *testing.T) {
	t.Parallel()
	a, b := tastedAt(1.30, gear.ValveSteeper), tastedAt(1.40, gear.ValveSteeper)
	same, _ := LargestGap([]Brew{a, b})
	b.Gear.Brewer.ID = "other"
	other, _ := LargestGap([]Brew{a, b})
	if want := math.Sqrt(other.Error*other.Error - 2*0.15*0.15*1.3*1.4); math.Abs(same.Error-want) > 1e-9 || same.Error >= other.Error {
		t.Errorf("± %.4f in one brewer, ± %.4f in two, want %.4f", same.Error, other.Error, want)
	}
}

// Without a yield, TDS, drawdown and mark are compared, whichever all brews have first; without any, nothing. Mutation caught: a
// quantity that one of them does not have.
func TestGapOfWhatAllHave(t *testing.T) {
	t.Parallel()
	a, b := tastedAt(1.4, gear.OpenCone), tastedAt(1.5, gear.OpenCone)
	for _, c := range []struct {
		take func(*Brew)
		want string
	}{{func(b *Brew) { b.Cup.Beverage = 0 }, "TDS"}, {func(b *Brew) { b.Cup.TDS = 0 }, "Drawdown"}, {func(b *Brew) { b.Cup.Drawdown = 0 }, "Mark"},
		{func(b *Brew) { b.Cup.Overall = 0 }, ""}} {
		c.take(&b)
		if g, ok := LargestGap([]Brew{a, b}); ok != (c.want != "") || g.What != c.want {
			t.Errorf("%+v, want %q", g, c.want)
		}
	}
}

// The sentence names the differences of recipe, coffee and gear. Mutations caught: a change that is not named, equal settings of a
// dial told as different grinds.
func TestSentenceOfTheDifferences(t *testing.T) {
	t.Parallel()
	a := tastedAt(1.4, gear.OpenCone)
	for _, c := range []struct {
		change func(*Brew)
		want   string
	}{
		{func(*Brew) {}, "The same recipe."},
		{func(b *Brew) { b.Recipe.Grind = 652 }, "The same recipe."},
		{func(b *Brew) { b.Recipe.Grind = 600 }, "Same recipe but for the grind."},
		{func(b *Brew) {
			b.Recipe = b.Recipe.With(recipe.AddressOf(recipe.Temperature), 90)
			b.Gear.Water.ID = "w"
		}, "Same recipe but for the water and the temperature."},
		{func(b *Brew) {
			b.Bag.ID, b.Gear.Grinder.ID, b.Gear.Brewer.ID, b.Gear.Brewer.Filter = "x", "x", "x", gear.Mesh
			b.Recipe.Grind = 600
		}, "Different in the coffee, the brewer, the filter and 2 other things."},
	} {
		b := tastedAt(1.4, gear.OpenCone)
		c.change(&b)
		if got := SameBut([]Brew{a, b}); got != c.want {
			t.Errorf("%q, want %q", got, c.want)
		}
	}
	g, _ := LargestGap([]Brew{a, tastedAt(1.47, gear.OpenCone)})
	if got := g.Sentence(); !strings.HasSuffix(got, "points apart: perhaps; brew both again to tell.") || !strings.HasPrefix(got, "Extraction 1.0 ± 0.") {
		t.Errorf("%q", got)
	}
}

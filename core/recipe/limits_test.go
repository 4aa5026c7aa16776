package recipe

import (
	"math"
	"slices"
	"strings"
	"testing"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// starts returns the start of each pour, to 0.1 s.
func starts(r Recipe) (out []float64) {
	for _, p := range r.Pours {
		out = append(out, units.Round(float64(p.Start), 1))
	}
	return out
}

// A warning begins just past its limit, and its fix is the limit. Mutations caught: strict comparisons made
// inclusive or the reverse, a limit off by the rounding of whole grams, a fix for the wrong pour's temperature.
func TestWarningsBeginAtTheirLimits(t *testing.T) {
	t.Parallel()
	usual := Ratio.Usual()
	ratio := func(ratio, more float64) Recipe {
		r := ThreeRounds.Style().Generate(20, units.Grams(20*ratio), 94)
		r.Pours[len(r.Pours)-1].Water += units.Grams(more)
		return r
	}
	roomy := func(boiling units.Celsius, capacity units.Grams, spout float64) gear.Set {
		g := set(boiling)
		g.Kettle.Capacity, g.Kettle.Spout = capacity, spout
		return g
	}
	large := roomy(100, 2000, 25)
	for _, c := range []struct {
		name string
		r    Recipe
		g    gear.Set
		at   Knob // empty: no warning
		fix  float64
	}{
		{"a kettle that just holds it", base(), roomy(100, 397, 25), "", 0},
		{"a kettle too small by a gram", base(), roomy(100, 396, 25), Water, 296},
		{"a spout that is just fast enough", base(), roomy(100, 2000, 5), "", 0},
		{"a spout that is too slow", base(), roomy(100, 2000, 4.9), Rate, 4.9},
		{"half a degree above boiling", base(), roomy(93.5, 2000, 25), "", 0},
		{"more than that", base(), roomy(93.4, 2000, 25), Temperature, 93},
		{"a later pour that is hotter", base().With(Address{Temperature, 3}, 96), roomy(93, 2000, 25), Temperature, 91},
		{"the lowest usual ratio", ratio(usual.Lo, -0.4), large, "", 0},
		{"below it", ratio(usual.Lo, -0.6), large, Ratio, usual.Lo},
		{"the highest usual ratio", ratio(usual.Hi, 0.4), large, "", 0},
		{"above it", ratio(usual.Hi, 0.6), large, Ratio, usual.Hi},
		{"a bloom of 1.5", base().With(AddressOf(Bloom), 1.5), large, "", 0},
		{"a smaller bloom", base().With(AddressOf(Bloom), 1.4), large, Bloom, 2},
		{"a pour at the end of the bloom", base().With(Address{Start, 2}, 12), large, "", 0},
		{"a pour during the bloom", base().With(Address{Start, 2}, 11), large, BloomTime, float64(base().MinBloom())},
		{"a pour during another", base().With(Address{Start, 3}, 55), large, Gap, float64(base().MinGap())},
	} {
		got := Check(c.r, c.g, units.Prefs{})
		switch {
		case c.at == "" && len(got) > 0:
			t.Errorf("%s: %+v", c.name, got)
		case c.at != "" && (len(got) != 1 || got[0].At != AddressOf(c.at) || math.Abs(got[0].Fix.Value-c.fix) > 1e-9):
			t.Errorf("%s: %+v, want %s set to %g", c.name, got, c.at, c.fix)
		case c.at == Gap && !strings.HasPrefix(got[0].Text, "Pour 3 is due"):
			t.Errorf("%s: %q", c.name, got[0].Text)
		}
	}
}

// Pours at 0:45, 1:25 and 2:05 for 16.2 s each. Mutations caught: later pours moved without need, a short
// pause lengthened, an aim that does not follow the last pour.
func TestMovedPourPushesLaterOnes(t *testing.T) {
	t.Parallel()
	aim := float64(base().Aim)
	for _, c := range []struct {
		name string
		r    Recipe
		want []float64
		aim  float64
	}{
		{"room after it", base().With(Address{Start, 2}, 50), []float64{0, 50, 85, 125}, aim},
		{"one is pushed", base().With(Address{Start, 2}, 70), []float64{0, 70, 96.2, 125}, aim},
		{"all are pushed", base().With(Address{Start, 2}, 100), []float64{0, 100, 126.2, 152.4}, aim + 27.4},
		{"a short pause stays", base().With(Address{Start, 3}, 63).With(Address{Start, 2}, 50), []float64{0, 50, 68, 125}, aim},
		{"the last one", base().With(Address{Start, 4}, 140), []float64{0, 45, 85, 140}, aim + 15},
	} {
		if got := starts(c.r); !slices.Equal(got, c.want) || math.Abs(float64(c.r.Aim)-c.aim) > 1e-9 {
			t.Errorf("%s: pours at %v with the aim %v, want %v and %g", c.name, got, c.r.Aim, c.want, c.aim)
		}
	}
	tight := base().With(Address{Start, 4}, 112)
	split, err := tight.Edit(SplitIt, 3)
	if got := starts(split); err != nil || !slices.Equal(got, []float64{0, 45, 85, 103.1, 121.2}) ||
		math.Abs(float64(split.Aim-tight.Aim)-9.2) > 1e-9 {
		t.Errorf("split: %v, %v, %v", got, split.Aim, err)
	}
	noAim := base()
	noAim.Aim = 0
	if split, _ := noAim.With(Address{Start, 4}, 112).Edit(SplitIt, 3); split.Aim != 0 {
		t.Errorf("a recipe without an aim gets %v", split.Aim)
	}
	if got, want := noAim.Plan().Finish, base().Plan().Steps[3].End()+60; got != want {
		t.Errorf("without an aim the plan ends at %v, want %v", got, want)
	}
}

// Mutations caught: limits that ignore the neighbours, the pours that share the water, or the pinned ones.
func TestRangesFollowTheNeighbours(t *testing.T) {
	t.Parallel()
	pinned := base()
	pinned.Pours[3].Pinned = true
	drained := base()
	drained.Pours[2].Cue = ForBed
	steep := SteepAndRelease.Style().Generate(18, 297, 94)
	for _, c := range []struct {
		name   string
		r      Recipe
		at     Address
		lo, hi float64 // NaN: not checked
	}{
		{"water of three sharing pours", base(), Address{Water, 3}, math.NaN(), 81 + 162 - 2*5},
		{"with one of them pinned", pinned, Address{Water, 3}, math.NaN(), 81 + 81 - 5},
		{"start of the first", base(), Address{Start, 1}, 0, 0},
		{"start after the bloom", base(), Address{Start, 2}, 12, math.NaN()},
		{"start after a pour", base(), Address{Start, 3}, 61.2, math.NaN()},
		{"duration up to the next pour", base(), Address{Lasts, 2}, 81. / 25, 40},
		{"duration before a pour that waits", drained, Address{Lasts, 2}, 81. / 25, 162},
		{"duration of the last", base(), Address{Lasts, 4}, 81. / 25, 162},
		{"crust before the valve", steep, AddressOf(CrustAt), math.NaN(), float64(steep.Release) - 20},
		{"a pour that does not exist", base(), Address{Lasts, 5}, Address{Lasts, 5}.Range().Lo, Address{Lasts, 5}.Range().Hi},
	} {
		got := c.r.RangeAt(c.at)
		if !math.IsNaN(c.lo) && math.Abs(got.Lo-c.lo) > 1e-9 || !math.IsNaN(c.hi) && math.Abs(got.Hi-c.hi) > 1e-9 {
			t.Errorf("%s: %g to %g, want %g to %g", c.name, got.Lo, got.Hi, c.lo, c.hi)
		}
	}
}

// Mutations caught: a bloom for a steep, ice for a hot cup, an opening for a style without one.
func TestKnobsOfEachKindOfRecipe(t *testing.T) {
	t.Parallel()
	one := base()
	one.Pours = one.Pours[:2]
	single := OneLongPour.Style().Generate(18, 297, 94)
	some := []Knob{Bloom, Pours, Balance, LastPours, Release, First, CrustAt, Wait, Gap, IcePart, IceFrom, Dilute, DiluteBy, Dose}
	for _, c := range []struct {
		name string
		r    Recipe
		want []Knob
	}{
		{"three rounds", base(), []Knob{Bloom, Pours, Wait, Gap, Dose}},
		{"a bloom and one pour", one, []Knob{Bloom, Pours, Wait, Dose}},
		{"one long pour", single, []Knob{Bloom, Pours, Wait, Dose}},
		{"a steep", SteepAndRelease.Style().Generate(18, 297, 94), []Knob{Release, First, CrustAt, Dose}},
		{"balance and strength", Split.Style().Generate(18, 297, 94), []Knob{Balance, LastPours, Wait, Gap, Dose}},
		{"over ice", base().With(AddressOf(Served), 1), []Knob{Bloom, Pours, Wait, Gap, IcePart, IceFrom, Dose}},
		{"diluted", base().With(AddressOf(Served), 2), []Knob{Bloom, Pours, Wait, Gap, Dilute, DiluteBy, Dose}},
	} {
		var got []Knob
		for _, k := range some {
			if c.r.Has(AddressOf(k)) {
				got = append(got, k)
			}
		}
		if !slices.Equal(got, c.want) {
			t.Errorf("%s has %v, want %v", c.name, got, c.want)
		}
	}
	for at, want := range map[Address]bool{{Start, 1}: false, {Wait, 1}: false, {Start, 2}: true, {Water, 4}: true, {Water, 5}: false} {
		if base().Has(at) != want {
			t.Errorf("the recipe has %v: %v", at, !want)
		}
	}
}

// Ice and edited pours at another size. By hand: 113 of 270 g are ice, so 226 of 540 g; edited pours keep
// their shares, and the time between them grows by √2. Mutations caught: ice poured as well, a bloom that
// takes part in the sharing.
func TestResizeWithIceAndEditedPours(t *testing.T) {
	t.Parallel()
	iced := base().With(AddressOf(Served), 1)
	double := iced.Resize(2*iced.Dose, 2*iced.Total())
	if math.Abs(float64(double.Ice.Mass-2*iced.Ice.Mass)) > 1 || math.Abs(float64(double.Total()-2*iced.Total())) > 1e-9 {
		t.Errorf("%v g on %v g of ice, in all %v", double.Water(), double.Ice.Mass, double.Total())
	}
	edited := base().With(Address{Start, 3}, 97).Resize(36, 600)
	var water []float64
	for _, p := range edited.Pours {
		water = append(water, units.Round(float64(p.Water), 1))
	}
	if !slices.Equal(water, []float64{108, 164, 164, 164}) {
		t.Errorf("pours of %v g", water)
	}
	if got, want := edited.Pours[2].Start-edited.Pours[1].Start, units.Seconds(52*math.Sqrt2); math.Abs(float64(got-want)) > 1e-9 {
		t.Errorf("%v between pours, want %v", got, want)
	}
}

// Mutations caught: a last pour from another height, defaults that override the style when they are not set.
func TestHabitsOfNewRecipes(t *testing.T) {
	t.Parallel()
	plain := ThreeRounds.Style().Generate(18, 297, 94)
	none := Habits{}.apply(plain, gear.StandardPaper)
	if !none.Rinse || len(Changes(plain, none)) != 1 {
		t.Errorf("without habits: %v", Changes(plain, none))
	}
	for filter, rinse := range map[gear.FilterKind]bool{gear.StandardPaper: true, gear.CorrugatedPaper: false, gear.Cloth: false} {
		if got := (Habits{}).apply(plain, filter); got.Rinse != rinse {
			t.Errorf("%s is rinsed: %v", filter, got.Rinse)
		}
	}
	all := Habits{Bloom: 2, BloomTime: 60, Hand: "swirl", Pattern: Ring, HighLastPour: true, Rinse: Never}.apply(plain, gear.StandardPaper)
	last := all.Pours[len(all.Pours)-1]
	if all.Pours[0].Water != 36 || all.Pours[1].Start != 60 || all.Pours[0].Then != Swirl || last.Pattern != Ring ||
		last.Height != all.Pours[len(all.Pours)-2].Height || all.Rinse {
		t.Errorf("with habits: %+v", all)
	}
	steep := SteepAndRelease.Style().Generate(18, 297, 94)
	if got := (Habits{Bloom: 2, Pattern: Ring, HighLastPour: true}).apply(steep, gear.StandardPaper); len(Changes(steep, got)) > 1 {
		t.Errorf("a steep changes: %v", Changes(steep, got))
	}
}

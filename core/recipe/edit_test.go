package recipe

import (
	"errors"
	"math"
	"slices"
	"testing"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// brewable fails the test if the pours of a recipe do not add up to the total, overlap or are empty.
func brewable(t *testing.T, name string, r Recipe, total units.Grams) {
	t.Helper()
	if math.Abs(float64(r.Total()-total)) > 1e-6 {
		t.Fatalf("%s: %v g in all, want %v: %+v", name, r.Total(), total, r.Pours)
	}
	for i, p := range r.Pours {
		if p.Water < 1 || p.Rate < 0.5 || p.Rate > 25 || p.Temperature < 60 || p.Temperature > 100 {
			t.Fatalf("%s: pour %d is %+v", name, i+1, p)
		}
		if i > 0 && p.Start < r.Pours[i-1].Start+r.Pours[i-1].Lasts()-1e-6 && !p.Cue.ByEye() {
			t.Fatalf("%s: pour %d starts at %v, before %v: %+v", name, i+1, p.Start, r.Pours[i-1].Start+r.Pours[i-1].Lasts(), r.Pours)
		}
	}
	if r.Pours[0].Start != 0 || r.Pours[0].Cue.ByEye() {
		t.Fatalf("%s: begins with %+v", name, r.Pours[0])
	}
}

// Every style in every brewer and serving adds up and can be poured, or is refused with a reason.
func TestEveryStyleInEveryBrewerAndServing(t *testing.T) {
	refused, poured := 0, 0
	for _, form := range gear.BrewerForms() {
		for _, style := range Schools() {
			if style.Fits(form.Kind) == (style.WhyNotIn(form.Kind) != "") {
				t.Errorf("%s in %s: fits %v, because %q", style.ID, form.Name, style.Fits(form.Kind), style.WhyNotIn(form.Kind))
			}
			if !style.Fits(form.Kind) {
				refused++
				continue
			}
			for _, dose := range []units.Grams{12, 18, 40} {
				total := wholeGrams(dose * units.Grams(style.Ratio))
				r := style.Generate(dose, total, 93)
				r.Grind = style.Grind
				brewable(t, string(style.ID), r, total)
				if r.Serving() != style.Serving() || r.Aim <= lastEnd(r.Plan().Steps) {
					t.Errorf("%s is served %q, wants %q; aims at %v after %v", style.ID, r.Serving(), style.Serving(), r.Aim,
						lastEnd(r.Plan().Steps))
				}
				for i, v := range Servings() {
					served := r.With(AddressOf(Served), float64(i))
					if why := style.WhyNotServed(v); why != "" {
						refused++
						if served.Serving() != r.Serving() {
							t.Errorf("%s is served %s although %s", style.ID, v, why)
						}
						continue
					}
					poured++
					if served.Serving() != v {
						t.Errorf("%s asked for %s is served %s", style.ID, v, served.Serving())
					}
					brewable(t, string(style.ID)+" "+string(v), served, wholeGrams(served.Total()))
					// Changing back gives the original recipe.
					if back := served.With(AddressOf(Served), getServing(r)); math.Abs(back.Ratio()-r.Ratio()) > 0.6/float64(dose) ||
						math.Abs(float64(back.Grind-r.Grind)) > 1e-6 {
						t.Errorf("%s %s and back: 1 : %.2f at %v µm, was 1 : %.2f at %v", style.ID, v, back.Ratio(), back.Grind, r.Ratio(),
							r.Grind)
					}
				}
			}
		}
	}
	if t.Logf("%d poured, %d refused", poured, refused); refused < 20 || poured < 250 {
		t.Error("the tables refuse too little, or too much")
	}
}

// Every style in the table has all the texts of the Schools page.
func TestEveryStyleExplainsItself(t *testing.T) {
	for _, s := range Schools() {
		sum := 0.0
		for _, p := range s.pours {
			sum += p.of
		}
		if s.Name == "" || s.Short == "" || s.Favours == "" || s.Asks == "" || s.NotWhen == "" || math.Abs(sum-1) > 1e-9 || s.Rate <= 0 ||
			s.Grind <= 0 || s.drain <= 0 || s.ID.Style().Name != s.Name {
			t.Errorf("%s is not whole: pours add up to %v", s.ID, sum)
		}
	}
}

// Over ice: 18 g at 1 : 15 are 270 g of water; 42 % of it are 113 g of ice, and 157 g are poured.
func TestWorkedExampleOverIce(t *testing.T) {
	r := IceHotAndSlow.Style().Generate(18, 270, 93)
	if r.Ice.Mass != 113 || r.Water() != 157 || r.Ratio() != 15 || r.Ice.Temperature != -18 {
		t.Errorf("%v g of ice at %v, %v g poured, 1 : %v", r.Ice.Mass, r.Ice.Temperature, r.Water(), r.Ratio())
	}
	// Half of it as ice: 135 and 135. A larger dose keeps the share.
	if half := r.With(AddressOf(IcePart), 0.5); half.Ice.Mass != 135 || !near(float64(half.Water()), 135) {
		t.Errorf("half as ice: %v and %v g", half.Ice.Mass, half.Water())
	}
	if larger := r.With(AddressOf(Dose), 20); larger.Ice.Mass != 126 || !near(float64(larger.Water()), 174) {
		t.Errorf("20 g: %v of ice, %v poured", larger.Ice.Mass, larger.Water())
	}
	// The cup is the total water minus the 36 g retained by 18 g of grounds: 270 − 36 = 234 g.
	if cup := r.Amounts(2).Cup; cup != 234 {
		t.Errorf("the cup is %v g", cup)
	}
	machine := r.With(AddressOf(IceFrom), 1)
	if machine.Ice.Temperature != 0 || machine.Ice.Wet == 0 || machine.Ice.Mass != 113 {
		t.Errorf("ice out of a machine: %+v", machine.Ice)
	}
	// A hot recipe served over ice gets less water per gram, and finer grounds.
	hot := base()
	iced := hot.With(AddressOf(Served), 1)
	if iced.Ratio() >= hot.Ratio() || iced.Grind >= hot.Grind || iced.IceShare() < 0.35 {
		t.Errorf("served over ice: 1 : %v, %v µm, %v as ice", iced.Ratio(), iced.Grind, iced.IceShare())
	}
}

// Diluted: of 288 g at 1 : 16 three tenths, 86 g, go into the cup; 202 g are poured.
func TestWorkedExampleOfDilution(t *testing.T) {
	r := Concentrate.Style().Generate(18, 288, 93)
	if r.Dilution.Water != 86 || !near(float64(r.Water()), 202) || r.Ratio() != 16 {
		t.Errorf("%v g into the cup, %v g poured, 1 : %v", r.Dilution.Water, r.Water(), r.Ratio())
	}
	if none := base().With(AddressOf(Served), 2).With(AddressOf(Served), 0); none.Dilution != (Dilution{}) || !near(float64(none.Water()), 297) {
		t.Errorf("not diluted any more: %+v, %v g poured", none.Dilution, none.Water())
	}
}

// In the split style, the balance moves water within the opening only, and the last part is divided into
// more or fewer pours.
func TestSplitStyleKnobs(t *testing.T) {
	r := Split.Style().Generate(23, 357, 93)
	sweet := r.With(AddressOf(Balance), 0.4)
	if !near(float64(sweet.Pours[0].Water), 54.264) || !near(float64(sweet.Pours[1].Water), 81.396) ||
		!near(float64(sweet.Pours[2].Water), 117.81) {
		t.Errorf("sweeter: %+v", sweet.Pours)
	}
	strong := sweet.With(AddressOf(LastPours), 4)
	if len(strong.Pours) != 6 || !near(float64(strong.Pours[0].Water), 54.264) || !near(float64(strong.Pours[2].Water), 55.335) ||
		!strong.Pours[5].Cue.ByEye() {
		t.Errorf("stronger: %+v", strong.Pours)
	}
	if strong.Has(AddressOf(Pours)) || !strong.Has(AddressOf(LastPours)) || base().Has(AddressOf(Balance)) {
		t.Error("the knobs of another style are offered")
	}
	byHand := strong.With(Address{Water, 6}, 60).With(AddressOf(LastPours), 2)
	if len(byHand.Pours) != 4 || !near(float64(byHand.Water()), 357) ||
		math.Abs(float64(byHand.Pours[0].Water-strong.With(Address{Water, 6}, 60).Pours[0].Water)) > 1e-6 {
		t.Errorf("by hand: %+v", byHand.Pours)
	}
}

// No edit changes the total water or makes pours overlap.
func TestEditsKeepTheWater(t *testing.T) {
	for _, style := range Schools() {
		r := style.Generate(20, wholeGrams(20*units.Grams(style.Ratio)), 93)
		total := r.Total()
		for _, e := range []Edit{AddAfter, SplitIt, MergeIt, RemoveIt, PinIt} {
			for n := range len(r.Pours) + 2 {
				next, err := r.Edit(e, n)
				switch {
				case n < 1 || n > len(r.Pours):
					if !errors.Is(err, ErrNoPour) {
						t.Errorf("%s: %s at pour %d: %v", style.ID, e, n, err)
					}
				case err != nil:
					if want := map[Edit]error{MergeIt: ErrNoNext, RemoveIt: ErrLastPour}[e]; !errors.Is(err, want) || want == nil {
						t.Errorf("%s: %s at pour %d: %v", style.ID, e, n, err)
					}
				default:
					brewable(t, string(style.ID)+" "+string(e), next, total)
				}
			}
		}
	}
	r := base()
	small := r.With(Address{Water, 2}, 8)
	if _, err := small.Edit(SplitIt, 2); !errors.Is(err, ErrTooSmall) {
		t.Errorf("a pour of 8 g is split: %v", err)
	}
	for len(r.mainPours()) < 8 {
		r, _ = r.Edit(SplitIt, 2+len(r.Pours)%3)
	}
	if _, err := r.Edit(AddAfter, 1); !errors.Is(err, ErrTooMany) {
		t.Errorf("a ninth pour: %v", err)
	}
}

func TestPinnedPourKeepsItsWater(t *testing.T) {
	r, _ := base().Edit(PinIt, 3)
	moved := r.With(Address{Water, 2}, 111) // 30 g more, all taken from pour 4
	if !near(float64(moved.Pours[2].Water), 81) || !near(float64(moved.Pours[3].Water), 51) || !near(float64(moved.Water()), 297) {
		t.Errorf("with pour 3 pinned: %+v", moved.Pours)
	}
	// A larger brew leaves pinned pours alone: 330 g, of which the bloom takes 60 and pour 3 its 81.
	larger := r.With(AddressOf(Dose), 20)
	if !near(float64(larger.Pours[2].Water), 81) || !near(float64(larger.Water()), 330) || !near(float64(larger.Pours[0].Water), 60) {
		t.Errorf("a larger brew: %+v", larger.Pours)
	}
	// With all others pinned, the total changes.
	all, _ := r.Edit(PinIt, 4)
	if more := all.With(Address{Water, 2}, 100); !near(float64(more.Water()), 297+19) {
		t.Errorf("with all others pinned the water is %v g", more.Water())
	}
	if hi := r.RangeAt(Address{Water, 2}).Hi; !near(hi, 81+81-5) {
		t.Errorf("pour 2 can take %v g", hi)
	}
}

// A moved pour stays after the previous one and pushes later ones back.
func TestMovedPourRespectsItsNeighbours(t *testing.T) {
	r := base() // pours at 0:00 for 12 s, 0:45, 1:25 and 2:05 for 16.2 s each
	if got := r.RangeAt(Address{Start, 2}); !near(got.Lo, 12) {
		t.Errorf("pour 2 can start from %v", got)
	}
	late := r.With(Address{Start, 3}, 110)
	if late.Pours[1].Start != 45 || late.Pours[2].Start != 110 || !near(float64(late.Pours[3].Start), 110+16.2+10) ||
		!near(float64(late.Aim-r.Aim), 110+16.2+10-125) {
		t.Errorf("pushed on: %+v, aim %v", late.Pours, late.Aim)
	}
	free := r.With(Address{Start, 3}, 90)
	if free.Pours[3].Start != 125 || free.Aim != r.Aim {
		t.Errorf("with room enough: %+v", free.Pours)
	}
	longer := r.With(Address{Lasts, 2}, 27)
	if !near(longer.Pours[1].Rate, 3) || r.RangeAt(Address{Lasts, 2}).Hi != 40 {
		t.Errorf("81 g in 27 s are %v g/s; at most %v s", longer.Pours[1].Rate, r.RangeAt(Address{Lasts, 2}).Hi)
	}
	byBed := r.With(AddressOf(Wait), 1).With(Address{Start, 3}, 100)
	if byBed.Pours[2].Cue.ByEye() || !byBed.Pours[3].Cue.ByEye() {
		t.Error("a pour with a typed time starts by the clock, the others unchanged")
	}
}

func TestHabitsOverrideDefaults(t *testing.T) {
	s := Situation{Gear: set(100), Habits: Habits{Style: TwoCentredPours, Bloom: 2, BloomTime: 60, Hand: "stir", Pattern: Ring,
		HighLastPour: true, Rinse: Never, TemperatureOffset: 2}}
	r, own := Suggest("", s), Suggest("", Situation{Gear: set(100)})
	if r.Style != TwoCentredPours || r.Rinse || !near(r.Value(AddressOf(Bloom)), 2) || r.Value(AddressOf(BloomTime)) != 60 || r.Pours[0].Then != StirBed ||
		r.Pours[1].Pattern != Ring || r.Temperature() != own.Temperature()+2 {
		t.Errorf("%+v", r)
	}
	if three := Suggest(ThreeRounds, s); three.Pours[3].Height != Mid || own.Pours[3].Height != Low || !own.Rinse {
		t.Errorf("the last pour: %v, else %v", three.Pours[3].Height, own.Pours[3].Height)
	}
	flat := s
	flat.Gear.Brewer.Kind = gear.FlatBed
	if r := Suggest("", flat); r.Style == TwoCentredPours || !slices.ContainsFunc(Styles(gear.FlatBed),
		func(v Style) bool { return v.ID == r.Style }) {
		t.Errorf("a flat bed is poured in %s", r.Style)
	}
}

// The crust is broken before the valve opens, and the first pour starts the clock.
func TestRangesOfPourAndCrust(t *testing.T) {
	steep := SteepAndRelease.Style().Generate(16, 256, 93)
	if got := steep.RangeAt(AddressOf(CrustAt)); got.Lo != 0 || got.Hi != 145 {
		t.Errorf("with the valve at 2:45 the crust can be broken at %v", got)
	}
	if base().Has(Address{Start, 1}) || base().Has(Address{Wait, 1}) || !base().Has(Address{Start, 2}) {
		t.Error("the first pour can be moved off the start")
	}
}

// A measured amount of poured water leaves ice and dilution as they are. Mutations caught: ice counted in
// the poured water, ice scaled with it, a dose that is ignored.
func TestMeasuredWaterLeavesTheIceAlone(t *testing.T) {
	iced := IceHotAndSlow.Style().Generate(18, 270, 94)
	ice, poured := iced.Ice.Mass, iced.Water()
	for _, c := range []struct{ dose, poured, wantDose, wantPoured units.Grams }{
		{0, 0, 18, poured},
		{0, poured + 13, 18, poured + 13},
		{17.6, 0, 17.6, poured},
		{18.2, poured - 9, 18.2, poured - 9},
	} {
		got := iced.WithMeasured(c.dose, c.poured)
		if got.Dose != c.wantDose || !near(float64(got.Water()), float64(c.wantPoured)) || got.Ice.Mass != ice {
			t.Errorf("measured %v g and %v g: %v g, %v g on %v g of ice, want %v g, %v g on %v g",
				c.dose, c.poured, got.Dose, got.Water(), got.Ice.Mass, c.wantDose, c.wantPoured, ice)
		}
	}
}

package recipe

import (
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// plain is a situation with a dial of 1 µm steps, so that sizes are exact.
func plain(roast coffee.Roast, kind gear.BrewerKind) Situation {
	g := set(100)
	g.Brewer.Kind, g.Grinder.Dial = kind, gear.Dial{Kind: gear.Clicks, Step: 1}
	return Situation{Bag: coffee.Bag{Roast: roast, RoastedOn: "2026-04-20"}, Gear: g, Now: time.Date(2026, 5, 12, 9, 0, 0, 0, time.UTC)}
}

// The starting grind follows roast, brewer, dose and what was learned of the grinder, each with its reason. Mutations
// caught: a sign turned round, a threshold moved, a reason without its effect or an effect without its reason.
func TestStartingGrindIsExact(t *testing.T) {
	t.Parallel()
	usual := ThreeRounds.Style().Grind
	for _, c := range []struct {
		name string
		s    Situation
		dose units.Grams
		by   float64 // µm from the style's grind
		says string
		not  string
	}{
		{"medium", plain(coffee.Medium, gear.OpenCone), 18, 0, "the middle of the usual range", "because"},
		{"light", plain(coffee.Light, gear.OpenCone), 18, -30, "finer because it is light", "coarser"},
		{"dark", plain(coffee.Dark, gear.OpenCone), 18, 40, "coarser because it is dark", "finer"},
		{"thick paper", plain(coffee.Medium, gear.HeavyCone), 18, 80, "coarser because its thick paper", "set for"},
		{"a large dose", plain(coffee.Medium, gear.OpenCone), 24, 42, "set for 24 g", ""},
		{"a small dose", plain(coffee.Medium, gear.OpenCone), 16, -14, "set for 16 g", ""},
		{"a gram more", plain(coffee.Medium, gear.OpenCone), 19.9, 13, "", "set for"},
	} {
		r := ThreeRounds.Style().Generate(c.dose, 300, 93)
		r.Dose = c.dose
		size, why := startGrind(r, c.s)
		if got := float64(size - usual); math.Abs(got-c.by) > 0.51 || !strings.Contains(why, c.says) || c.not != "" && strings.Contains(why, c.not) {
			t.Errorf("%s: %+.1f µm, want %+.1f: %s", c.name, got, c.by, why)
		}
	}
	for by, says := range map[float64]string{0.1: "10 % finer, because this grinder’s brews drain faster",
		-0.1: "11 % coarser, because this grinder’s brews drain slower", 0.02: "2 % finer", 0.019: "", -0.019: ""} {
		s := plain(coffee.Medium, gear.OpenCone)
		s.Coarser = by
		size, why := startGrind(ThreeRounds.Style().Generate(18, 300, 93), s)
		want := float64(usual)
		if says != "" {
			want *= math.Exp(-by)
		}
		if math.Abs(float64(size)-want) > 0.51 || !strings.Contains(why, says) || says == "" && strings.Contains(why, "%") {
			t.Errorf("a grinder that is %+.3f coarser: %.1f µm, want %.1f: %s", by, float64(size), want, why)
		}
	}
}

// A very fresh bag blooms longer; a flat bed ends earlier and thick paper later than an open cone. Mutations caught: an
// old bag that blooms longer, an offset for every brewer, an offset for a steep.
func TestFirstRecipeFollowsFreshnessAndBrewer(t *testing.T) {
	t.Parallel()
	bloom := func(roasted string) float64 {
		s := plain(coffee.Medium, gear.OpenCone)
		s.Bag.RoastedOn = roasted
		return Suggest(ThreeRounds, s).Value(AddressOf(BloomTime))
	}
	if old, fresh := bloom("2026-04-20"), bloom("2026-05-11"); fresh != old+freshBloomExtra {
		t.Errorf("bloom of %g s, of a very fresh bag %g s", old, fresh)
	}
	aim := func(kind gear.BrewerKind) units.Seconds {
		s := plain(coffee.Medium, kind)
		return s.first(ThreeRounds.Style(), 18, 93).Aim
	}
	if cone := aim(gear.OpenCone); aim(gear.FlatBed) != cone-20 || aim(gear.HeavyCone) != cone+20 {
		t.Errorf("aims: cone %v, flat bed %v, thick paper %v", cone, aim(gear.FlatBed), aim(gear.HeavyCone))
	}
	s := plain(coffee.Medium, gear.HeavyCone)
	style := SteepAndRelease.Style()
	if steep := s.first(style, 18, 93); steep.Aim != style.Generate(18, units.Grams(math.Round(18*style.Ratio)), 93).Aim {
		t.Errorf("a steep's aim is %v", steep.Aim)
	}
}

// A suggested value is compared with the recipe's. Mutations caught: a difference where there is none, or the reverse.
func TestReasonsTellWhatDiffers(t *testing.T) {
	t.Parallel()
	s := plain(coffee.Medium, gear.OpenCone)
	r := Suggest(ThreeRounds, s)
	starts := func(r Recipe, at Knob) string {
		for _, reason := range Reasons(r, s, units.Prefs{}) {
			if reason.At == AddressOf(at) {
				return reason.Text
			}
		}
		return ""
	}
	for _, c := range []struct {
		at    Knob
		other Recipe
	}{
		{Temperature, r.With(AddressOf(Temperature), r.Value(AddressOf(Temperature))+1)},
		{Grind, r.With(AddressOf(Grind), r.Value(AddressOf(Grind))+1)},
		{Dose, r.With(AddressOf(Dose), r.Value(AddressOf(Dose))+1)},
		{Pours, r.With(AddressOf(Pours), 2)},
	} {
		if same, differs := starts(r, c.at), starts(c.other, c.at); !strings.HasPrefix(same, "Starts here") ||
			strings.HasPrefix(differs, "Starts here") {
			t.Errorf("%s: %q, changed %q", c.at, same, differs)
		}
	}
	if thin := (Situation{Gear: s.Gear, Bag: s.Bag, Now: s.Now, LeastDose: 20.2}); Suggest(ThreeRounds, thin).Dose != 21 ||
		!slices.ContainsFunc(Reasons(r, thin, units.Prefs{}), func(x Reason) bool { return strings.Contains(x.Text, "thin bed") }) {
		t.Errorf("dose for a wide brewer: %v", Suggest(ThreeRounds, thin).Dose)
	}
}

// An edited recipe of another size: the bloom follows the dose, the other pours share the rest, times between them and
// the drawdown grow with the square root of the dose. Mutations caught: times that stay, a bloom that stays, a pinned
// pour that moves, the root of the inverse.
func TestEditedRecipeIsScaledExactly(t *testing.T) {
	t.Parallel()
	r := base().With(Address{Water, 2}, 90) // edited: no longer as the style generates it
	r.Pours[2].Pinned = true
	pinned := r.Pours[2].Water
	big := r.Resize(r.Dose*4, r.Total()*4)
	if !closely(float64(big.Pours[0].Water), 4*float64(r.Pours[0].Water)) || big.Pours[2].Water != pinned ||
		!closely(float64(big.Total()), 4*float64(r.Total())) {
		t.Errorf("pours of %v", big.Pours)
	}
	for i := 1; i < len(r.Pours); i++ {
		was, is := float64(r.Pours[i].Start-r.Pours[1].Start), float64(big.Pours[i].Start-big.Pours[1].Start)
		if !closely(is, 2*was) || big.Pours[1].Start != r.Pours[1].Start {
			t.Errorf("pour %d begins %.1f s after the first, was %.1f", i+1, is, was)
		}
	}
	drains, drained := float64(big.Aim-lastEnd(big.Plan().Steps)), float64(r.Aim-lastEnd(r.Plan().Steps))
	if !closely(drains, 2*drained) {
		t.Errorf("the aim is %.1f s after the last pour, was %.1f", drains, drained)
	}
	same := r.Resize(r.Dose, r.Total())
	if !slices.Equal(starts(same), starts(r)) || !closely(float64(same.Aim), float64(r.Aim)) {
		t.Errorf("the same size begins pours at %v, was %v", starts(same), starts(r))
	}
}

func closely(a, b float64) bool { return math.Abs(a-b) < 0.01 }

// Another number of pours of an edited recipe keeps the water and the pause. Mutations caught: a pause that is lost, a
// gap shorter than the pour, water that is lost.
func TestPoursAreDividedExactly(t *testing.T) {
	t.Parallel()
	after := []Pour{{Start: 45, Water: 100, Rate: 5}, {Start: 85, Water: 80, Rate: 5}} // 20 s to pour, 20 s of pause
	four := divided(after, 4)
	for i, p := range four {
		if want := units.Seconds(45 + 30*i); p.Start != want || p.Water != 45 || p.Rate != 5 { // 9 s to pour, 20 s of pause: 30 s
			t.Errorf("of four, pour %d begins at %v with %v", i+1, p.Start, p.Water)
		}
	}
	one := divided(after[:1], 2) // no pause is known
	if gap := one[1].Start - one[0].Start; gap != max(roundFive(minPauseSeconds+10), minGap(100, 2, 5)) || one[0].Water != 50 {
		t.Errorf("of one pour, two begin %v apart with %v", gap, one[0].Water)
	}
}

const minPauseSeconds = float64(minPause)

// A bloom that is taken away or added moves everything behind it. Mutations caught: an aim or a valve that stays, a
// direction turned round.
func TestBloomMovesWhatFollows(t *testing.T) {
	t.Parallel()
	r := base().With(Address{Water, 2}, 90)
	second := r.Pours[1].Start
	none := r.withBloom(0)
	if none.Pours[0].Start != 0 || none.Pours[0].Bloom || none.Aim != r.Aim-second || !closely(float64(none.Water()), float64(r.Water())) ||
		len(none.Pours) != len(r.Pours)-1 || none.Pours[1].Start != r.Pours[2].Start-second {
		t.Errorf("without a bloom: %v, aim %v", none.Pours, none.Aim)
	}
	if again := none.withBloom(0); !slices.Equal(starts(again), starts(none)) || again.Aim != none.Aim {
		t.Errorf("without a bloom twice: %v", again.Pours)
	}
	back := none.withBloom(3)
	wait := max(r.Style.Style().BloomTime, 30)
	if !back.Pours[0].Bloom || back.Pours[0].Water != 3*r.Dose || back.Pours[1].Start != wait || back.Aim != none.Aim+wait ||
		!closely(float64(back.Water()), float64(r.Water())) || back.Pours[0].Rate != min(gentleRate, none.Pours[0].Rate) {
		t.Errorf("with a bloom again: %v, aim %v", back.Pours, back.Aim)
	}
	r.Crust, r.Release = 100, 150
	r.shift(1, 7)
	if r.Pours[0].Start != 0 || r.Pours[1].Start != second+7 || r.Crust != 107 || r.Release != 157 {
		t.Errorf("shifted: %v, crust %v, release %v", r.Pours, r.Crust, r.Release)
	}
}

// A style's later pours cool step by step. Mutations caught: the last pour's temperature for all, a division by n.
func TestEqualPoursCoolStepByStep(t *testing.T) {
	t.Parallel()
	got := equal(3, 0.6, share{cooler: 1}, share{cooler: 5, low: true})
	for i, want := range []units.Celsius{1, 3, 5} {
		if got[i].cooler != want || !closely(got[i].of, 0.2) || got[i].low != (i == 2) {
			t.Errorf("pour %d: %+v", i+1, got[i])
		}
	}
	if one := equal(1, 0.6, share{cooler: 1}, share{cooler: 5, low: true}); one[0].cooler != 1 || !one[0].low || one[0].of != 0.6 {
		t.Errorf("one pour: %+v", one)
	}
}

package coach

import (
	"math"
	"strings"
	"testing"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// base is a cup without a fault: in its window, measured in the middle of the field.
func base() Brew {
	return Brew{
		Recipe: recipe.Recipe{Style: recipe.ThreeRounds, Dose: 18, Water: 297, Grind: 650, Temperature: 93, Bloom: 3, BloomTime: 45,
			Hand: recipe.Swirl, Height: recipe.Mid, Rinse: true},
		Window: coffee.Window{From: 180, To: 220},
		Gear: brew.Gear{Brewer: gear.Brewer{Kind: gear.OpenCone, Retained: 2}, Boiling: 100,
			Grinder: gear.Grinder{Burrs: gear.HandMill, Dial: gear.Dial{Kind: gear.Clicks, Zero: 50, Step: 20}}},
		Freshness: coffee.InWindow,
		Cup: cup.Cup{Beverage: 261, TDS: 1.38, Drawdown: 200, Bed: cup.FlatBed,
			Taste: cup.Taste{Steps: map[cup.Sense]int{cup.Acidity: 3, cup.Sweetness: 2, cup.Body: 3, cup.Bitterness: 2, cup.Clarity: 3}}},
	}
}

func tasting(steps map[cup.Sense]int) func(*Brew) {
	return func(b *Brew) {
		for s, v := range steps {
			b.Cup.Steps[s] = v
		}
	}
}

func drawdown(s units.Seconds) func(*Brew) { return func(b *Brew) { b.Cup.Drawdown = s } }

var cases = []struct {
	name   string
	change []func(*Brew)
	rule   string
	say    string // of the first proposal; empty: none
}{
	{"strength is not extraction: thin", []func(*Brew){tasting(map[cup.Sense]int{cup.Body: 1})}, "thin", "18\u00a0g less water on the same dose"},
	{"strength is not extraction: heavy", []func(*Brew){tasting(map[cup.Sense]int{cup.Body: 5})}, "heavy", "18\u00a0g more water on the same dose"},
	{"sour, on time", []func(*Brew){tasting(map[cup.Sense]int{cup.Acidity: 5})}, "sour", "2 clicks finer"},
	{"sour and fast", []func(*Brew){tasting(map[cup.Sense]int{cup.Acidity: 4}), drawdown(150)}, "fast and sour", "2 clicks finer"},
	{"sour and slow is not mended by finer", []func(*Brew){tasting(map[cup.Sense]int{cup.Acidity: 4}), drawdown(240)}, "sour and slow", "2\u00a0°C hotter"},
	{"bitter with a good flow", []func(*Brew){tasting(map[cup.Sense]int{cup.Bitterness: 4})}, "bitter", "2\u00a0°C cooler"},
	{"slow and bitter", []func(*Brew){tasting(map[cup.Sense]int{cup.Bitterness: 5}), drawdown(250)}, "slow and bitter", "2 clicks coarser"},
	{"slow and dry", []func(*Brew){tasting(map[cup.Sense]int{cup.Dryness: 5}), drawdown(250)}, "slow and bitter", "2 clicks coarser"},
	{"sour and bitter is uneven", []func(*Brew){tasting(map[cup.Sense]int{cup.Acidity: 5, cup.Bitterness: 5})}, "sour and bitter", "a larger bloom"},
	{"sour and bitter without a swirl", []func(*Brew){tasting(map[cup.Sense]int{cup.Acidity: 5, cup.Bitterness: 5}), func(b *Brew) { b.Recipe.Hand = recipe.NoHand }}, "sour and bitter", "swirl after the bloom and after the last pour"},
	{"weak, sour and fast is uneven", []func(*Brew){tasting(map[cup.Sense]int{cup.Acidity: 5, cup.Body: 1}), drawdown(150)}, "weak, sour and fast", "a larger bloom"},
	{"stalled", []func(*Brew){func(b *Brew) { b.Marks = []string{brew.Stall} }, drawdown(300)}, "stalled", "2 clicks coarser"},
	{"slow, yet sweet", []func(*Brew){tasting(map[cup.Sense]int{cup.Sweetness: 4}), drawdown(245)}, "slow yet sweet", ""},
	{"muddled", []func(*Brew){tasting(map[cup.Sense]int{cup.Clarity: 1})}, "muddled", "drop the swirl"},
	{"papery, rinsed already", []func(*Brew){func(b *Brew) { b.Cup.Faults = map[cup.Fault]bool{cup.Papery: true} }}, "papery", ""},
	{"papery", []func(*Brew){func(b *Brew) { b.Cup.Faults = map[cup.Fault]bool{cup.Papery: true}; b.Recipe.Rinse = false }}, "papery", "rinse the filter"},
	{"old and flat is not chased", []func(*Brew){func(b *Brew) { b.Cup.Faults = map[cup.Fault]bool{cup.Flat: true}; b.Freshness = coffee.GettingOld }}, "stale", ""},
	{"good enough", []func(*Brew){tasting(map[cup.Sense]int{cup.Sweetness: 4}), func(b *Brew) { b.Cup.Serve = "yes" }}, "good", ""},
	{"nothing said", []func(*Brew){func(b *Brew) { b.Cup = cup.Cup{Drawdown: 150} }}, "nothing tasted", ""},
	{"measured only, low", []func(*Brew){func(b *Brew) { b.Cup = cup.Cup{Beverage: 261, TDS: 1.15, Drawdown: 200} }}, "measured low", "2 clicks finer"},
	{"no fault", nil, "no fault named", ""},
}

func TestEachSituationGetsItsOneChange(t *testing.T) {
	for _, c := range cases {
		b := base()
		for _, f := range c.change {
			f(&b)
		}
		a := Advise(b)
		say := ""
		if a.First != nil {
			say = a.First.Say
		}
		if a.Rule != c.rule || say != c.say {
			t.Errorf("%s: rule %q says %q, want %q and %q", c.name, a.Rule, say, c.rule, c.say)
		}
		if a.First != nil && (a.First.Reason == "" || a.First.To == "" || len(a.Evidence) == 0) {
			t.Errorf("%s: advice without reason, goal or evidence: %+v", c.name, a)
		}
		if a.Second != nil && a.Second.Knob == a.First.Knob {
			t.Errorf("%s: the second choice turns the same knob", c.name)
		}
	}
}

func TestLimitsCount(t *testing.T) {
	sour := func(change func(*Brew)) Advice {
		b := base()
		b.Cup.Steps[cup.Acidity] = 5
		change(&b)
		return Advise(b)
	}
	if a := sour(func(b *Brew) { b.Recipe.Grind = 390 }); a.First == nil || a.First.Knob != recipe.KnobTemperature {
		t.Errorf("at 390 µm, where a bed nearly clogs: %+v", a.First)
	}
	if a := sour(func(b *Brew) { b.Recipe.Grind = 390; b.Boiling = 93.4 }); a.First == nil || a.First.Knob != recipe.KnobBloomTime {
		t.Errorf("fine already, and water boils at 93\u00a0°C: %+v", a.First)
	}
	if a := sour(func(b *Brew) { b.Recipe.Grind = 390; b.Boiling = 93.4; b.Recipe.BloomTime = 90 }); !a.Exhausted || a.Keep() {
		t.Errorf("every lever at its limit: %+v", a)
	}
	if a := sour(func(b *Brew) { b.Recipe.Temperature = 99 }); a.Second == nil || a.Second.Change.To != 100 {
		t.Errorf("from 99\u00a0°C one degree is left: %+v", a.Second)
	}
	if a := sour(func(b *Brew) { b.Grinder.Burrs = gear.Blade }); a.Sure != Guess {
		t.Errorf("with a blade the advice is %v", a.Sure)
	}
}

func TestMeasurementMakesAVerdictSurerOrLessSure(t *testing.T) {
	with := func(tds float64) Advice {
		b := base()
		b.Cup.Steps[cup.Acidity], b.Cup.TDS = 5, tds
		return Advise(b)
	}
	low, none, high := with(1.15), with(0), with(1.70)
	if !(low.Sure > none.Sure && none.Sure > high.Sure) || len(high.Against) == 0 {
		t.Errorf("sour with low, no and high yield: %v, %v, %v", low.Sure, none.Sure, high.Sure)
	}
}

func TestAnImmersionBrewIsMendedByItsOwnLevers(t *testing.T) {
	b := base()
	b.Brewer.Kind = gear.ValveSteeper
	b.Recipe = recipe.Recipe{Style: recipe.SteepAndRelease, Dose: 16, Water: 256, Grind: 390, Temperature: 93, Steep: 165, Rinse: true}
	b.Boiling, b.Cup.TDS = 93, 0
	b.Cup.Steps[cup.Acidity] = 5
	if a := Advise(b); a.First == nil || a.First.Knob != recipe.KnobSteep || a.First.Change.To != 195 {
		t.Errorf("sour from a steeper, no finer and no hotter: %+v", a.First)
	}
}

// Every proposal, in every situation, must be a recipe that can be brewed, turn
// one knob only, and be expected to move the yield the way its verdict asks.
func TestEveryProposalChangesOneThingWithinTheField(t *testing.T) {
	for _, steps := range everyTaste() {
		for _, drawdown := range []units.Seconds{0, 140, 200, 260} {
			for _, grind := range []units.Micrometres{380, 650, 1140} {
				b := base()
				b.Cup.Steps, b.Cup.Drawdown, b.Recipe.Grind = steps, drawdown, grind
				a := Advise(b)
				for _, p := range []*Proposal{a.First, a.Second} {
					if p == nil {
						continue
					}
					next := b.Recipe.With(p.Knob, p.Change.To)
					if got := recipe.Changes(b.Recipe, next); len(got) != 1 || got[0].Knob != p.Knob {
						t.Fatalf("%v: %q changes %+v", steps, p.Say, got)
					}
					r := p.Knob.Range()
					if v := next.Value(p.Knob); v < r.Lo || v > r.Hi || math.IsNaN(v) {
						t.Fatalf("%v: %q leads to %v", steps, p.Say, v)
					}
					if strings.HasPrefix(a.Verdict, "Too little") && p.Effect.Yield <= 0 || strings.HasPrefix(a.Verdict, "Too much") && p.Effect.Yield >= 0 {
						t.Fatalf("%v: %q, yet %q moves the yield by %v", steps, a.Verdict, p.Say, p.Effect.Yield)
					}
				}
			}
		}
	}
}

func everyTaste() (out []map[cup.Sense]int) {
	for i := range 3 * 3 * 3 * 3 {
		step := func(place int) int { return 1 + 2*(i/place%3) }
		out = append(out, map[cup.Sense]int{cup.Acidity: step(1), cup.Bitterness: step(3), cup.Body: step(9), cup.Sweetness: step(27), cup.Clarity: 3})
	}
	return out
}

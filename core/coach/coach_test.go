package coach

import (
	"math"
	"strings"
	"testing"
	"time"

	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// base is a cup without a fault: in its window, measured in the middle of the usual range.
func base() Case {
	return Case{
		Recipe: written(recipe.ThreeRounds, 18, 297, 650),
		Now:    now,
		Bag:    coffee.Bag{Roast: coffee.Medium, RoastedOn: "2026-04-25"},
		Window: coffee.Window{From: 180, To: 220},
		Gear: gear.Set{Brewer: gear.Brewer{Kind: gear.OpenCone, Retained: 2}, Boiling: 100,
			Grinder: gear.Grinder{Burrs: gear.HandMill, Dial: gear.Dial{Kind: gear.Clicks, Zero: 50, Step: 20}}},
		Cup: cup.Cup{Beverage: 261, TDS: 1.38, Drawdown: 200, Bed: cup.FlatBed,
			Taste: cup.Taste{Steps: map[cup.Sense]int{cup.Acidity: 3, cup.Sweetness: 2, cup.Body: 3, cup.Bitterness: 2, cup.Clarity: 3}}},
	}
}

var now = time.Date(2026, 5, 12, 9, 0, 0, 0, time.UTC)

// written is a rinsed recipe of a style at 93 °C.
func written(style recipe.StyleID, dose, water units.Grams, grind units.Micrometres) recipe.Recipe {
	r := style.Style().Write(dose, water, 93)
	r.Grind, r.Rinse = grind, true
	return r
}

// turned turns one knob of the recipe.
func turned(k recipe.Knob, v float64) func(*Case) {
	return func(c *Case) { c.Recipe = c.Recipe.With(recipe.Of(k), v) }
}

func tasting(steps map[cup.Sense]int) func(*Case) {
	return func(c *Case) {
		for s, v := range steps {
			c.Cup.Steps[s] = v
		}
	}
}

func drawdown(s units.Seconds) func(*Case) { return func(c *Case) { c.Cup.Drawdown = s } }

var cases = []struct {
	name   string
	change []func(*Case)
	rule   string
	say    string // of the first proposal; empty: none
}{
	{"strength is not extraction: thin", []func(*Case){tasting(map[cup.Sense]int{cup.Body: 1})}, "too weak", "36\u00a0g less water on the same dose"},
	{"strength is not extraction: heavy", []func(*Case){tasting(map[cup.Sense]int{cup.Body: 5})}, "too strong", "27\u00a0g more water on the same dose"},
	{"sour, on time", []func(*Case){tasting(map[cup.Sense]int{cup.Acidity: 5})}, "too little", "3 clicks finer"},
	{"sour and fast", []func(*Case){tasting(map[cup.Sense]int{cup.Acidity: 4}), drawdown(150)}, "too little", "2 clicks finer"},
	{"sour and slow is not mended by finer", []func(*Case){tasting(map[cup.Sense]int{cup.Acidity: 4}), drawdown(240)}, "sour and slow", "2\u00a0°C hotter"},
	{"bitter with a good flow", []func(*Case){tasting(map[cup.Sense]int{cup.Bitterness: 4})}, "bitter", "2\u00a0°C cooler"},
	{"slow and bitter", []func(*Case){tasting(map[cup.Sense]int{cup.Bitterness: 5}), drawdown(250)}, "too much", "5 clicks coarser"},
	{"slow and dry", []func(*Case){tasting(map[cup.Sense]int{cup.Dryness: 5}), drawdown(250)}, "too much", "3 clicks coarser"},
	{"sour and bitter is uneven", []func(*Case){tasting(map[cup.Sense]int{cup.Acidity: 5, cup.Bitterness: 5})}, "sour and bitter", "a larger bloom"},
	{"sour and bitter without a swirl", []func(*Case){tasting(map[cup.Sense]int{cup.Acidity: 5, cup.Bitterness: 5}), turned(recipe.HandAfter, 0)}, "sour and bitter", "swirl after the bloom and after the last pour"},
	{"weak, sour and fast is uneven", []func(*Case){tasting(map[cup.Sense]int{cup.Acidity: 5, cup.Body: 1}), drawdown(150)}, "weak, sour and fast", "a larger bloom"},
	{"stalled", []func(*Case){func(c *Case) { c.Marks = []cup.Mark{cup.Stall} }, drawdown(300)}, "stalled", "2 clicks coarser"},
	{"slow, yet sweet", []func(*Case){tasting(map[cup.Sense]int{cup.Sweetness: 4}), drawdown(245)}, "slow yet sweet", ""},
	{"muddled", []func(*Case){tasting(map[cup.Sense]int{cup.Clarity: 1})}, "muddled", "drop the swirl"},
	{"papery, rinsed already", []func(*Case){func(c *Case) { c.Cup.Faults = map[cup.Fault]bool{cup.Papery: true} }}, "papery", ""},
	{"papery", []func(*Case){func(c *Case) { c.Cup.Faults = map[cup.Fault]bool{cup.Papery: true}; c.Recipe.Rinse = false }}, "papery", "rinse the filter"},
	{"old and flat is not chased", []func(*Case){func(c *Case) { c.Cup.Faults = map[cup.Fault]bool{cup.Flat: true}; c.Bag.RoastedOn = "2026-01-01" }}, "stale", ""},
	{"good enough", []func(*Case){tasting(map[cup.Sense]int{cup.Sweetness: 4}), func(c *Case) { c.Cup.Serve = "yes" }}, "good", ""},
	{"would serve it, though it is sour", []func(*Case){tasting(map[cup.Sense]int{cup.Acidity: 5, cup.Bitterness: 4}), func(c *Case) { c.Cup.Serve = "yes" }}, "good", ""},
	{"a good mark and nothing else", []func(*Case){func(c *Case) { c.Cup = cup.Cup{Taste: cup.Taste{Overall: 8}} }}, "good", ""},
	{"a good mark that they would not serve", []func(*Case){tasting(map[cup.Sense]int{cup.Acidity: 5}), func(c *Case) { c.Cup.Overall, c.Cup.Serve = 8, "no" }}, "too little", "3 clicks finer"},
	{"nothing said", []func(*Case){func(c *Case) { c.Cup = cup.Cup{Drawdown: 150} }}, "nothing tasted", ""},
	{"measured only, low", []func(*Case){func(c *Case) { c.Cup = cup.Cup{Beverage: 261, TDS: 1.15, Drawdown: 200} }}, "measured low", "2 clicks finer"},
	{"no fault", nil, "no fault named", ""},
}

func TestEachSituationGetsItsOneChange(t *testing.T) {
	t.Parallel()
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
		if a.First != nil && (a.First.Reason == "" || a.First.LeadsTo == "" || len(a.Evidence) == 0) {
			t.Errorf("%s: advice without reason, goal or evidence: %+v", c.name, a)
		}
		if a.Second != nil && a.Second.Knob == a.First.Knob {
			t.Errorf("%s: the second choice turns the same knob", c.name)
		}
	}
}

func TestLimitsCount(t *testing.T) {
	t.Parallel()
	sour := func(change func(*Case)) Advice {
		c := base()
		c.Cup.Steps[cup.Acidity] = 5
		change(&c)
		return Advise(c)
	}
	if a := sour(func(c *Case) { c.Recipe.Grind = 390 }); a.First == nil || a.First.Knob != recipe.Temperature {
		t.Errorf("at 390 µm, where a bed nearly clogs: %+v", a.First)
	}
	if a := sour(func(c *Case) { c.Recipe.Grind = 390; c.Gear.Boiling = 93.4 }); a.First == nil || a.First.Knob != recipe.BloomTime {
		t.Errorf("fine already, and water boils at 93\u00a0°C: %+v", a.First)
	}
	if a := sour(func(c *Case) { c.Recipe.Grind = 390; c.Gear.Boiling = 93.4; turned(recipe.BloomTime, 90)(c) }); !a.Exhausted || a.Keep() {
		t.Errorf("every lever at its limit: %+v", a)
	}
	if a := sour(turned(recipe.Temperature, 99)); a.Second != nil && a.Second.Knob == recipe.Temperature && a.Second.To != 100 {
		t.Errorf("from 99\u00a0°C one degree is left: %+v", a.Second)
	}
	if a := sour(func(c *Case) { c.Gear.Grinder.Burrs = gear.Blade }); a.Sure != Guess {
		t.Errorf("with a blade the advice is %v", a.Sure)
	}
}

func TestMeasurementMakesAVerdictSurerOrLessSure(t *testing.T) {
	t.Parallel()
	with := func(tds float64) Advice {
		c := base()
		c.Cup.Steps[cup.Acidity], c.Cup.TDS = 5, tds
		return Advise(c)
	}
	low, none, high := with(1.15), with(0), with(1.70)
	if !(low.Sure >= none.Sure && none.Sure > high.Sure) || len(high.Against) == 0 {
		t.Errorf("sour with low, no and high yield: %v, %v, %v", low.Sure, none.Sure, high.Sure)
	}
}

func TestAnImmersionBrewIsMendedByItsOwnLevers(t *testing.T) {
	t.Parallel()
	c := base()
	c.Gear.Brewer.Kind = gear.ValveSteeper
	c.Recipe = written(recipe.SteepAndRelease, 16, 256, 390)
	c.Gear.Boiling, c.Cup.TDS = 93, 0
	c.Cup.Steps[cup.Acidity] = 5
	if a := Advise(c); a.First == nil || a.First.Knob != recipe.Release || a.First.To != 195 {
		t.Errorf("sour from a steeper, no finer and no hotter: %+v", a.First)
	}
}

// Every proposal, in every situation, must be a recipe that can be brewed, turn
// one knob only, and be expected to move the yield the way its verdict asks.
func TestEveryProposalChangesOneThingWithinItsRange(t *testing.T) {
	t.Parallel()
	for _, steps := range everyTaste() {
		for _, at := range []struct {
			drawdown units.Seconds
			grind    units.Micrometres
		}{{0, 650}, {140, 650}, {260, 650}, {200, 380}, {200, 1140}} {
			c := base()
			c.Cup.Steps, c.Cup.Drawdown, c.Recipe.Grind = steps, at.drawdown, at.grind
			a := Advise(c)
			for _, p := range []*Proposal{a.First, a.Second} {
				if p == nil {
					continue
				}
				next := c.Recipe.With(p.Address, p.To)
				if got := recipe.Changes(c.Recipe, next); len(got) != 1 || got[0].Address != p.Address {
					t.Fatalf("%v: %q changes %+v", steps, p.Say, got)
				}
				r := p.Knob.Range()
				if v := next.Value(p.Address); v < r.Lo || v > r.Hi || math.IsNaN(v) {
					t.Fatalf("%v: %q leads to %v", steps, p.Say, v)
				}
				if strings.HasPrefix(a.Verdict, "Too little") && p.Effect.Yield <= 0 || strings.HasPrefix(a.Verdict, "Too much") && p.Effect.Yield >= 0 {
					t.Fatalf("%v: %q, yet %q moves the yield by %v", steps, a.Verdict, p.Say, p.Effect.Yield)
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

func BenchmarkAdvise(b *testing.B) {
	c := base()
	c.Cup.Steps[cup.Acidity] = 5
	for b.Loop() {
		_ = Advise(c)
	}
}

// The bag's earlier cups count: what went too far is turned back by less than it was
// turned, and a fault of the same words is answered by a smaller step once the aim is known.
func TestEarlierCupsNarrowTheNextStep(t *testing.T) {
	t.Parallel()
	cupOf := func(grind units.Micrometres, acidity, bitterness, mark int) Case {
		c := base()
		c.Recipe.Grind = grind
		c.Cup.TDS, c.Cup.Drawdown = 0, 0
		c.Cup.Steps[cup.Acidity], c.Cup.Steps[cup.Bitterness], c.Cup.Overall = acidity, bitterness, mark
		return c
	}
	alone := cupOf(650, 5, 1, 5)
	first := Advise(alone)
	after := cupOf(570, 2, 4, 5)
	after.Path = []Case{alone}
	next := Advise(after)
	if first.First == nil || first.First.Knob != recipe.Grind || first.First.To >= 650 {
		t.Fatalf("sour at 650 µm: %+v", first.First)
	}
	if next.First == nil || next.First.Knob == recipe.Grind && (next.First.To <= 570 || next.First.To >= 650) {
		t.Errorf("bitter at 570 µm after sour at 650: %+v, want something between", next.First)
	}
}

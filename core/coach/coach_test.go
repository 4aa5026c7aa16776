package coach_test

import (
	"math"
	"testing"

	"yardbloom/core/coach"
	"yardbloom/core/cup"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
)

func TestMeasurementChangesTheProbability(t *testing.T) {
	t.Parallel()
	sour := tastes("a5 b1 s2 o3")
	low, none, high := coach.Advise(cone(sour, measured(17))), coach.Advise(cone(sour)), coach.Advise(cone(sour, measured(25)))
	if low.Rule != string(coach.Under) || !(low.Chance > none.Chance && none.Chance > high.Chance) {
		t.Errorf("sour with low, no and high yield: %s %.2f, %s %.2f, %s %.2f", low.Rule, low.Chance, none.Rule, none.Chance, high.Rule,
			high.Chance)
	}
}

// Every proposal, in every situation, is a recipe that can be brewed, changes one knob only, and is
// expected to change the yield in the direction of its verdict.
func TestEveryProposalChangesOneThingWithinItsRange(t *testing.T) {
	t.Parallel()
	for a := 1; a <= 5; a += 2 {
		for b := 1; b <= 5; b += 2 {
			for _, c := range []coach.Case{cone(), cone(later(-50)), cone(later(60)), cone(turned(recipe.Grind, 390)), steeper(), iced()} {
				c.Cup.Steps[cup.Acidity], c.Cup.Steps[cup.Bitterness], c.Cup.Steps[cup.Sweetness] = a, b, 2
				advice := coach.Advise(c)
				for _, p := range []*coach.Proposal{advice.First, advice.Second, advice.Third} {
					if p == nil {
						continue
					}
					next := c.Recipe.With(p.Address, p.To)
					if got := recipe.Changes(c.Recipe, next); len(got) != 1 {
						t.Fatalf("acidity %d, bitterness %d: %q changes %+v", a, b, p.Say, got)
					}
					r := p.Knob.Range()
					if v := next.Value(p.Address); v < r.Lo || v > r.Hi || math.IsNaN(v) {
						t.Fatalf("acidity %d, bitterness %d: %q leads to %v", a, b, p.Say, v)
					}
				}
				if p := advice.First; p != nil && (advice.Rule == string(coach.Under) && p.Effect.Yield <= 0 ||
					advice.Rule == string(coach.Over) && p.Effect.Yield >= 0) {
					t.Fatalf("%q, yet %q moves the yield by %v", advice.Verdict, p.Say, p.Effect.Yield)
				}
			}
		}
	}
}

// Earlier cups of the bag count: a change that went too far is undone in part.
func TestEarlierCupsNarrowTheNextStep(t *testing.T) {
	t.Parallel()
	c := cone(tastes("a1 b5 s2 o3"), mark(5), after(all(turnedBy(recipe.Grind, 80), tastes("a5 b1 s2"), mark(5))))
	a := coach.Advise(c)
	from, before := float64(c.Recipe.Grind), float64(c.Recipe.Grind)+80
	if a.First == nil || a.First.Knob != recipe.Grind || math.Abs(a.First.To-(from+before)/2) > 20 {
		t.Errorf("bitter at %.0f µm after sour at %.0f: %+v, want about half of the way", from, before, a.First)
		t.Logf("%+v", *a.First)
	}
}

// Every tasted cup narrows the aim.
func TestAimNarrowsFromCupToCup(t *testing.T) {
	t.Parallel()
	words := all(tastes("a4 b1 s3 o3"), mark(6))
	one := coach.Advise(cone(words)).Map
	three := coach.Advise(cone(words, after(all(turnedBy(recipe.Grind, 80), tastes("a5 b1 s2"), mark(5)),
		all(turnedBy(recipe.Grind, 40), tastes("a4 b1 s2"), mark(6))))).Map
	if !(three.Aim.YieldSpread < one.Aim.YieldSpread) || len(three.Cups) != 3 {
		t.Errorf("the aim is known to ±%.2f points after three cups and to ±%.2f after one", three.Aim.YieldSpread, one.Aim.YieldSpread)
	}
}

// The aim of other bags of a kind has a small effect on a first cup.
func TestOtherBagsHaveASmallEffect(t *testing.T) {
	t.Parallel()
	c := cone(tastes("a3 b2 s3 o3"), mark(6))
	plain := coach.Advise(c)
	c.Known = coach.Patch{Yield: 23, Strength: 1.38, YieldSpread: 0.5, StrengthSpread: 0.05}.Widened()
	moved := coach.Advise(c)
	if by := moved.Map.Aim.Yield - plain.Map.Aim.Yield; by < 0.1 || by > 2 {
		t.Errorf("an aim of 23 %% with other bags moves this one's by %.2f points", by)
	}
}

// A larger fault gets a larger change.
func TestLargerFaultGetsALargerStep(t *testing.T) {
	t.Parallel()
	size := func(words string, n int) float64 {
		p := coach.Advise(cone(tastes(words), mark(n))).First
		if p == nil || p.Knob != recipe.Grind {
			t.Fatalf("%s: %+v", words, p)
		}
		return p.From - p.To
	}
	if small, large := size("a4 b2 s3 o3", 7), size("a5 b1 s1 o3", 4); !(small > 0 && large > small) {
		t.Errorf("%.0f µm for a small fault and %.0f for a large one", small, large)
	}
}

// Strong evidence for one side raises the probability of its cause, line by line, and the last line agrees
// with the advice.
func TestReasoningAddsUpToTheVerdict(t *testing.T) {
	t.Parallel()
	a := coach.Advise(cone(tastes("a5 b1 s2 o3"), mark(5)))
	chance := 0.0
	for _, s := range a.Signs {
		for _, m := range s.Moved {
			if m.Cause == a.Rule {
				chance = m.To
			}
		}
	}
	if math.Abs(chance-a.Chance) > 0.03 { // the account omits small changes
		t.Errorf("the account ends at %.2f, the verdict stands at %.2f", chance, a.Chance)
	}
	sum := 0.0
	for _, l := range a.First.Lines {
		sum += l.By
	}
	if sum <= 0 || a.First.Help < 0.5 {
		t.Errorf("%q is advised at a gain of %.2f and %.0f %%", a.First.Say, sum, 100*a.First.Help)
	}
}

func TestBladeChangesAreLessCertain(t *testing.T) {
	t.Parallel()
	bitter := tastes("a1 b5 s2 o3")
	burrs, blade := coach.Advise(cone(bitter)), coach.Advise(cone(mill(gear.Blade), bitter))
	if blade.First == nil || blade.First.Help >= burrs.First.Help || len(blade.Against) == 0 {
		t.Errorf("%+v with a blade, %+v with burrs", blade.First, burrs.First)
	}
}

func BenchmarkAdvise(b *testing.B) {
	c := cone(tastes("a5 b1 s2 o3"), mark(5))
	for range 8 {
		before := c
		before.Path = nil
		c.Path = append(c.Path, before)
	}
	for b.Loop() {
		_ = coach.Advise(c)
	}
}

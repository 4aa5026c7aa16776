package coach_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"yardbloom/core/coach"
	"yardbloom/core/cup"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// randomPath returns a case after up to three random changes, each tasted at random but in agreement with itself: sour cups are not
// bitter, and bad words go with low marks.
func randomPath(seed uint64) coach.Case {
	rng := rand.New(rand.NewPCG(seed, 41))
	starts := []func(...brewing) coach.Case{cone, flatBed, heavyCone, steeper, iced, diluted, split}
	c := starts[rng.IntN(len(starts))]()
	c.Good = []int{0, 7}[rng.IntN(2)]
	knobs := []recipe.Knob{recipe.Grind, recipe.Ratio, recipe.Temperature, recipe.Bloom, recipe.Coffee, recipe.SameCup, recipe.FinerCooler}
	for range rng.IntN(4) {
		tasteAtRandom(&c, rng)
		before := c
		before.Path = nil
		c.Path = append(c.Path, before)
		at := recipe.AddressOf(knobs[rng.IntN(len(knobs))])
		by := (rng.Float64() - 0.5) * 0.12
		if to := c.Recipe.Value(at) * (1 + by); c.Recipe.Has(at) && at.Knob.Usual().Contains(to) {
			if at.Knob == recipe.Grind || at.Knob == recipe.FinerCooler {
				to = float64(c.Gear.Grinder.Snap(units.Micrometres(to)))
			}
			c.Recipe = c.Recipe.With(at, to)
		}
	}
	tasteAtRandom(&c, rng)
	return c
}

func tasteAtRandom(c *coach.Case, rng *rand.Rand) {
	asPredicted(c)
	c.Cup.Drawdown = units.Seconds(math.Round(float64(c.Cup.Drawdown) * math.Exp(0.1*rng.NormFloat64())))
	off, strong := 1.5*rng.NormFloat64(), 1.2*rng.NormFloat64()
	step := func(v float64) int { return int(max(1, min(5, math.Round(v+0.5*rng.NormFloat64())))) }
	c.Cup.Taste = cup.Taste{Steps: map[cup.Sense]int{cup.Acidity: step(3 - 0.5*off), cup.Bitterness: step(2 + 0.6*off), cup.Body: step(3 + 0.7*strong)},
		Overall: int(max(1, min(10, math.Round(9-1.2*math.Hypot(off, strong))))), Faults: map[cup.Fault]bool{}}
	c.Cup.Bed = []cup.Bed{cup.FlatBed, cup.FlatBed, cup.Cratered, ""}[rng.IntN(4)]
	if rng.IntN(4) == 0 {
		c.Cup.Beverage, c.Cup.TDS = c.Recipe.Amounts(2).Cup, units.Round(1.35+0.1*rng.NormFloat64(), 2)
	}
}

// checkPath describes a fault of the advice on a random path; empty for none.
func checkPath(seed uint64) string {
	c := randomPath(seed)
	a := coach.Advise(c)
	if a.First == nil {
		if a.Instead == "" {
			return "no answer"
		}
		return ""
	}
	p := a.First
	next := c.Recipe.With(p.Address, p.To)
	switch {
	case len(recipe.Changes(c.Recipe, next)) != 1:
		return fmt.Sprintf("%q is %d changes", p.Say, len(recipe.Changes(c.Recipe, next)))
	case !p.Knob.Range().Contains(next.Value(p.Address)):
		return fmt.Sprintf("%q leads to %v", p.Say, p.To)
	case len(recipe.Check(next, c.Gear, c.Prefs)) > len(recipe.Check(c.Recipe, c.Gear, c.Prefs)):
		return fmt.Sprintf("%q gets a warning", p.Say)
	}
	for _, past := range c.Path {
		if len(recipe.Changes(past.Recipe, next)) == 0 && past.Cup.Overall <= c.Cup.Overall {
			return fmt.Sprintf("%q returns to a recipe with a mark of %d, from %d", p.Say, past.Cup.Overall, c.Cup.Overall)
		}
	}
	if wrong := contradiction(a); wrong != "" {
		return wrong
	}
	// A second of drawdown and 0.01 % of TDS do not turn the advice round.
	other := c
	other.Said = &p.Change
	other.Cup.Drawdown++
	if other.Cup.TDS > 0 {
		other.Cup.TDS += 0.01
	}
	if b := coach.Advise(other); b.First != nil && b.First.Address == p.Address && (b.First.To > p.From) != (p.To > p.From) {
		return fmt.Sprintf("%q becomes %q after a second", p.Say, b.First.Say)
	}
	return ""
}

// contradiction returns how the sentences of an advice contradict its numbers, empty if they do not.
func contradiction(a coach.Advice) string {
	e := a.First.Effect
	const noise = 0.05 // shown as 0.0
	wrong := map[coach.Cause]bool{coach.Under: e.Yield < -noise, coach.Over: e.Yield > noise, coach.Weak: e.Strength < -noise/10,
		coach.Strong: e.Strength > noise/10}
	if wrong[coach.Cause(a.Rule)] {
		return fmt.Sprintf("%q, yet %q moves the yield by %.2f and the strength by %.3f", a.Verdict, a.First.Say, e.Yield, e.Strength)
	}
	for _, s := range a.Signs {
		for _, m := range s.Moved {
			if math.Abs(m.By) < 0.01 || m.To < 0 || m.To > 1 {
				return fmt.Sprintf("%q moves %s by %.3f to %.3f", s.Say, m.Cause, m.By, m.To)
			}
		}
		if s.Without == a.First.Say {
			return fmt.Sprintf("without %q the answer is the same: %q", s.Say, s.Without)
		}
	}
	return ""
}

// Advice on random paths is possible, returns to no recipe that was liked no better, agrees with its own numbers, and is not turned round by
// a second. Mutations caught: no warnings refused, no memory of the path, a cause taken from the likeliest and not from the change,
// no preference for the earlier advice.
func TestAdviceOnRandomPaths(t *testing.T) {
	t.Parallel()
	const paths = 200
	for seed := range uint64(paths) {
		if wrong := checkPath(seed); wrong != "" {
			t.Errorf("seed %d: %s", seed, wrong)
		}
	}
}

// BenchmarkRandomPaths checks 2,000 other paths and prints their faults.
func BenchmarkRandomPaths(b *testing.B) {
	for b.Loop() {
		bad := 0
		for seed := range uint64(2000) {
			if wrong := checkPath(1_000_000 + seed); wrong != "" {
				fmt.Println(seed, wrong)
				bad++
			}
		}
		fmt.Printf("%d of 2,000 random paths get wrong advice\n", bad)
	}
}

// The worse the words and the mark, the larger the step.
func TestWorseFaultGetsNoSmallerStep(t *testing.T) {
	t.Parallel()
	words := []string{"a4 b2 s3 o3", "a4 b1 s2 o3", "a5 b1 s2 o3", "a5 b1 s1 o3"}
	for _, start := range []func(...brewing) coach.Case{cone, flatBed, heavyCone} {
		last := 0.0
		for i, said := range words {
			p := coach.Advise(start(tastes(said), mark(7-i))).First
			if p == nil || p.Knob != recipe.Grind {
				continue
			}
			size := math.Abs(p.To - p.From)
			if size < last {
				t.Errorf("%s and %d of 10: %.0f µm after %.0f", said, 7-i, size, last)
			}
			last = size
		}
	}
}

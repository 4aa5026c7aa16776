package trial

import (
	"errors"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

func pairOf(t *testing.T, repeats int, seed uint64) Trial {
	t.Helper()
	other := Of(recipe.Grind, 600, 700)
	p, err := New("t", "", sheet(), Of(recipe.Temperature, 90, 96), &other, repeats, ByYield, seed)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// fillPair sets the results of all runs: cell means plus the deviation of a run.
func fillPair(p Trial, means [4]float64, off func(i int, r Run) float64) Trial {
	for i, r := range p.Runs {
		p = p.SetResult(i, means[p.cell(r)]+off(i, r), "")
	}
	return p
}

// Calculated by hand: cell means 20, 21 (hot), 18 (coarse), 22 (both): hot does +1 and +4, coarse -2 and +1, so the effects are
// +2.5 and -0.5 and the interaction +3. Blocks that differ by 5 change nothing. Mutations caught: weights of the wrong
// cells, half an interaction, blocks left in.
func TestEffectsOfAPair(t *testing.T) {
	t.Parallel()
	p := fillPair(pairOf(t, 2, 4), [4]float64{20, 21, 18, 22}, func(_ int, r Run) float64 { return 5 * float64(r.Block) })
	a, ok := p.Answer()
	if !ok || a.Pair == nil || a.Steps != nil || a.Bend != nil {
		t.Fatalf("%+v", a)
	}
	for name, c := range map[string][2]float64{"temperature": {a.Pair.First.By, 2.5}, "grind": {a.Pair.Second.By, -0.5},
		"together": {a.Pair.Together.By, 3}} {
		if math.Abs(c[0]-c[1]) > 1e-9 {
			t.Errorf("%s: %+.3f, want %+.3f", name, c[0], c[1])
		}
	}
	if len(p.Runs) != 8 || p.NameOf(p.Runs[0], units.Prefs{}) == "" {
		t.Errorf("%d runs", len(p.Runs))
	}
}

// The stated errors of the three effects are their spreads, also when a run is missing. Mutation caught: an interaction with the
// error of a main effect, which is half as large.
func TestErrorsOfAPairAreTheirSpreads(t *testing.T) {
	t.Parallel()
	const tries = 2000
	rng := rand.New(rand.NewPCG(8, 9))
	inside := [3]int{}
	for range tries {
		p := fillPair(pairOf(t, 3, rng.Uint64()), [4]float64{20, 21, 19, 20}, func(int, Run) float64 { return 0.4 * rng.NormFloat64() })
		p = p.Skip(11)
		a, _ := p.Answer()
		truth := [3]float64{1, -1, 0}
		for i, e := range [3]Effect{a.Pair.First, a.Pair.Second, a.Pair.Together} {
			if math.Abs(e.By-truth[i]) <= a.criticalValue()*e.Error {
				inside[i]++
			}
		}
	}
	for i, n := range inside {
		if share := float64(n) / tries; share < 0.93 || share > 0.97 {
			t.Errorf("effect %d is within its 95 %% interval in %.1f %%", i, 100*share)
		}
	}
}

// The sentence tells an interaction, none, too few repeats, and a pair without a brew. Mutation caught: "together they do what
// each does alone" from an error that would hide any interaction.
func TestSentenceOfAPair(t *testing.T) {
	t.Parallel()
	small := []float64{0.05, -0.05, 0.02, -0.02, 0.04, -0.03}
	noise := func(scale float64) func(int, Run) float64 {
		return func(i int, _ Run) float64 { return scale * small[i%len(small)] }
	}
	for _, c := range []struct {
		name    string
		p       Trial
		says    string
		unsaid  string
		missing bool
	}{
		{"an interaction", fillPair(pairOf(t, 3, 1), [4]float64{20, 21, 18, 22}, noise(1)), "One changes the effect of the other: with 700", "Too few", false},
		{"none", fillPair(pairOf(t, 3, 1), [4]float64{20, 21, 19, 20}, noise(1)), "Together they do what each does alone", "Too few", false},
		{"much scatter", fillPair(pairOf(t, 2, 1), [4]float64{20, 20.2, 20, 20.1}, noise(30)), "Too few repeats to tell", "each does alone", false},
		{"one block", fillPair(pairOf(t, 1, 1), [4]float64{20, 21, 18, 22}, noise(1)), "Too few repeats to tell", "±", false},
	} {
		a, ok := c.p.Answer()
		says := strings.ReplaceAll(c.p.Describe(a, units.Prefs{}), "\u00a0", " ")
		if !ok || !strings.Contains(says, c.says) || strings.Contains(says, c.unsaid) {
			t.Errorf("%s: %s", c.name, says)
		}
	}
	p := pairOf(t, 2, 1)
	for i, r := range p.Runs {
		if p.cell(r) != 3 {
			p = p.SetResult(i, 20, "")
		}
	}
	if a, ok := p.Answer(); !ok || !a.Pair.Missing || !strings.Contains(p.Describe(a, units.Prefs{}), "has not been brewed") {
		t.Errorf("three of four pairs: %+v", a.Pair)
	}
}

// Two factors have two levels each and differ. Mutation caught: a plan of any size.
func TestPairsAreTwoByTwo(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		first, second Factor
		err           error
	}{
		{Of(recipe.Ratio, 14, 15, 16), Of(recipe.Grind, 600, 700), ErrPairs}, {Of(recipe.Ratio, 14, 16), Of(recipe.Grind, 600, 650, 700), ErrPairs},
		{Of(recipe.Ratio, 14, 16), Of(recipe.Ratio, 15, 17), ErrSame}, {Of(recipe.Ratio, 14, 16), Of(recipe.Grind, 10, 700), units.ErrRange},
		{Of(recipe.Ratio, 14, 16), Of(recipe.CrustAt, 0, 60), ErrKnob},
	} {
		if _, err := New("t", "", sheet(), c.first, &c.second, 2, ByMark, 1); !errors.Is(err, c.err) {
			t.Errorf("%+v with %+v: %v, want %v", c.first, c.second, err, c.err)
		}
	}
}

package trial

import (
	"errors"
	"math"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

func sheet() brew.Sheet {
	r := recipe.ThreeRounds.Style().Generate(18, 297, 93)
	r.Grind, r.Rinse = 650, true
	return brew.Sheet{Recipe: r, Bag: coffee.Bag{Roast: coffee.Medium}, Created: time.Date(2026, 5, 12, 9, 0, 0, 0, time.UTC),
		Gear: gear.Set{Boiling: 100, Brewer: gear.Brewer{Kind: gear.OpenCone, Filter: gear.StandardPaper, Material: gear.Plastic,
			Holds: 480, Retained: 2}, Grinder: gear.Grinder{Burrs: gear.HandMill, Loss: 0.5}}}
}

func planned(t *testing.T, seed uint64) Trial {
	t.Helper()
	out, err := New("t", "Water", sheet(), Of(recipe.Ratio, 18, 12, 14, 16), nil, 3, ByYield, seed)
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// Every block has each level once, in a random order.
func TestPlanIsShuffledInBlocks(t *testing.T) {
	t.Parallel()
	first := map[int]int{}
	for seed := range 400 {
		p := planned(t, uint64(seed))
		codes := map[string]bool{}
		for block := range 3 {
			seen := map[int]bool{}
			for _, r := range p.Runs[4*block : 4*block+4] {
				seen[r.Level] = true
				codes[r.Code] = true
				if r.Block != block {
					t.Fatalf("block %d has a run of block %d", block, r.Block)
				}
			}
			if len(seen) != 4 {
				t.Fatalf("block %d has the levels %v", block, seen)
			}
		}
		for code := range codes {
			if len(code) != 2 || code[0] < 'A' || code[0] > 'Z' || code[1] < '0' || code[1] > '9' {
				t.Fatalf("a code is %q", code)
			}
		}
		if len(codes) != 12 {
			t.Fatalf("%d codes for 12 runs", len(codes))
		}
		first[p.Runs[0].Level]++
	}
	for level := range 4 {
		if first[level] < 60 {
			t.Errorf("level %d is brewed first %d times of 400", level, first[level])
		}
	}
	for _, c := range []struct {
		knob    recipe.Knob
		levels  []float64
		repeats int
		err     error
	}{{recipe.Release, []float64{60, 120}, 2, ErrKnob}, {recipe.Ratio, []float64{16, 16}, 2, ErrLevels},
		{recipe.Ratio, []float64{14, 16}, 9, ErrRepeats}, {recipe.Ratio, []float64{2, 16}, 2, units.ErrRange}} {
		if _, err := New("t", "", sheet(), Of(c.knob, c.levels...), nil, c.repeats, ByMark, 1); !errors.Is(err, c.err) {
			t.Errorf("%s at %v, %d times: %v, want %v", c.knob, c.levels, c.repeats, err, c.err)
		}
	}
}

// 12 runs of 18 g with 0.5 g lost each take 222 g; 180 g are enough for two blocks.
func TestPlanFitsTheBag(t *testing.T) {
	t.Parallel()
	p := planned(t, 1)
	if got := p.Uses(); math.Abs(float64(got)-222) > 1e-9 {
		t.Errorf("it takes %v g", got)
	}
	if all, timed := p.Fits(0, 0), p.Fits(0, 40*60); all != 3 || timed != 1 {
		t.Errorf("without a limit of coffee %d blocks, %d in 40 minutes", all, timed)
	}
	if n := p.Fits(180, 0); n != 2 {
		t.Errorf("180 g are enough for %d blocks", n)
	}
	if n := p.Fits(1000, 40*60); n != 1 {
		t.Errorf("40 minutes are enough for %d blocks; all take %v", n, p.Duration())
	}
}

// Calculated by hand: levels 1 and 2 in two blocks, the second block 10 higher. Means are those of an
// average block, and the residuals ±0.5 with one degree of freedom give a scatter of 1.
func TestBlocksAreRemoved(t *testing.T) {
	t.Parallel()
	p, err := New("t", "", sheet(), Of(recipe.Ratio, 14, 16), nil, 2, ByMark, 1)
	if err != nil {
		t.Fatal(err)
	}
	values := map[[2]int]float64{{0, 0}: 1, {0, 1}: 3, {1, 0}: 11, {1, 1}: 15} // block, level
	for i, r := range p.Runs {
		p = p.SetResult(i, values[[2]int{r.Block, r.Level}], "ada")
	}
	a, ok := p.Answer()
	if !ok || a.Freedom != 1 || math.Abs(a.Scatter-1) > 1e-9 || math.Abs(a.Levels[0].Mean-6) > 1e-9 || math.Abs(a.Levels[1].Mean-9) > 1e-9 {
		t.Errorf("%+v", a)
	}
	if s := a.Steps[0]; math.Abs(s.By-3) > 1e-9 || math.Abs(s.Error-1) > 1e-9 || s.Significant {
		t.Errorf("the step: %+v", s)
	}
}

// The stated error of a step equals its spread under noise, also if the bag runs out half-way.
func TestStatedErrorOfAStepIsItsSpread(t *testing.T) {
	t.Parallel()
	const tries = 3000
	rng := rand.New(rand.NewPCG(5, 6))
	inside, told := 0, 0
	for range tries {
		p := planned(t, rng.Uint64())
		for i, r := range p.Runs {
			if i >= 10 { // the bag ran out
				p = p.Skip(i)
				continue
			}
			p = p.SetResult(i, 20+0.4*float64(r.Block)+0.3*rng.NormFloat64(), "ada")
		}
		a, ok := p.Answer()
		if !ok {
			t.Fatal("no answer from ten runs")
		}
		if s := a.Steps[0]; math.Abs(s.By) <= a.criticalValue()*s.Error {
			inside++
		} else if s.Significant {
			told++
		}
	}
	if share := float64(inside) / tries; share < 0.93 || share > 0.97 {
		t.Errorf("%.1f %% of the steps are within the stated 95 %% interval", 100*share)
	}
}

// Identical readings do not make a difference exact. Mutation caught: "± 0.0".
func TestNoErrorIsShownAsZero(t *testing.T) {
	t.Parallel()
	p := planned(t, 3)
	for i, r := range p.Runs {
		p = p.SetResult(i, []float64{17, 19.6, 19.8, 19.7}[r.Level], "ada")
	}
	a, ok := p.Answer()
	if says := p.Describe(a, units.Prefs{}); !ok || strings.Contains(says, "± 0.0 ") {
		t.Errorf("the answer says %q", says)
	}
}

func TestAnswerFindsTheBend(t *testing.T) {
	t.Parallel()
	p := planned(t, 3)
	truth := []float64{17, 19.6, 19.8, 19.7}
	noise := []float64{0.05, -0.05, 0.02}
	for i, r := range p.Runs {
		p = p.SetResult(i, truth[r.Level]+noise[(r.Block+r.Level)%3], "ada")
	}
	a, _ := p.Answer()
	says := p.Describe(a, units.Prefs{})
	if a.Bend == nil || *a.Bend < 14 || !strings.Contains(says, "not distinguishable") || p.Expect(a).Levels[0].Expected < 15 {
		t.Errorf("%s (%+v)", says, a)
	}
	one := planned(t, 3).SetResult(0, 19, "").SetResult(1, 20, "")
	a, ok := one.Answer()
	if !ok || a.Freedom != 0 || !strings.Contains(one.Describe(a, units.Prefs{}), "too few brews") {
		t.Errorf("two brews: %+v", a)
	}
}

// Each block has one level, so blocks and levels are not separable and blocks are ignored. Calculated by
// hand: values 1, 3 and 11, 15 leave residuals of ±1 and ±2; with 4 − 2 degrees of freedom the scatter is
// √(10/2). Mutation caught: n or n − 1 degrees of freedom.
func TestWithoutBlocksTheScatterHasItsDegreesOfFreedom(t *testing.T) {
	t.Parallel()
	p := Trial{Factor: Of(recipe.Ratio, 14, 16), Runs: []Run{
		{Level: 0, Block: 0, Done: true, Value: 1}, {Level: 0, Block: 0, Done: true, Value: 3},
		{Level: 1, Block: 1, Done: true, Value: 11}, {Level: 1, Block: 1, Done: true, Value: 15},
	}}
	a, ok := p.Answer()
	if !ok || a.Freedom != 2 || math.Abs(a.Scatter-math.Sqrt(5)) > 1e-9 {
		t.Fatalf("%+v", a)
	}
	if s := a.Steps[0]; math.Abs(s.By-11) > 1e-9 || math.Abs(s.Error-math.Sqrt(5)) > 1e-9 {
		t.Errorf("the step: %+v", s)
	}
}

// in returns a trial with results by level, each in its own block.
func in(values ...[]float64) Trial {
	var t Trial
	t.Knob, t.Measure = recipe.Ratio, ByYield
	for level, results := range values {
		t.Levels = append(t.Levels, 12+2*float64(level))
		for block, v := range results {
			t.Runs = append(t.Runs, Run{Block: block, Level: level, Done: true, Value: v})
		}
	}
	return t
}

// Calculated by hand for two levels in three blocks: differences of 2, 4 and 6 leave residuals of ±1, 0 and
// ±1; with two degrees of freedom the scatter is √2, the error of a level √(2/3) and of the step √(4/3).
// Student's t for 95 % is 4.303, so a step of 4 is not significant and one of 6 ± 0.577 is. Mutations
// caught: an error divided by the scatter, a critical value divided by the error.
func TestErrorsOfLevelsAndSteps(t *testing.T) {
	t.Parallel()
	a, ok := in([]float64{1, 11, 21}, []float64{3, 15, 27}).Answer()
	if !ok || a.Freedom != 2 || math.Abs(a.Scatter-math.Sqrt2) > 1e-9 || math.Abs(a.Levels[0].Error-math.Sqrt(2./3)) > 1e-9 {
		t.Fatalf("%+v", a)
	}
	if s := a.Steps[0]; math.Abs(s.By-4) > 1e-9 || math.Abs(s.Error-math.Sqrt(4./3)) > 1e-9 || s.Significant {
		t.Errorf("the step: %+v", s)
	}
	a, _ = in([]float64{1, 11, 21}, []float64{6, 17, 28}).Answer()
	if s := a.Steps[0]; math.Abs(s.By-6) > 1e-9 || math.Abs(s.Error-math.Sqrt(1./3)) > 1e-9 || !s.Significant {
		t.Errorf("the step: %+v", s)
	}
	if a, _ := in([]float64{20, 20}, []float64{20, 20}).Answer(); a.Steps[0].Significant {
		t.Errorf("no difference is significant: %+v", a)
	}
}

// A bend is the level after a significant rise and before an insignificant one. By hand for the first: the
// residuals have a sum of squares of 48 with four degrees of freedom, so a level has the error √(12/3) and a
// difference √8. Mutations caught: levels
// added instead of subtracted, a critical value divided by the error, a bend of two levels, other texts.
func TestBendByLevels(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		name   string
		levels [][]float64
		bend   float64 // 0: none
		says   string
	}{
		{"rise, then flat", [][]float64{{0, 3, -3}, {40, 37, 43}, {43, 46, 40}}, 14,
			"Up to 1 : 14 it adds +40.0 ± 2.8 points of yield; past 1 : 14 more adds +3.0 ± 2.8 points of yield: not distinguishable."},
		{"rise throughout", [][]float64{{0, 1, -1}, {40, 39, 41}, {80, 81, 79}}, 0, "From 1 : 12 to 1 : 16 it adds +80.0 ± 0.9 points of yield."},
		{"flat", [][]float64{{20, 20.3, 19.7}, {20.1, 19.8, 20.4}, {20.2, 20.5, 19.9}}, 0,
			"From 1 : 12 to 1 : 16 it adds +0.2 ± 0.3 points of yield: not distinguishable."},
		{"two levels", [][]float64{{0, 1, -1}, {40, 39, 41}}, 0, "From 1 : 12 to 1 : 14 it adds +40.0 ± 1.2 points of yield."},
		{"one brew each", [][]float64{{0}, {40}, {41}}, 0,
			"From 1 : 12 to 1 : 16 it adds +41.0 points of yield, from too few brews to say how sure that is. Brew each level again."},
	} {
		p := in(c.levels...)
		a, ok := p.Answer()
		if !ok || (a.Bend == nil) != (c.bend == 0) || a.Bend != nil && *a.Bend != c.bend {
			t.Errorf("%s: bend %v in %+v", c.name, a.Bend, a)
		}
		if says := strings.ReplaceAll(p.Describe(a, units.Prefs{}), "\u00a0", " "); says != c.says {
			t.Errorf("%s: %q, want %q", c.name, says, c.says)
		}
	}
	if small, large := LeastError(0.001, 1), LeastError(0.3, 1); small != 0.1 || large != 0.3 {
		t.Errorf("errors are shown as %g and %g", small, large)
	}
}

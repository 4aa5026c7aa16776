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
	r := recipe.ThreeRounds.Style().Write(18, 297, 93)
	r.Grind, r.Rinse = 650, true
	return brew.Sheet{Recipe: r, Bag: coffee.Bag{Roast: coffee.Medium}, Created: time.Date(2026, 5, 12, 9, 0, 0, 0, time.UTC),
		Gear: gear.Set{Boiling: 100, Brewer: gear.Brewer{Kind: gear.OpenCone, Filter: gear.StandardPaper, Material: gear.Plastic, Holds: 480, Retained: 2}, Grinder: gear.Grinder{Burrs: gear.HandMill, Loss: 0.5}}}
}

func planned(t *testing.T, seed uint64) Trial {
	t.Helper()
	out, err := New("t", "Water", sheet(), recipe.Ratio, []float64{18, 12, 14, 16}, 3, ByYield, seed)
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// Every block has each level once, and chance decides the order within it.
func TestAPlanIsShuffledInBlocks(t *testing.T) {
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
	}{{recipe.Release, []float64{60, 120}, 2, ErrKnob}, {recipe.Ratio, []float64{16, 16}, 2, ErrLevels}, {recipe.Ratio, []float64{14, 16}, 9, ErrRepeats}, {recipe.Ratio, []float64{2, 16}, 2, units.ErrRange}} {
		if _, err := New("t", "", sheet(), c.knob, c.levels, c.repeats, ByMark, 1); !errors.Is(err, c.err) {
			t.Errorf("%s at %v, %d times: %v, want %v", c.knob, c.levels, c.repeats, err, c.err)
		}
	}
}

// 12 runs of 18 g with 0.5 g lost each take 222 g; 180 g are enough for two blocks.
func TestAPlanFitsTheBag(t *testing.T) {
	t.Parallel()
	p := planned(t, 1)
	if got := p.Uses(); math.Abs(float64(got)-222) > 1e-9 {
		t.Errorf("it takes %v g", got)
	}
	if n := p.Fits(180, 0); n != 2 {
		t.Errorf("180 g are enough for %d blocks", n)
	}
	if n := p.Fits(1000, 40*60); n != 1 {
		t.Errorf("40 minutes are enough for %d blocks; all take %v", n, p.Lasts())
	}
}

// Worked by hand: levels 1 and 2 in two blocks, the second block 10 higher. Means are those of
// an average block, and the residuals ±0.5 with one degree of freedom give a scatter of 1.
func TestBlocksAreTakenOut(t *testing.T) {
	t.Parallel()
	p, err := New("t", "", sheet(), recipe.Ratio, []float64{14, 16}, 2, ByMark, 1)
	if err != nil {
		t.Fatal(err)
	}
	values := map[[2]int]float64{{0, 0}: 1, {0, 1}: 3, {1, 0}: 11, {1, 1}: 15} // block, level
	for i, r := range p.Runs {
		p = p.Found(i, values[[2]int{r.Block, r.Level}])
	}
	a, ok := p.Answer()
	if !ok || a.Freedom != 1 || math.Abs(a.Scatter-1) > 1e-9 || math.Abs(a.Levels[0].Mean-6) > 1e-9 || math.Abs(a.Levels[1].Mean-9) > 1e-9 {
		t.Errorf("%+v", a)
	}
	if s := a.Steps[0]; math.Abs(s.By-3) > 1e-9 || math.Abs(s.Error-1) > 1e-9 || s.Told {
		t.Errorf("the step: %+v", s)
	}
}

// What the stated error says must be what noise does, also with a bag that ran out half-way.
func TestTheStatedErrorOfAStepIsItsSpread(t *testing.T) {
	t.Parallel()
	const tries = 3000
	rng := rand.New(rand.NewPCG(5, 6))
	inside, told := 0, 0
	for range tries {
		p := planned(t, rng.Uint64())
		for i, r := range p.Runs {
			if i >= 10 { // the bag ran out
				p = p.LeaveOut(i)
				continue
			}
			p = p.Found(i, 20+0.4*float64(r.Block)+0.3*rng.NormFloat64())
		}
		a, ok := p.Answer()
		if !ok {
			t.Fatal("no answer from ten runs")
		}
		if s := a.Steps[0]; math.Abs(s.By) <= a.reach()*s.Error {
			inside++
		} else if s.Told {
			told++
		}
	}
	if share := float64(inside) / tries; share < 0.93 || share > 0.97 {
		t.Errorf("%.1f %% of the steps lie within what is stated for 95", 100*share)
	}
}

// Identical readings do not make a difference exact. Mutation caught: "± 0.0".
func TestNoErrorIsShownAsZero(t *testing.T) {
	t.Parallel()
	p := planned(t, 3)
	for i, r := range p.Runs {
		p = p.Found(i, []float64{17, 19.6, 19.8, 19.7}[r.Level])
	}
	a, ok := p.Answer()
	if says := p.Says(a, units.Prefs{}); !ok || strings.Contains(says, "± 0.0 ") {
		t.Errorf("the answer says %q", says)
	}
}

func TestTheAnswerSaysWhereMoreAddsNothing(t *testing.T) {
	t.Parallel()
	p := planned(t, 3)
	truth := []float64{17, 19.6, 19.8, 19.7}
	noise := []float64{0.05, -0.05, 0.02}
	for i, r := range p.Runs {
		p = p.Found(i, truth[r.Level]+noise[(r.Block+r.Level)%3])
	}
	a, _ := p.Answer()
	says := p.Says(a, units.Prefs{})
	if a.Bend == nil || *a.Bend < 14 || !strings.Contains(says, "less than can be told") || p.Expect(a).Levels[0].Expected < 15 {
		t.Errorf("%s (%+v)", says, a)
	}
	one := planned(t, 3).Found(0, 19).Found(1, 20)
	a, ok := one.Answer()
	if !ok || a.Freedom != 0 || !strings.Contains(one.Says(a, units.Prefs{}), "too few brews") {
		t.Errorf("two brews: %+v", a)
	}
}

// Each block has one level, so blocks and levels cannot be told apart and blocks are left out.
// Worked by hand: values 1, 3 and 11, 15 leave residuals of ±1 and ±2; with 4 − 2 degrees of
// freedom the scatter is √(10/2). Catches: n or n − 1 degrees of freedom.
func TestWithoutBlocksTheScatterHasItsDegreesOfFreedom(t *testing.T) {
	t.Parallel()
	p := Trial{Levels: []float64{14, 16}, Runs: []Run{
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

package forecast

import (
	"errors"
	"math"
	"math/rand/v2"
	"testing"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/sim"
	"yardbloom/core/units"
)

// Two targets that the model can meet are met with settings of the gear, and a pair that contradicts itself says so. Mutations
// caught: a solver that meets the first target alone, a result between two clicks.
func TestTwoTargetsTogether(t *testing.T) {
	t.Parallel()
	knobs := []recipe.Knob{recipe.Grind, recipe.Temperature, recipe.Ratio}
	for _, kind := range []gear.BrewerKind{gear.OpenCone, gear.FlatBed} {
		q := question(kind, coffee.Medium)
		base, err := Predict(q)
		if err != nil {
			t.Fatal(err)
		}
		for _, by := range []struct{ time, yield float64 }{{0, 0.6}, {-15, -1.2}, {12, 0.9}, {20, 0}} {
			time, yield := float64(base.Drawdown)+by.time, base.Yield.Value+by.yield
			trade, err := Together(q, []Target{{DrainIn, time}, {YieldOf, yield}}, knobs...)
			if err != nil {
				t.Fatal(err)
			}
			got := trade.Predicted
			if !trade.Met[0] || !trade.Met[1] {
				t.Errorf("%s: %+.0f s and %+.1f points: %v and %.2f %% instead of %.0f s and %.2f %%", kind, by.time, by.yield, got.Drawdown,
					got.Yield.Value, time, yield)
			}
			if r := trade.Recipe; r.Grind != q.Gear.Grinder.Snap(r.Grind) || r.Temperature() != units.Celsius(math.Round(float64(r.Temperature()))) {
				t.Errorf("%s: %v µm and %v °C cannot be set", kind, r.Grind, r.Temperature())
			}
			if len(trade.Changes) == 0 {
				t.Errorf("%s: nothing is changed", kind)
			}
		}
		far, err := Together(q, []Target{{DrainIn, 100}, {YieldOf, 24}}, knobs...)
		if err != nil || far.Met[0] && far.Met[1] {
			t.Errorf("%s: 24 %% in 1:40: %v, %.1f %%, %v", kind, far.Predicted.Drawdown, far.Predicted.Yield.Value, err)
		}
		brighter, err := Together(q, []Target{{YieldOf, base.Yield.Value}, {LeanOf, base.Balance.Lean() - 0.01}}, knobs...)
		if err != nil || !brighter.Met[0] || brighter.Predicted.Balance.Lean() >= base.Balance.Lean()-0.003 {
			t.Errorf("%s: brighter at %.1f %%: %.1f %%, lean %.4f → %.4f, %v", kind, base.Yield.Value, brighter.Predicted.Yield.Value,
				base.Balance.Lean(), brighter.Predicted.Balance.Lean(), err)
		}
	}
	q := question(gear.OpenCone, coffee.Medium)
	for _, bad := range [][]Target{{{DrainIn, 200}}, {{DrainIn, 200}, {"taste", 3}}} {
		if _, err := Together(q, bad, knobs...); !errors.Is(err, ErrTargets) {
			t.Errorf("%v: %v", bad, err)
		}
	}
}

// More ice is colder at the same strength and costs yield; the list ends where the ice no longer melts.
func TestColdestDrinkAtAStrength(t *testing.T) {
	t.Parallel()
	q := question(gear.OpenCone, coffee.Light)
	q.Recipe = recipe.Suggest(recipe.IceHotAndSlow, q.Situation())
	base, err := Predict(q)
	if err != nil {
		t.Fatal(err)
	}
	found := Coldest(q, base.TDS)
	if len(found) < 2 {
		t.Fatalf("%d ways", len(found))
	}
	for i, c := range found {
		if math.Abs(c.Predicted.TDS-base.TDS) > 0.03 || c.Predicted.IceLeft > 1 {
			t.Errorf("with %.0f g of ice TDS %.2f, %.1f g of ice left", float64(c.Recipe.Ice.Mass), c.Predicted.TDS, float64(c.Predicted.IceLeft))
		}
		if i > 0 && (c.Predicted.CupTemp >= found[i-1].Predicted.CupTemp || c.Predicted.Yield.Value >= found[i-1].Predicted.Yield.Value) {
			t.Errorf("%v °C and %.1f %% after %v °C and %.1f %%", c.Predicted.CupTemp, c.Predicted.Yield.Value, found[i-1].Predicted.CupTemp,
				found[i-1].Predicted.Yield.Value)
		}
	}
	if hot := Coldest(question(gear.OpenCone, coffee.Light), 1.3); len(hot) > 0 {
		t.Error("a hot recipe has a coldest drink")
	}
}

// The finest grind that does not clog, with 90 %: of 400 worlds drawn from the beliefs about nine tenths drain in time.
// Mutation caught: a limit that ignores the error.
func TestFinestGrindThatDoesNotClog(t *testing.T) {
	t.Parallel()
	q := question(gear.OpenCone, coffee.Medium)
	r, f, err := Finest(q, 0.9)
	if err != nil || f.Drawdown >= Clogged || r.Grind >= q.Recipe.Grind {
		t.Fatalf("%v µm in %v, %v", r.Grind, f.Drawdown, err)
	}
	surer, _, err := Finest(q, 0.99)
	if err != nil || surer.Grind <= r.Grind {
		t.Errorf("99 %% sure at %v µm, 90 %% at %v µm, %v", surer.Grind, r.Grind, err)
	}
	q.Recipe = r
	drained, n := 0, 400
	var out sim.Result
	for seed := range uint64(n) {
		if err := sim.RunFlow(&out, WithParameters(q.Brew(), drawn(prior, seed))); err == nil && out.Drained && out.Drawdown < Clogged {
			drained++
		}
	}
	if share := float64(drained) / float64(n); share < 0.82 || share > 0.97 {
		t.Errorf("%.2f of the worlds drain in time", share)
	}
}

// drawn returns parameters drawn from beliefs.
func drawn(b *Beliefs, seed uint64) (theta [Parameters]float64) {
	rng := rand.New(rand.NewPCG(seed, 9))
	theta = b.Mean
	for column := range b.Root {
		z := rng.NormFloat64()
		for p := range theta {
			theta[p] += z * b.Root[p][column]
		}
	}
	return theta
}

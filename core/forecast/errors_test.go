package forecast

import (
	"math"
	"testing"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A fine bed in a cone is known badly, a coarse one well, a steep that a clock ends
// nearly to the second, and a bed that stalls has no time to be off by. An error that is
// one share of every drawdown fails on all of them.
func TestErrorsFollowFromWhatIsNotKnown(t *testing.T) {
	t.Parallel()
	at := func(kind gear.BrewerKind, size units.Micrometres) Forecast {
		q := question(kind, coffee.MediumLight)
		q.Recipe.Grind = size
		f, err := Of(q)
		if err != nil {
			t.Fatal(err)
		}
		return f
	}
	for _, c := range []struct {
		kind   gear.BrewerKind
		size   units.Micrometres
		lo, hi float64 // s
	}{{gear.OpenCone, 450, 100, 220}, {gear.OpenCone, 650, 45, 85}, {gear.OpenCone, 900, 15, 35}, {gear.ValveSteeper, 650, 5, 30}} {
		f := at(c.kind, c.size)
		if e := float64(f.DrawdownError); e < c.lo || e > c.hi {
			t.Errorf("%s at %v µm: %v ± %.0f s, want ± %v to %v", c.kind, c.size, f.Drawdown, e, c.lo, c.hi)
		}
		// TDS is what came out over what is in the cup, and so is its error.
		together := math.Hypot(f.Yield.Error/f.Yield.Value, float64(f.BeverageError/f.Beverage))
		if own := f.Strength.Error / f.Strength.Value; math.Abs(own-together) > 0.25*together {
			t.Errorf("%s at %v µm: TDS is known to %.1f %%, yield and weight together to %.1f %%", c.kind, c.size, 100*own, 100*together)
		}
	}
	q := question(gear.OpenCone, coffee.MediumLight)
	q.Gear.Grinder.Burrs, q.Recipe.Grind = gear.Blade, 200
	if f, err := Of(q); err != nil || f.Drained || f.DrawdownError != 0 {
		t.Errorf("a stall: %v ± %v, drained %v, %v", f.Drawdown, f.DrawdownError, f.Drained, err)
	}
}

// The error of a difference keeps out what is common to both.
func TestADifferenceIsSurerThanWhatItIsADifferenceOf(t *testing.T) {
	t.Parallel()
	q := question(gear.OpenCone, coffee.MediumLight)
	base, err := Of(q)
	if err != nil {
		t.Fatal(err)
	}
	for _, m := range []Move{{recipe.Of(recipe.Grind), float64(q.Recipe.Grind) - 25}, {recipe.Of(recipe.Ratio), 17}, {recipe.Of(recipe.Bloom), 3.5}} {
		all := Try(q, base, []Move{m})
		Sure(q, []Move{m}, all)
		d := all[0]
		if d.YieldError <= 0 || d.YieldError > base.Yield.Error/2 || d.TimeError <= 0 || d.TimeError > base.DrawdownError/2 {
			t.Errorf("%s: EY %+.2f ± %.2f of ± %.2f, time %v ± %v of ± %v", m.Address, d.Yield, d.YieldError, base.Yield.Error, d.Time, d.TimeError, base.DrawdownError)
		}
	}
}

// Beliefs with less in them give smaller errors, and a covariance comes back from its root.
func TestBeliefsNarrowTheErrors(t *testing.T) {
	t.Parallel()
	q := question(gear.OpenCone, coffee.MediumLight)
	before, err := Of(q)
	if err != nil {
		t.Fatal(err)
	}
	b := Prior()
	cov := b.Covariance()
	cov[Size][Flow], cov[Flow][Size] = -0.9*Priors[Size]*Priors[Flow], -0.9*Priors[Size]*Priors[Flow] // what drained fast is coarse, or open
	b.Root = cov.Root()
	back := b.Covariance()
	for i := range cov {
		for j := range cov {
			if math.Abs(back[i][j]-cov[i][j]) > 1e-12 {
				t.Errorf("covariance %d, %d is %g, then %g", i, j, cov[i][j], back[i][j])
			}
		}
	}
	q.Beliefs = b
	after, err := Of(q)
	if err != nil || after.DrawdownError >= before.DrawdownError || after.Drawdown != before.Drawdown {
		t.Errorf("%v ± %v, then %v ± %v, %v", before.Drawdown, before.DrawdownError, after.Drawdown, after.DrawdownError, err)
	}
}

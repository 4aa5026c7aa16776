package forecast

import (
	"math"
	"testing"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// The error is large for a fine bed in a cone, small for a coarse one, a few seconds for a timed steep, and
// undefined for a stalled bed. Mutation caught: an error that is a fixed share of the drawdown.
func TestErrorsDependOnTheBrew(t *testing.T) {
	t.Parallel()
	at := func(kind gear.BrewerKind, size units.Micrometres) Forecast {
		q := question(kind, coffee.MediumLight)
		q.Recipe.Grind = size
		f, err := Predict(q)
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
		// TDS is yield over beverage, and its error follows from theirs.
		together := math.Hypot(f.Yield.Error/f.Yield.Value, float64(f.BeverageError/f.Beverage))
		if own := f.Strength.Error / f.Strength.Value; math.Abs(own-together) > 0.25*together {
			t.Errorf("%s at %v µm: TDS is known to %.1f %%, yield and weight together to %.1f %%", c.kind, c.size, 100*own, 100*together)
		}
	}
	q := question(gear.OpenCone, coffee.MediumLight)
	q.Gear.Grinder.Burrs, q.Recipe.Grind = gear.Blade, 200
	if f, err := Predict(q); err != nil || f.Drained || f.DrawdownError != 0 {
		t.Errorf("a stall: %v ± %v, drained %v, %v", f.Drawdown, f.DrawdownError, f.Drained, err)
	}
}

// The error of a difference excludes errors common to both.
func TestDifferenceIsMoreCertainThanItsTerms(t *testing.T) {
	t.Parallel()
	q := question(gear.OpenCone, coffee.MediumLight)
	base, err := Predict(q)
	if err != nil {
		t.Fatal(err)
	}
	for _, m := range []Move{{recipe.AddressOf(recipe.Grind), float64(q.Recipe.Grind) - 25}, {recipe.AddressOf(recipe.Ratio), 17},
		{recipe.AddressOf(recipe.Bloom), 3.5}} {
		all := Try(q, []Move{m})
		AddErrors(q, []Move{m}, all)
		d := all[0]
		if d.YieldError <= 0 || d.YieldError > base.Yield.Error/2 || d.TimeError <= 0 || d.TimeError > base.DrawdownError/2 {
			t.Errorf("%s: EY %+.2f ± %.2f of ± %.2f, time %v ± %v of ± %v", m.Address, d.Yield, d.YieldError, base.Yield.Error, d.Time,
				d.TimeError, base.DrawdownError)
		}
	}
}

// Narrower beliefs give smaller errors, and a covariance can be restored from its root.
func TestBeliefsNarrowTheErrors(t *testing.T) {
	t.Parallel()
	q := question(gear.OpenCone, coffee.MediumLight)
	before, err := Predict(q)
	if err != nil {
		t.Fatal(err)
	}
	b := Prior()
	cov := b.Covariance()
	cov[Size][Flow], cov[Flow][Size] = -0.9*Priors[Size]*Priors[Flow],
		-0.9*Priors[Size]*Priors[Flow] // a brew that drained fast is coarse or permeable
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
	after, err := Predict(q)
	if err != nil || after.DrawdownError >= before.DrawdownError || after.Drawdown != before.Drawdown {
		t.Errorf("%v ± %v, then %v ± %v, %v", before.Drawdown, before.DrawdownError, after.Drawdown, after.DrawdownError, err)
	}
}

package sim

import (
	"math"
	"testing"

	"yardbloom/core/units"
)

// A cup without the first or last part of the outflow is the whole minus that part. Mutations caught: discarded solids that
// stay in the cup, a cut that counts the discarded water.
func TestFractionsAddUp(t *testing.T) {
	t.Parallel()
	whole := run(t, base())
	all := whole.Ran()
	if math.Abs(float64(all-whole.Beverage)) > 1e-6 {
		t.Fatalf("%v g ran out, %v g are in the cup", all, whole.Beverage)
	}
	solids := func(f Fraction) float64 { return float64(f.Mass) * f.TDS / 100 }
	sum := 0.0
	for _, f := range whole.Thirds() {
		sum += solids(f)
	}
	inRange(t, "solids of the thirds / 0.18", sum/0.18, whole.EY-1e-6, whole.EY+1e-6)
	for _, c := range []struct{ discard, cut units.Grams }{{20, 0}, {0, 200}, {20, 180}} {
		part := run(t, with(base(), func(b *Brew) { b.Below.Discard, b.Below.CutAt = c.discard, c.cut }))
		to := all
		if c.cut > 0 { // the cut counts water, which the scale cannot tell from the brew
			to = c.discard + part.Beverage
			inRange(t, "brew at the cut", float64(part.Beverage), float64(c.cut), float64(c.cut)*1.02)
		}
		f := whole.Fraction(c.discard*units.Grams(1+whole.Fraction(0, c.discard).TDS/100), to)
		inRange(t, "TDS without a part", part.TDS, f.TDS-0.01, f.TDS+0.01)
		if part.Drawdown != whole.Drawdown {
			t.Errorf("the bed drains in %v instead of %v", part.Drawdown, whole.Drawdown)
		}
	}
}

// The strength of the outflow falls, and the balance moves from bright to bitter, as the fast solubles leave first. A cut last
// part therefore makes the cup stronger and brighter. Mutation caught: one diffusivity for all families.
func TestLaterFractionsAreWeakerAndMoreBitter(t *testing.T) {
	t.Parallel()
	usualBrews(func(b Brew) {
		r := run(t, b)
		f := r.Thirds()
		for i := range 2 {
			if f[i+1].TDS >= f[i].TDS || f[i+1].Balance.Lean() <= f[i].Balance.Lean() {
				t.Errorf("%s: thirds of %+v", describe(b), f)
			}
		}
		cut := run(t, with(b, func(b *Brew) { b.Below.CutAt = r.Ran() - 40 }))
		if cut.TDS <= r.TDS || cut.EY >= r.EY || cut.Balance.Lean() >= r.Balance.Lean() {
			t.Errorf("%s: without the last 40 g TDS %.2f → %.2f, EY %.1f → %.1f, lean %.3f → %.3f", describe(b), r.TDS, cut.TDS, r.EY, cut.EY,
				r.Balance.Lean(), cut.Balance.Lean())
		}
	})
}

package water

import "testing"

// 50.04 mg/l of alkalinity as CaCO₃ are one milliequivalent in a litre. Mutations caught: bicarbonate counted twice, a share over one.
func TestAlkalinityNeutralizesAcids(t *testing.T) {
	for _, c := range []struct{ alkalinity, acid, share float64 }{{0, 8, 0}, {50.045, 8, 0.125}, {100.09, 8, 0.25}, {200, 4, 0.999}, {500, 4, 1}, {50, 0, 0}} {
		w := Water{Source: Mixed, TypedAlkalinity: c.alkalinity, Known: true}
		if got := w.Buffered(c.acid); !near(got, c.share, 0.001) {
			t.Errorf("%v mg/l in %v meq/l: %.3f, want %.3f", c.alkalinity, c.acid, got, c.share)
		}
	}
}

// A label with 68 mg/l of calcium, 8 of magnesium and 220 of bicarbonate, by hand: 4.051 meq of cations against 3.605 of
// bicarbonate leave 0.446 meq of sulphate, 21.4 mg: 317.4 mg/l. Mutations caught: charges that are not balanced, the ratio upside
// down.
func TestDissolvedMineralsBalanceTheirCharges(t *testing.T) {
	label := Water{Source: Bottled, Calcium: 68, Magnesium: 8, Bicarbonate: 220}
	if got := label.Dissolved(); !near(got, 317.4, 0.5) {
		t.Errorf("%.1f mg/l", got)
	}
	if r, ok := label.Ratio(); !ok || !near(r, 8.5, 1e-9) {
		t.Errorf("Ca : Mg %v", r)
	}
	soda := Water{Source: Mixed, TypedAlkalinity: 50.045, Known: true} // one meq of baking soda: 84 mg
	if got := soda.Dissolved(); !near(got, 84.01, 0.1) {
		t.Errorf("baking soda: %.1f mg/l", got)
	}
	if _, ok := soda.Ratio(); ok {
		t.Error("a ratio without a label")
	}
}

// Hardness hastens the extraction a little, and no further beyond 250 mg/l. Mutation caught: the sign.
func TestHardnessHastensALittle(t *testing.T) {
	at := func(hardness float64) float64 {
		return Water{Source: Mixed, TypedHardness: hardness, Known: true}.Hastens()
	}
	if at(0) != 0.97 || at(100) != 1 || !near(at(250), 1.045, 1e-9) || at(250) != at(900) {
		t.Errorf("0, 100, 250, 900 mg/l: %v, %v, %v, %v", at(0), at(100), at(250), at(900))
	}
}

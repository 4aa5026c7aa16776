package water

import (
	"errors"
	"math"
	"strings"
	"testing"

	"yardbloom/core/units"
)

func near(got, want, within float64) bool { return math.Abs(got-want) <= within }

// A label with 68 mg/l of calcium, 8 of magnesium and 220 of bicarbonate:
// 68 × 2.497 + 8 × 4.117 = 203 of hardness, 220 × 0.820 = 180 of alkalinity.
func TestHardnessAndAlkalinityFromALabel(t *testing.T) {
	w := Water{Source: Bottled, Calcium: 68, Magnesium: 8, Bicarbonate: 220, TypedHardness: 5}
	h, known := w.Hardness()
	a, also := w.Alkalinity()
	if !near(h, 202.8, 0.2) || !near(a, 180.4, 0.2) || !known || !also {
		t.Errorf("hardness %.1f, alkalinity %.1f", h, a)
	}
	if says := w.Describe(); !strings.Contains(says, "Very hard") || !strings.Contains(says, "disappear") || strings.Contains(says, "Guessed") {
		t.Errorf("says %q", says)
	}
	if says := (Water{Source: Tap}).Describe(); !strings.HasPrefix(says, "Guessed") {
		t.Errorf("an unknown water says %q", says)
	}
	if says := (Water{Source: Bottled, Known: true}).Describe(); !strings.HasPrefix(says, "Hardly any minerals") {
		t.Errorf("distilled water says %q", says)
	}
}

// Two litres at 70 and 40 mg/l, by hand: 140 mg and 80 mg of CaCO₃, which 14 g and 8 g
// of the concentrates hold; 200 g of them take 2 g × 2.4625 = 4.92 g of Epsom salt and
// 2 g × 1.6787 = 3.36 g of baking soda.
func TestWorkedMix(t *testing.T) {
	m, err := MixOf(70, 40, 2000, Soda)
	if err != nil || !near(float64(m.Hard), 14, 1e-9) || !near(float64(m.Alkaline), 8, 1e-9) || !near(float64(m.Distilled), 1978, 1e-9) {
		t.Errorf("%+v, %v", m, err)
	}
	if !near(float64(m.Bottles[0].Weigh), 4.92, 0.006) || !near(float64(m.Bottles[1].Weigh), 3.36, 0.006) ||
		!near(float64(m.Bottles[0].Into), 195.08, 0.006) {
		t.Errorf("the bottles: %+v", m.Bottles)
	}
	// The contents calculated back from the salts are the wanted ones.
	magnesium := float64(m.Hard/200*m.Bottles[0].Weigh) * 1000 / 246.47 * 24.31 / 2
	bicarbonate := float64(m.Alkaline/200*m.Bottles[1].Weigh) * 1000 / 84.01 * 61.02 / 2
	back := Water{Magnesium: magnesium, Bicarbonate: bicarbonate}
	h, _ := back.Hardness()
	a, _ := back.Alkalinity()
	if !near(h, 70, 0.2) || !near(a, 40, 0.2) {
		t.Errorf("counted back it has a hardness of %.1f and an alkalinity of %.1f", h, a)
	}
	for at, try := range map[string][3]float64{"hardness": {-5, 40, 1000}, "alkalinity": {70, 900, 1000}, "amount": {70, 40, 3}} {
		_, err := MixOf(try[0], try[1], units.Grams(try[2]), Soda)
		var wrong *units.ValueError
		if !errors.As(err, &wrong) || wrong.At.String() != at {
			t.Errorf("%v: %v, want an error at the %s", try, err, at)
		}
	}
}

package cup

import (
	"math"
	"math/rand/v2"
	"testing"

	"yardbloom/core/units"
)

func TestYieldOfWorkedExamples(t *testing.T) {
	for _, c := range []struct {
		name string
		r    Measurement
		want float64
	}{
		// 1.40 % of 261 g is 3.654 g of solids out of 18 g.
		{"percolation", Measurement{Percolation, 18, 261, 1.40, 2, 0}, 20.30},
		// The retained water does not count in percolation.
		{"percolation, other bed", Measurement{Percolation, 18, 261, 1.40, 3, 0}, 20.30},
		// 1.30 % of (224 + 2 × 16) g is 3.328 g out of 16 g.
		{"immersion", Measurement{Immersion, 16, 224, 1.30, 2, 0}, 20.80},
		// 1.35 % of 260 g, of which 100 g were ice, is 3.51 g out of 18 g.
		{"over ice", Measurement{Percolation, 18, 260, 1.35, 2, 100}, 19.50},
		// 1.20 % of 300 g is 3.6 g. Before 100 g of ice melted into it, the drink had 1.80 %, and the
		// grounds retain 40 g of that: 0.72 g more, out of 20 g.
		{"a steep over ice", Measurement{Immersion, 20, 300, 1.20, 2, 100}, 21.60},
		{"a large brew", Measurement{Percolation, 60, 880, 1.35, 2, 0}, 19.80},
	} {
		got, ok := Yield(c.r, UsualInstruments)
		if !ok || math.Abs(got.Value-c.want) > 0.005 {
			t.Errorf("%s: %.3f %%, want %.2f", c.name, got.Value, c.want)
		}
	}
	for _, r := range []Measurement{{Dose: 18, Beverage: 261}, {Dose: 18, TDS: 1.4}, {Beverage: 261, TDS: 1.4}} {
		if y, ok := Yield(r, UsualInstruments); ok {
			t.Errorf("%+v has a yield of %v", r, y)
		}
	}
}

// The stated error equals the spread of the yield under simulated instrument noise.
func TestStatedErrorIsTheSpreadOfNoisyReadings(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	for _, m := range []Method{Percolation, Immersion} {
		exact := Measurement{Method: m, Dose: 18, Beverage: 261, TDS: 1.40, Retained: 2}
		want, _ := Yield(exact, UsualInstruments)
		const n = 20000
		var sum, squares float64
		for range n {
			r := exact
			r.Dose += units.Grams(rng.NormFloat64()) * UsualInstruments.Dose
			r.Beverage += units.Grams(rng.NormFloat64()) * UsualInstruments.Beverage
			r.TDS += rng.NormFloat64() * UsualInstruments.TDS
			r.Retained += rng.NormFloat64() * UsualInstruments.Retained
			y, _ := Yield(r, UsualInstruments)
			sum, squares = sum+y.Value, squares+y.Value*y.Value
		}
		mean := sum / n
		spread := math.Sqrt(squares/n - mean*mean)
		if math.Abs(spread/want.Error-1) > 0.03 {
			t.Errorf("%s: stated ±%.3f, noise gives ±%.3f", m, want.Error, spread)
		}
	}
}

func TestDiffersNeedsTwiceTheError(t *testing.T) {
	a := Figure{20.3, 0.45}
	if (a.Differs(Figure{20.9, 0.45})) {
		t.Error("20.3 ± 0.45 was called different from 20.9 ± 0.45")
	}
	if !a.Differs(Figure{22.1, 0.45}) {
		t.Error("20.3 ± 0.45 was not called different from 22.1 ± 0.45")
	}
}

func TestEverySenseHasAWordForEachStep(t *testing.T) {
	for _, s := range Scales() {
		for step := 1; step <= 5; step++ {
			if Word(s.Sense, step) == "" {
				t.Errorf("%s has no word for step %d", s.Name, step)
			}
		}
	}
	if Word(Acidity, 0) != "" || Word(Acidity, 6) != "" {
		t.Error("a step that was not given has a word")
	}
}

// Calculated by hand for 16 g, 224 g, 1.30 %, 2 g/g retained: (14 + 2) × 0.03, 1.30/16 × 1/√12, 1.30 ×
// 14/16 × 0.1/√12 and, for a steep, 1.30 × 0.15. Mutations caught: an error left as a fraction, one
// instrument left out.
func TestYieldErrorFromItsInstruments(t *testing.T) {
	for _, c := range []struct {
		reading Measurement
		want    float64
	}{
		{Measurement{Percolation, 16, 224, 1.30, 2, 0}, math.Sqrt(square(14*0.03) + square(1.30/16/sqrt12) + square(1.30*14/16*0.1/sqrt12))},
		{Measurement{Immersion, 16, 224, 1.30, 2, 0}, 0.51967},
		// 100 of the 300 g melted: the liquid in the grounds is stronger by half.
		{Measurement{Immersion, 20, 300, 1.20, 2, 100}, math.Sqrt(square(18*0.03) + square(1.20/20/sqrt12) +
			square(1.20*15/20*0.1/sqrt12) + square(1.20*0.15*1.5))},
	} {
		if got, ok := Yield(c.reading, UsualInstruments); !ok || math.Abs(got.Error-c.want) > 1e-5 {
			t.Errorf("%+v: error %.5f, want %.5f", c.reading, got.Error, c.want)
		}
	}
}

func square(x float64) float64 { return x * x }

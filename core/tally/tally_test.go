package tally

import (
	"math"
	"math/rand/v2"
	"testing"

	"gonum.org/v1/gonum/stat"
)

func sample(values []float64) (s Sample) {
	for _, v := range values {
		s = s.Plus(Sample{1, v, v * v})
	}
	return s
}

// Sums give the mean, the deviation and the error of the values themselves. Mutations caught: a variance over n, an error that does not
// shrink with the root of n.
func TestSumsGiveTheFiguresOfTheValues(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	values := make([]float64, 40)
	for i := range values {
		values[i] = 180 + 6*rng.NormFloat64()
	}
	mean, deviation := stat.MeanStdDev(values, nil)
	s := sample(values)
	if math.Abs(s.Mean()-mean) > 1e-9 || math.Abs(s.spread().Deviation()-deviation) > 1e-6 ||
		math.Abs(s.Error(0)-deviation/math.Sqrt(40)) > 1e-6 {
		t.Errorf("mean %v, want %v; deviation %v, want %v; error %v", s.Mean(), mean, s.spread().Deviation(), deviation, s.Error(0))
	}
}

// Few marks that agree by chance are not exact, and no values have no figures. Mutation caught: no least scatter.
func TestAgreementByChanceIsNotExact(t *testing.T) {
	same := sample([]float64{8, 8, 8})
	if got, want := same.Error(0.7), 0.7/math.Sqrt(3); math.Abs(got-want) > 1e-12 {
		t.Errorf("the error of three equal marks is %v, want %v", got, want)
	}
	if lead := Leads(same, sample([]float64{7, 7, 7}), 0.7); math.Abs(lead-1/(0.7*math.Sqrt(2.0/3))) > 1e-12 {
		t.Errorf("three 8s are %v errors above three 7s", lead)
	}
	if (Sample{}).Mean() != 0 || (Sample{}).Error(1) != 0 || (Spread{}).Deviation() != 0 || (Spread{}).Error() != 0 ||
		Leads(Sample{}, Sample{}, 1) != 0 {
		t.Error("figures without values")
	}
}

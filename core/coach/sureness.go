package coach

// A Sureness expresses a probability of help, or of a verdict, in a word.
type Sureness int

// The degrees of sureness.
const (
	Guess Sureness = iota + 1
	Perhaps
	Likely
)

func (s Sureness) String() string {
	return [...]string{"", "a guess", "perhaps", "likely"}[s]
}

// sureness returns the word for a probability.
func sureness(p float64) Sureness {
	switch {
	case p >= 0.75:
		return Likely
	case p >= 0.6:
		return Perhaps
	}
	return Guess
}

// calibration holds the frequency with which changes helped simulated learners (BenchmarkLearners), by
// computed probability. It is higher, because the computation assumes one bad bed in eight.
var calibration = []struct{ reckoned, helped float64 }{{0, 0.2}, {0.5, 0.67}, {0.65, 0.85}, {0.8, 0.92}, {1, 1}}

// calibrated interpolates the calibration at a computed probability.
func calibrated(p float64) float64 {
	for i := 1; i < len(calibration); i++ {
		lo, hi := calibration[i-1], calibration[i]
		if p <= hi.reckoned {
			return lo.helped + (p-lo.reckoned)/(hi.reckoned-lo.reckoned)*(hi.helped-lo.helped)
		}
	}
	return 1
}

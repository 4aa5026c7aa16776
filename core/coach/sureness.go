package coach

// A Sureness is how likely a change helps, or a verdict is right, in a word.
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

// sureness is the word for a probability.
func sureness(p float64) Sureness {
	switch {
	case p >= 0.75:
		return Likely
	case p >= 0.6:
		return Perhaps
	}
	return Guess
}

// calibration is how often changes helped made-up learners (BenchmarkLearners), by how likely
// they were reckoned to help: oftener, for the reckoning takes one bed in eight for bad.
var calibration = []struct{ reckoned, helped float64 }{{0, 0.2}, {0.5, 0.67}, {0.65, 0.85}, {0.8, 0.92}, {1, 1}}

// calibrated is a reckoned probability as it is said, between the points of the calibration.
func calibrated(p float64) float64 {
	for i := 1; i < len(calibration); i++ {
		lo, hi := calibration[i-1], calibration[i]
		if p <= hi.reckoned {
			return lo.helped + (p-lo.reckoned)/(hi.reckoned-lo.reckoned)*(hi.helped-lo.helped)
		}
	}
	return 1
}

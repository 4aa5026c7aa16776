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

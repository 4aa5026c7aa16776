// Package tally computes means and scatter from sums, which can be kept up to date without the values that they are sums of.
package tally

import "math"

// A Sample is a number of values with their sum and the sum of their squares.
type Sample struct {
	N       int     `db:"n"`
	Sum     float64 `db:"sum"`
	Squares float64 `db:"squares"`
}

// Plus returns the sample of the values of both.
func (s Sample) Plus(o Sample) Sample { return Sample{s.N + o.N, s.Sum + o.Sum, s.Squares + o.Squares} }

// Mean returns the mean; 0 without values.
func (s Sample) Mean() float64 {
	if s.N == 0 {
		return 0
	}
	return s.Sum / float64(s.N)
}

// Error returns the standard error of the mean; 0 without values. The standard deviation of the values counts as at least scatter, what
// equal things are known to scatter by: a few values that agree by chance are not exact.
func (s Sample) Error(scatter float64) float64 {
	if s.N == 0 {
		return 0
	}
	return max(s.spread().Deviation(), scatter) / math.Sqrt(float64(s.N))
}

func (s Sample) spread() Spread {
	if s.N < 2 {
		return Spread{}
	}
	return Spread{s.N - 1, s.Squares - s.Sum*s.Sum/float64(s.N)}
}

// A Spread is the sum of squared deviations from means, with its degrees of freedom.
type Spread struct {
	Freedom int     `db:"freedom"`
	Squares float64 `db:"squares"`
}

// Deviation returns the standard deviation; 0 without degrees of freedom.
func (s Spread) Deviation() float64 {
	if s.Freedom < 1 {
		return 0
	}
	return math.Sqrt(max(0, s.Squares) / float64(s.Freedom))
}

// Error returns the standard error of the deviation, for normally distributed values.
func (s Spread) Error() float64 {
	if s.Freedom < 1 {
		return 0
	}
	return s.Deviation() / math.Sqrt(2*float64(s.Freedom))
}

// Leads returns the number of standard errors by which the mean of one sample is above that of another.
func Leads(a, b Sample, scatter float64) float64 {
	err := math.Hypot(a.Error(scatter), b.Error(scatter))
	if err == 0 {
		return 0
	}
	return (a.Mean() - b.Mean()) / err
}

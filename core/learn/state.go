package learn

import (
	"gonum.org/v1/gonum/mat"

	"yardbloom/core/forecast"
)

// A State is a Yard laid open, to be kept: for each parameter of each thing its mean,
// and the covariance of all of them.
type State struct {
	Parameters []Known
	Covariance [][]float64
	Seen       []Seen
}

// Known is one parameter of one thing; the yard's own share where Of is empty.
type Known struct {
	Name string // as in forecast.Names
	Of   string
	Mean float64
}

// State lays a yard open.
func (y *Yard) State() State {
	s := State{Parameters: make([]Known, len(y.mean)), Covariance: make([][]float64, len(y.mean)), Seen: y.Seen}
	for k, i := range y.index {
		s.Parameters[i] = Known{forecast.Names[k.p], k.of, y.mean[i]}
		s.Covariance[i] = make([]float64, len(y.mean))
		for j := range y.mean {
			s.Covariance[i][j] = y.cov.At(i, j)
		}
	}
	return s
}

// Of puts a yard together again. A state that does not fit together, or names a
// parameter that there is not, teaches nothing: the yard is learned anew.
func Of(s State) *Yard {
	n := len(s.Parameters)
	if n == 0 || len(s.Covariance) != n {
		return nil
	}
	y := &Yard{index: map[key]int{}, mean: make([]float64, n), cov: mat.NewSymDense(n, nil), Seen: s.Seen}
	for i, k := range s.Parameters {
		p, known := forecast.ParameterOf(k.Name)
		if !known || len(s.Covariance[i]) != n {
			return nil
		}
		y.index[key{p, k.Of}], y.mean[i] = i, k.Mean
		for j := i; j < n; j++ {
			y.cov.SetSym(i, j, s.Covariance[i][j])
		}
	}
	return y
}

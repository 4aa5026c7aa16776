package learn

import (
	"gonum.org/v1/gonum/mat"

	"yardbloom/core/forecast"
)

// A State is the serializable form of a Knowledge: the mean of each parameter of each thing, and their
// covariance.
type State struct {
	Parameters []Known
	Covariance [][]float64
	Seen       []Seen
}

// Known is a parameter of a thing, or the yard's common component if Of is empty.
type Known struct {
	Name string // as in forecast.Names
	Of   string
	Mean float64
}

// State returns the serializable form.
func (y *Knowledge) State() State {
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

// Restore restores a Knowledge. An inconsistent state, or one with an unknown parameter, gives an empty
// Knowledge, so that the yard learns from the beginning.
func Restore(s State) *Knowledge {
	n := len(s.Parameters)
	if n == 0 || len(s.Covariance) != n {
		return nil
	}
	y := &Knowledge{index: map[key]int{}, mean: make([]float64, n), cov: mat.NewSymDense(n, nil), Seen: s.Seen}
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

package learn

import (
	"math"

	"gonum.org/v1/gonum/mat"

	"yardbloom/core/forecast"
)

// linear is the linearization of a brew: its measured figures as a linear function of the state, and the
// covariance of everything that the state does not explain.
type linear struct {
	of    []int         // indices of the figures
	by    *mat.Dense    // derivatives with respect to the state
	noise *mat.SymDense // scatter, instruments, model error, water and temperature of this brew
	all   *mat.SymDense // covariance of the predicted figures, noise included
	rest  *mat.VecDense // residuals
}

func (y *Knowledge) linear(s Sample, keys map[forecast.Parameter][]key, slope [figures][forecast.Parameters]float64, there [figures]bool,
	o forecast.Outcome) linear {
	var m linear
	for f, measured := range there {
		if measured {
			m.of = append(m.of, f)
		}
	}
	n := len(m.of)
	if n == 0 {
		return m
	}
	m.by, m.noise, m.rest = mat.NewDense(n, len(y.mean), nil), mat.NewSymDense(n, nil), mat.NewVecDense(n, nil)
	own := s.Question.OwnError(o, 1) // per second of free time
	single := [figures]float64{
		inTime:     math.Hypot(own.Drawdown, ofClock),
		inStrength: math.Hypot(own.Strength, ofRefractometer) / max(0.1, o.Strength),
		inWeight:   math.Hypot(own.Beverage, ofScale),
	}
	for i, f := range m.of {
		for p, ks := range keys {
			for _, k := range ks {
				j := y.index[k]
				m.by.Set(i, j, m.by.At(i, j)+slope[f][p])
			}
		}
		for k := i; k < n; k++ {
			g := m.of[k]
			shared := 0.0
			for _, p := range []forecast.Parameter{forecast.Poured, forecast.Heat} { // different with each brew
				shared += slope[f][p] * slope[g][p] * forecast.Priors[p] * forecast.Priors[p]
			}
			if f == g {
				shared += single[f] * single[f]
			}
			m.noise.SetSym(i, k, shared)
		}
	}
	m.all = m.expected(y)
	return m
}

// expected returns the covariance of the predicted figures.
func (m linear) expected(y *Knowledge) *mat.SymDense {
	var half, all mat.Dense
	half.Mul(m.by, y.cov)
	all.Mul(&half, m.by.T())
	n := len(m.of)
	out := mat.NewSymDense(n, nil)
	for i := range n {
		for k := i; k < n; k++ {
			out.SetSym(i, k, all.At(i, k)+m.noise.At(i, k))
		}
	}
	return out
}

// off returns the largest residual in standard errors.
func (m linear) off() (most float64) {
	for i := range m.of {
		most = max(most, math.Abs(m.rest.AtVec(i))/math.Sqrt(m.all.At(i, i)))
	}
	return most
}

// errors returns the standard errors of the predicted figures that were measured.
func (m linear) errors(o forecast.Outcome, release float64) (out forecast.Outcome) {
	for i, f := range m.of {
		sd := math.Sqrt(m.all.At(i, i))
		switch f {
		case inTime:
			out.Drawdown = sd * (o.Drawdown - release)
		case inStrength:
			out.Strength = sd * o.Strength
			out.Yield = sd * o.Yield
		case inWeight:
			out.Beverage = sd
		}
	}
	return out
}

// update returns the state and its covariance after a brew, or nil if the covariance is numerically
// singular:
//
//	K = C Hᵀ (H C Hᵀ + R)⁻¹, mean + K·rest, C − K H C
//
// The cost grows with the square of the size of the state.
func (m linear) update(y *Knowledge) ([]float64, *mat.SymDense) {
	var inverse mat.Cholesky
	if !inverse.Factorize(m.all) {
		return nil, nil
	}
	n := len(y.mean)
	var cross, solved mat.Dense // H C; (H C Hᵀ + R)⁻¹ H C, which is Kᵀ
	cross.Mul(m.by, y.cov)
	if inverse.SolveTo(&solved, &cross) != nil {
		return nil, nil
	}
	var move mat.VecDense
	move.MulVec(solved.T(), m.rest)
	state := make([]float64, n)
	for j := range state {
		state[j] = y.mean[j] + move.AtVec(j)
	}
	cov := mat.NewSymDense(n, nil)
	for i := range n {
		for j := i; j < n; j++ {
			known := 0.0
			for f := range m.of {
				known += solved.At(f, i) * cross.At(f, j)
			}
			cov.SetSym(i, j, y.cov.At(i, j)-known)
		}
	}
	return state, cov
}

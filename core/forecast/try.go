package forecast

import (
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A Move is one thing turned to another value, all else kept.
type Move struct {
	recipe.Address
	To float64
}

// A Difference is what a move would change in the cup, as the model sees it.
// Differences are surer than the forecast itself: most of its error is common to both (Sure).
type Difference struct {
	Yield    float64       // points of EY
	Strength float64       // points of TDS
	Time     units.Seconds // of drawdown
	Lean     float64       // of sim.Balance: up is towards bitter, down towards bright
	// YieldError and TimeError are one standard error, where Sure worked them out.
	YieldError float64
	TimeError  units.Seconds
}

// Tilt names the direction in which a difference moves the balance of the cup, which is
// the model's least certain part: "same" where it is too small to tell.
func (d Difference) Tilt() string {
	const least = 0.0025
	switch {
	case d.Lean > least:
		return "bitterer"
	case d.Lean < -least:
		return "brighter"
	}
	return "same"
}

// Try predicts what each move would change, compared with the forecast of the
// recipe as it stands. It runs several moves at a time. A move that leads outside the
// model's ranges has nil in its place.
func Try(q Question, base Forecast, moves []Move) []*Difference {
	out := make([]*Difference, len(moves))
	Share(len(moves), func(mine Numbers) {
		var f Forecast // one a worker: its curves are used again
		for i := range mine {
			out[i] = f.against(base, q, moves[i])
		}
	})
	return out
}

// against asks the model about a move and compares.
func (f *Forecast) against(base Forecast, q Question, m Move) *Difference {
	q.Recipe = q.Recipe.With(m.Address, m.To)
	if f.Ask(q) != nil {
		return nil
	}
	return &Difference{Yield: f.Yield.Value - base.Yield.Value, Strength: f.TDS - base.TDS, Time: f.Drawdown - base.Drawdown,
		Lean: f.Balance.Lean() - base.Balance.Lean()}
}

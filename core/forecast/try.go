package forecast

import (
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A Move sets one address to another value and keeps the rest.
type Move struct {
	recipe.Address
	To float64
}

// A Difference is the predicted effect of a move on the cup. It is more certain than the forecast, most of
// whose error cancels (see Sure).
type Difference struct {
	Yield    float64       // points of EY
	Strength float64       // points of TDS
	Time     units.Seconds // of drawdown
	Lean     float64       // of sim.Balance: positive towards bitter, negative towards bright
	// YieldError and TimeError are standard errors, set by Sure.
	YieldError float64
	TimeError  units.Seconds
}

// Tilt names the direction in which a difference moves the balance of the cup, which is the least certain
// part of the model; "same" if it is too small.
func (d Difference) Tilt() string {
	const least = 0.01 // 87 → 93 °C at an equal yield moves it by 0.004, which panels cannot tell (Batali, Ristenpart and Guinard 2020)
	switch {
	case d.Lean > least:
		return "bitterer"
	case d.Lean < -least:
		return "brighter"
	}
	return "same"
}

// Try predicts the effect of each move on the recipe of a question, several moves at a time, by coarse runs, whose differences
// are within 0.03 points and a second of those of fine ones. The result is nil for a move outside the model's range.
func Try(q Question, moves []Move) []*Difference {
	out := make([]*Difference, len(moves))
	var base Forecast
	if base.RunCoarse(q) != nil {
		return out
	}
	Parallel(len(moves), func(mine Indices) {
		var f Forecast // one per worker, to reuse its curves
		for i := range mine {
			next := q
			next.Recipe = q.Recipe.With(moves[i].Address, moves[i].To)
			if f.RunCoarse(next) == nil {
				out[i] = f.minus(base)
			}
		}
	})
	return out
}

// differ predicts the difference of a recipe from the forecast of another one.
func (f *Forecast) differ(base Forecast, q Question) *Difference {
	if f.Run(q) != nil {
		return nil
	}
	return f.minus(base)
}

// minus returns the difference from another forecast.
func (f *Forecast) minus(base Forecast) *Difference {
	return &Difference{Yield: f.Yield.Value - base.Yield.Value, Strength: f.TDS - base.TDS, Time: f.Drawdown - base.Drawdown,
		Lean: f.Balance.Lean() - base.Balance.Lean()}
}

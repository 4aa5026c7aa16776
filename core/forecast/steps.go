package forecast

import (
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A Move is one knob set to another value, all else kept.
type Move struct {
	Knob recipe.Knob
	To   float64
}

// A Difference is what a move would change in the cup, as the model sees it.
// Differences are surer than the forecast itself: most of its error is common to both.
type Difference struct {
	Yield    float64       // points of EY
	Strength float64       // points of TDS
	Time     units.Seconds // of drawdown
}

// Steps predicts what each move would change against the forecast of the
// recipe as it stands.
func Steps(q Question, base Forecast, moves []Move) ([]Difference, error) {
	out := make([]Difference, len(moves))
	var f Forecast
	for i, m := range moves {
		next := q
		next.Recipe = q.Recipe.With(m.Knob, m.To)
		if err := f.Ask(next); err != nil {
			return nil, err
		}
		out[i] = Difference{Yield: f.Yield.Value - base.Yield.Value, Strength: f.TDS - base.TDS, Time: f.Drawdown - base.Drawdown}
	}
	return out, nil
}

package rush

import (
	"math"

	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

const (
	// harmlessYield and harmlessStrength are what all stretches of an order together may
	// change in the cup, points: less than a refractometer tells.
	harmlessYield, harmlessStrength = 0.3, 0.03
	// lift is how long the hands take to lift a brewer off and serve, s, and lateLift how
	// much later than the last stream that may be.
	lift, lateLift units.Seconds = 5, 25
)

// stretches are how far a wait may be stretched, s.
var stretches = []units.Seconds{4, 8, 12, 18, 25, 35}

// OrderOf is the order for one brew: what the hands do in it, and how far each wait can be
// stretched within what the brew model says is harmless. It returns an error where the
// recipe lies outside the model's ranges.
func OrderOf(name string, q forecast.Question) (Order, error) {
	var f forecast.Forecast
	if err := f.Ask(q); err != nil {
		return Order{}, err
	}
	o := Order{Name: name, Brewer: q.Gear.Brewer.ID, Water: q.Recipe.Water()}
	steps := f.Plan.Steps
	var rough forecast.Forecast
	if err := rough.AskRoughly(q); err != nil {
		return Order{}, err
	}
	waits := float64(max(1, len(steps)-1))
	for i, s := range steps {
		t := Task{Say: doing(s, q.Reads), Start: s.Start, Lasts: s.Lasts}
		if i > 0 {
			t.Stretch = harmless(q, steps, i, rough, harmlessYield/waits, harmlessStrength/waits)
		}
		o.Tasks = append(o.Tasks, t)
	}
	off := Task{Say: "Lift it off", Start: units.Seconds(math.Ceil(float64(f.Drawdown))), Lasts: lift, Stretch: lateLift}
	off.Start = max(off.Start, steps[len(steps)-1].End())
	o.Tasks = append(o.Tasks, off)
	o.Drains = lift
	return o, nil
}

// doing says what a step asks of the hands.
func doing(s recipe.Step, prefs units.Prefs) string {
	switch {
	case s.Act == recipe.BreakCrust:
		return "Break the crust"
	case s.Act == recipe.OpenValve:
		return "Open the valve"
	case s.Bloom:
		return "Bloom to " + prefs.Unit(units.Water).Format(float64(s.Total))
	}
	return "Pour to " + prefs.Unit(units.Water).Format(float64(s.Total))
}

// harmless is how much later a step may begin, with all that follows, while the cup stays as
// it is within so many points.
func harmless(q forecast.Question, steps []recipe.Step, from int, as forecast.Forecast, yield, strength float64) (most units.Seconds) {
	var f forecast.Forecast
	for _, by := range stretches {
		later := Later(steps, from, by)
		asked := q
		asked.Recipe = q.Recipe.Along(later)
		if f.AskRoughly(asked) != nil || math.Abs(f.Yield.Value-as.Yield.Value) > yield || math.Abs(f.TDS-as.TDS) > strength || f.Overflow >= 0 && as.Overflow < 0 {
			return most
		}
		most = by
	}
	return most
}

// Later are the steps with those from one on moved by so many seconds.
func Later(steps []recipe.Step, from int, by units.Seconds) []recipe.Step {
	out := append([]recipe.Step(nil), steps...)
	for i := from; i < len(out); i++ {
		out[i].Start += by
	}
	return out
}

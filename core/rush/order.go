package rush

import (
	"math"

	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

const (
	// harmlessYield and harmlessStrength limit the change of the cup by all stretches of an order together,
	// in percentage points. They are below the resolution of a refractometer.
	harmlessYield, harmlessStrength = 0.3, 0.03
	// lift is the time to lift a brewer off and serve, s; lateLift the maximum delay after the last stream.
	lift, lateLift units.Seconds = 5, 25
)

// stretches lists the delays of a wait that are tried, s.
var stretches = []units.Seconds{4, 8, 12, 18, 25, 35}

// OrderOf returns the order for one brew: its tasks, and the delay of each wait that the brew model
// considers harmless. It returns an error if the recipe is outside the model's range.
func OrderOf(name string, q forecast.Question) (Order, error) {
	var f forecast.Forecast
	if err := f.Run(q); err != nil {
		return Order{}, err
	}
	o := Order{Name: name, Brewer: q.Gear.Brewer.ID, Water: q.Recipe.Water()}
	steps := f.Plan.Steps
	var rough forecast.Forecast
	if err := rough.RunCoarse(q); err != nil {
		return Order{}, err
	}
	waits := float64(max(1, len(steps)-1))
	for i, s := range steps {
		t := Task{Say: stepText(s, q.Prefs), Start: s.Start, Lasts: s.Lasts}
		if i > 0 {
			t.Stretch = maxStretch(q, steps, i, rough, harmlessYield/waits, harmlessStrength/waits)
		}
		o.Tasks = append(o.Tasks, t)
	}
	off := Task{Say: "Lift it off", Start: units.Seconds(math.Ceil(float64(f.Drawdown))), Lasts: lift, Stretch: lateLift}
	off.Start = max(off.Start, steps[len(steps)-1].End())
	o.Tasks = append(o.Tasks, off)
	o.Drains = lift
	return o, nil
}

// stepText describes the manual action of a step.
func stepText(s recipe.Step, prefs units.Prefs) string {
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

// maxStretch returns the largest delay of a step and all later ones that changes the cup by no more than the
// given points.
func maxStretch(q forecast.Question, steps []recipe.Step, from int, as forecast.Forecast, yield, strength float64) (most units.Seconds) {
	var f forecast.Forecast
	for _, by := range stretches {
		later := Later(steps, from, by)
		asked := q
		asked.Recipe = q.Recipe.WithSteps(later)
		if f.RunCoarse(asked) != nil || math.Abs(f.Yield.Value-as.Yield.Value) > yield || math.Abs(f.TDS-as.TDS) > strength ||
			f.Overflow >= 0 && as.Overflow < 0 {
			return most
		}
		most = by
	}
	return most
}

// Later returns the steps with those from an index on delayed.
func Later(steps []recipe.Step, from int, by units.Seconds) []recipe.Step {
	out := append([]recipe.Step(nil), steps...)
	for i := from; i < len(out); i++ {
		out[i].Start += by
	}
	return out
}

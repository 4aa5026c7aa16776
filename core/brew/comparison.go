package brew

import (
	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/trace"
	"yardbloom/core/units"
)

// A PourComparison compares a pour with its plan.
type PourComparison struct {
	Planned, Actual recipe.Step
	Weighed         bool // the amount comes from a scale
	Stream          *trace.Stream
}

// An Comparison is the comparison of a brew with its plan.
type Comparison struct {
	Pours []PourComparison
	// Did is the effect of the deviations on the cup, by the model; nil if unknown.
	Effect *forecast.Difference
	// Steadiness of all pours, 0 to 100; Seen is true if it was measured by a scale.
	Steadiness int
	ByScale    bool
}

// ComparePlan compares a brew with its original plan. readings are those of the scale, if there was one.
func (b Brew) ComparePlan(readings []trace.Reading) Comparison {
	var out Comparison
	state := b.At(b.Ended)
	was := state.Steps()
	var score, water float64
	for i, meant := range b.Plan.Steps {
		st := state.Stages[2*i]
		if meant.Act != recipe.PourWater || st.Skipped || 2*i >= state.Current {
			continue
		}
		p := PourComparison{Planned: meant, Actual: was[i], Weighed: st.Weighed > 0}
		if stream, ok := trace.Steady(readings, st.Entered, st.Left); ok {
			p.Stream = &stream
			score += float64(stream.Score()) * float64(p.Actual.Water)
			water += float64(p.Actual.Water)
		}
		out.Pours = append(out.Pours, p)
	}
	if water > 0 {
		out.ByScale, out.Steadiness = true, int(score/water+0.5)
	}
	q := b.Sheet.Question(b.Started)
	var planned, poured forecast.Forecast
	really := q
	really.Recipe = q.Recipe.WithSteps(was)
	if state.Finished && planned.Run(q) == nil && poured.Run(really) == nil {
		out.Effect = &forecast.Difference{Yield: poured.Yield.Value - planned.Yield.Value, Strength: poured.TDS - planned.TDS,
			Time: poured.Drawdown - planned.Drawdown,
			Lean: poured.Balance.Lean() - planned.Balance.Lean()}
	}
	return out
}

// Steps returns the steps of the plan: done ones as they happened, later ones as planned.
func (s State) Steps() []recipe.Step {
	steps := s.Plan().Steps
	var total units.Grams
	for i := range steps {
		step, st := &steps[i], s.Stages[2*i]
		if 2*i > s.Current || st.Skipped {
			break
		}
		step.Start = st.Entered
		if 2*i == s.Current && !s.Finished { // in progress
			break
		}
		step.Lasts = max(1, st.Left-st.Entered)
		if st.Weighed == 0 && !s.Stages[2*i+1].Tapped { // no tap ended the pour: the clock went on to the next step
			step.Lasts = min(step.Lasts, st.Lasts)
		}
		if step.Act == recipe.PourWater {
			step.Total = max(total, st.Poured())
			step.Water, step.Cue = step.Total-total, recipe.ForTime
			step.Rate = recipe.PourRates.Clamp(float64(step.Water) / float64(step.Lasts))
			total = step.Total
		}
	}
	return steps
}

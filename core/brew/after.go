package brew

import (
	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/trace"
	"yardbloom/core/units"
)

// A PourAgainst is a pour as it was poured against how it was planned.
type PourAgainst struct {
	Meant, Was recipe.Step
	Weighed    bool // a scale saw how much it was
	Stream     *trace.Stream
}

// An After is what a brew's pouring came to against its plan.
type After struct {
	Pours []PourAgainst
	// Did is what the differences did to the cup, by the model; nil where it cannot say.
	Did *forecast.Difference
	// Steadiness of all pours, 0 to 100; Seen says that a scale saw them.
	Steadiness int
	Seen       bool
}

// After compares what was poured with the plan as it was made. readings are what a scale
// showed; none where there was no scale.
func (b Brew) After(readings []trace.Reading) After {
	var out After
	state := b.At(b.Ended)
	was := state.Steps()
	var score, water float64
	for i, meant := range b.Plan.Steps {
		st := state.Stages[2*i]
		if meant.Act != recipe.PourWater || st.Skipped || 2*i >= state.Current {
			continue
		}
		p := PourAgainst{Meant: meant, Was: was[i], Weighed: st.Got > 0}
		if stream, ok := trace.Steady(readings, st.Entered, st.Left); ok {
			p.Stream = &stream
			score += float64(stream.Score()) * float64(p.Was.Water)
			water += float64(p.Was.Water)
		}
		out.Pours = append(out.Pours, p)
	}
	if water > 0 {
		out.Seen, out.Steadiness = true, int(score/water+0.5)
	}
	q := b.Sheet.Question(b.Started)
	var planned, poured forecast.Forecast
	really := q
	really.Recipe = q.Recipe.Along(was)
	if state.Finished && planned.Ask(q) == nil && poured.Ask(really) == nil {
		out.Did = &forecast.Difference{Yield: poured.Yield.Value - planned.Yield.Value, Strength: poured.TDS - planned.TDS, Time: poured.Drawdown - planned.Drawdown,
			Lean: poured.Balance.Lean() - planned.Balance.Lean()}
	}
	return out
}

// Steps are the steps of the plan as they were done so far, and as it has those that lie ahead.
func (s State) Steps() []recipe.Step {
	steps := s.Plan().Steps
	var total units.Grams
	for i := range steps {
		step, st := &steps[i], s.Stages[2*i]
		if 2*i > s.Current || st.Skipped {
			break
		}
		step.Start = st.Entered
		if 2*i == s.Current && !s.Finished { // it is being done
			break
		}
		step.Lasts = max(1, st.Left-st.Entered)
		if st.Got == 0 && !s.Stages[2*i+1].Tapped { // nobody said when it was in: the clock went on at the next one
			step.Lasts = min(step.Lasts, st.Lasts)
		}
		if step.Act == recipe.PourWater {
			step.Total = max(total, st.Poured())
			step.Water, step.WhenDrained = step.Total-total, false
			step.Rate = recipe.PourRates.Clamp(float64(step.Water) / float64(step.Lasts))
			total = step.Total
		}
	}
	return steps
}

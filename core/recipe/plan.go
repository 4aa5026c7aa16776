package recipe

import (
	"math"

	"yardbloom/core/coffee"
	"yardbloom/core/units"
)

// Act is the kind of a step.
type Act string

// The kinds of steps.
const (
	PourWater  Act = "pour"
	BreakCrust Act = "stir"
	OpenValve  Act = "release"
)

// A Step is one action of a plan. Between steps the brewer waits.
type Step struct {
	Act         Act
	Bloom       bool
	Start       units.Seconds
	Lasts       units.Seconds
	Water       units.Grams // poured in this step
	Total       units.Grams // scale reading at its end
	Rate        float64     // g/s
	Height      Height
	Pattern     Pattern
	Then        HandAction // hand action at its end
	Cue         Cue        // its start: the clock or a sight; Start is then the expected time
	Temperature units.Celsius
	Level       float64 // share of the height to which it is poured; 0: by weight alone
	Second      bool    // from the second kettle
}

// End returns the end of the step.
func (s Step) End() units.Seconds { return s.Start + s.Lasts }

// A Plan holds the cumulative water and times of a recipe. Finish is the target drawdown, and Window the
// tolerance around it. Both are targets, not predictions: the grind determines whether a brew reaches them.
type Plan struct {
	Steps  []Step
	Finish units.Seconds
	Window coffee.Window
}

const (
	// windowTolerance is the tolerance of the target drawdown, s.
	windowTolerance units.Seconds = 20
	// MinDrain is the minimum time from the last action to the end, s.
	MinDrain units.Seconds = 15
	// minPause is the minimum time between two actions of one pair of hands, s.
	minPause units.Seconds = 10
	// The durations of breaking the crust and opening the valve, s.
	crustLasts, valveLasts units.Seconds = 10, 5
)

// Plan computes the cumulative water and times of the pours: whole grams that add up to the water, and
// whole seconds. It keeps pours that are impossible as set, such as overlapping ones; Check warns of them.
func (r Recipe) Plan() Plan {
	steps := make([]Step, 0, len(r.Pours)+2)
	var exact, total units.Grams
	for _, p := range r.Pours {
		exact += p.Water
		water := units.Grams(math.Round(float64(exact))) - total
		total += water
		steps = append(steps, Step{Act: PourWater, Bloom: p.Bloom, Start: round(p.Start),
			Lasts: units.Seconds(math.Ceil(float64(water) / p.Rate)),
			Water: water, Total: total, Rate: p.Rate, Height: p.Height, Pattern: p.Pattern, Then: p.Then, Cue: p.Cue,
			Temperature: p.Temperature, Level: p.Level, Second: p.Second})
	}
	if r.Release > 0 {
		steps = append(steps, r.valveSteps(total, lastEnd(steps))...)
	}
	p := Plan{Steps: steps, Finish: lastEnd(steps) + 4*MinDrain}
	if r.Aim > 0 {
		p.Finish = max(round(r.Aim), lastEnd(steps)+MinDrain)
		p.Window = coffee.Window{From: p.Finish - windowTolerance, To: p.Finish + windowTolerance}
	}
	return p
}

// WithSteps returns the recipe with the pours and times of the steps: the pours as measured, or a revised plan.
func (r Recipe) WithSteps(steps []Step) Recipe {
	r.Pours, r.Crust, r.Release = make([]Pour, 0, len(steps)), 0, 0
	for _, s := range steps {
		switch s.Act {
		case PourWater:
			r.Pours = append(r.Pours, Pour{Bloom: s.Bloom, Water: s.Water, Start: s.Start, Cue: s.Cue, Rate: s.Rate,
				Height: s.Height, Pattern: s.Pattern, Temperature: s.Temperature, Then: s.Then,
				Level: s.Level, Second: s.Second})
		case BreakCrust:
			r.Crust = s.Start
		case OpenValve:
			r.Release = s.Start
		}
	}
	return r
}

// valveSteps returns the actions on a steeper after all water is in, never before the hand is free.
func (r Recipe) valveSteps(total units.Grams, done units.Seconds) []Step {
	var out []Step
	if r.Crust > 0 {
		crust := max(round(r.Crust), done+minPause)
		out = append(out, Step{Act: BreakCrust, Start: crust, Lasts: crustLasts, Total: total, Temperature: r.Temperature()})
		done = crust + crustLasts
	}
	return append(out, Step{Act: OpenValve, Start: max(round(r.Release), done+minPause), Lasts: valveLasts, Total: total,
		Temperature: r.Temperature()})
}

func lastEnd(steps []Step) units.Seconds {
	if len(steps) == 0 {
		return 0
	}
	return steps[len(steps)-1].End()
}

func round(s units.Seconds) units.Seconds { return units.Seconds(math.Round(float64(s))) }

package recipe

import (
	"math"

	"yardbloom/core/coffee"
	"yardbloom/core/units"
)

// Act is what the hand does in a step.
type Act string

// The acts of a plan.
const (
	PourWater  Act = "pour"
	BreakCrust Act = "stir"
	OpenValve  Act = "release"
)

// A Step is one thing to do at a time. Between steps the brewer waits.
type Step struct {
	Act         Act
	Bloom       bool
	Start       units.Seconds
	Lasts       units.Seconds
	Water       units.Grams // poured in this step
	Total       units.Grams // on the scale when it is done
	Rate        float64     // g/s
	Height      Height
	Pattern     Pattern
	Then        Hand // what the hand does when it is done
	WhenDrained bool // it starts when the water has reached the bed; Start is when that is expected
	Temperature units.Celsius
}

// End is when the step is done.
func (s Step) End() units.Seconds { return s.Start + s.Lasts }

// A Plan is a recipe's running totals and times. Finish is the drawdown that is
// aimed at, and Window the span around it that counts as on time. Both are an
// aim, not a prediction: the grind is what gets a brew there.
type Plan struct {
	Steps  []Step
	Finish units.Seconds
	Window coffee.Window
}

const (
	// windowHalf is how far from the aim a drawdown still counts as on time, s.
	windowHalf units.Seconds = 20
	// LeastDrain is the least time from the last thing to do to the end, s.
	LeastDrain units.Seconds = 15
	// minPause is the least time between two things that one pair of hands does, s.
	minPause units.Seconds = 10
	// How long a hand breaks the crust and opens the valve, s.
	crustLasts, valveLasts units.Seconds = 10, 5
)

// Plan works out the totals and times of the pours: whole grams that add up to
// the water, and whole seconds. Values that cannot be poured as they are set, such as
// pours that overlap, are kept as they are; Check warns of them.
func (r Recipe) Plan() Plan {
	steps := make([]Step, 0, len(r.Pours)+2)
	var exact, total units.Grams
	for _, p := range r.Pours {
		exact += p.Water
		water := units.Grams(math.Round(float64(exact))) - total
		total += water
		steps = append(steps, Step{Act: PourWater, Bloom: p.Bloom, Start: round(p.Start), Lasts: units.Seconds(math.Ceil(float64(water) / p.Rate)),
			Water: water, Total: total, Rate: p.Rate, Height: p.Height, Pattern: p.Pattern, Then: p.Then, WhenDrained: p.WhenDrained, Temperature: p.Temperature})
	}
	if r.Release > 0 {
		steps = append(steps, r.valveSteps(total, lastEnd(steps))...)
	}
	p := Plan{Steps: steps, Finish: lastEnd(steps) + 4*LeastDrain}
	if r.Aim > 0 {
		p.Finish = max(round(r.Aim), lastEnd(steps)+LeastDrain)
		p.Window = coffee.Window{From: p.Finish - windowHalf, To: p.Finish + windowHalf}
	}
	return p
}

// Along returns the recipe with the pours and times of the steps of a plan: what was really
// poured, or how a plan goes on.
func (r Recipe) Along(steps []Step) Recipe {
	r.Pours, r.Crust, r.Release = make([]Pour, 0, len(steps)), 0, 0
	for _, s := range steps {
		switch s.Act {
		case PourWater:
			r.Pours = append(r.Pours, Pour{Bloom: s.Bloom, Water: s.Water, Start: s.Start, WhenDrained: s.WhenDrained, Rate: s.Rate, Height: s.Height, Pattern: s.Pattern, Temperature: s.Temperature, Then: s.Then})
		case BreakCrust:
			r.Crust = s.Start
		case OpenValve:
			r.Release = s.Start
		}
	}
	return r
}

// valveSteps are what is done to a steeper once all water is in: never before the hand is free.
func (r Recipe) valveSteps(total units.Grams, done units.Seconds) []Step {
	var out []Step
	if r.Crust > 0 {
		crust := max(round(r.Crust), done+minPause)
		out = append(out, Step{Act: BreakCrust, Start: crust, Lasts: crustLasts, Total: total, Temperature: r.Temperature()})
		done = crust + crustLasts
	}
	return append(out, Step{Act: OpenValve, Start: max(round(r.Release), done+minPause), Lasts: valveLasts, Total: total, Temperature: r.Temperature()})
}

func lastEnd(steps []Step) units.Seconds {
	if len(steps) == 0 {
		return 0
	}
	return steps[len(steps)-1].End()
}

func round(s units.Seconds) units.Seconds { return units.Seconds(math.Round(float64(s))) }

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
	Pour    Act = "pour"
	Stir    Act = "stir"    // break the crust
	Release Act = "release" // open the valve
)

// A Step is one thing to do at a time. Between steps the brewer waits.
type Step struct {
	Act         Act           `json:"act"`
	Bloom       bool          `json:"bloom,omitempty"`
	Start       units.Seconds `json:"start"`
	Lasts       units.Seconds `json:"lasts"`
	Water       units.Grams   `json:"water"` // poured in this step
	Total       units.Grams   `json:"total"` // on the scale when it is done
	Rate        float64       `json:"rate,omitempty"`
	Height      Height        `json:"height"`
	Pattern     Pattern       `json:"pattern,omitempty"`
	Swirl       bool          `json:"swirl,omitempty"` // swirl when it is done
	Temperature units.Celsius `json:"temperature"`
}

// End is when the step is done.
func (s Step) End() units.Seconds { return s.Start + s.Lasts }

// A Plan is a recipe's schedule. Finish is the drawdown that is aimed at, and
// Window the span around it that counts as on time. Both are an aim, not a
// prediction: the grind is what gets a brew there.
type Plan struct {
	Steps  []Step        `json:"steps"`
	Finish units.Seconds `json:"finish"`
	Window coffee.Window `json:"window"`
}

// windowHalf is how far from the aim a drawdown still counts as on time, s.
const windowHalf = 20

// Plan works out the schedule: whole grams that add up to the water, whole
// seconds, gaps that grow with the square root of the dose because a deeper bed
// drains more slowly.
func (r Recipe) Plan() Plan {
	style := r.Style.Style()
	scale := math.Sqrt(float64(r.Dose) / 18)
	var p Plan
	var at units.Seconds
	left := units.Grams(math.Round(float64(r.Water)))
	add := func(s Step) {
		s.Start, s.Temperature = at, r.Temperature
		if n := len(p.Steps); n > 0 {
			s.Total = p.Steps[n-1].Total
		}
		s.Total += s.Water
		if s.Act == Pour {
			s.Lasts = units.Seconds(math.Ceil(float64(s.Water) / s.Rate))
		}
		p.Steps = append(p.Steps, s)
	}

	if bloom := r.bloomWater(left); bloom > 0 {
		add(Step{Act: Pour, Bloom: true, Water: bloom, Rate: bloomRate, Height: r.Height, Pattern: Circles, Swirl: r.Swirl})
		left -= bloom
		at = max(r.BloomTime, p.Steps[0].End()+minPause)
	}
	poured, share := units.Grams(0), 0.0
	for i, s := range style.pours {
		share += s.of
		upTo := units.Grams(math.Round(float64(left) * share))
		height := r.Height
		if s.low {
			height = Low
		}
		last := i == len(style.pours)-1
		add(Step{Act: Pour, Water: upTo - poured, Rate: s.rate, Height: height, Pattern: s.pattern, Swirl: last && r.Swirl && r.Steep == 0})
		poured = upTo
		if !last {
			at = max(at+fives(float64(style.gap)*scale), p.Steps[len(p.Steps)-1].End()+minPause)
		}
	}
	done := p.Steps[len(p.Steps)-1].End()
	if r.Steep > 0 {
		at = max(r.Steep-45, done+minPause)
		add(Step{Act: Stir, Lasts: 10})
		at = max(r.Steep, at+10+minPause)
		add(Step{Act: Release, Lasts: 5})
		done = at
	}
	p.Finish = done + fives(float64(style.drain)*scale)
	p.Window = coffee.Window{From: p.Finish - windowHalf, To: p.Finish + windowHalf}
	return p
}

// minPause is the least time between two things that one pair of hands does, s.
const minPause = 10

// bloomWater is the bloom in whole g, never so much that nothing is left to pour.
func (r Recipe) bloomWater(water units.Grams) units.Grams {
	b := units.Grams(math.Round(float64(r.Dose) * r.Bloom))
	return min(b, units.Grams(math.Floor(float64(water)*0.6)))
}

// fives rounds a span to five seconds, at least five: nobody pours by the second.
func fives(s float64) units.Seconds {
	return units.Seconds(math.Max(5, math.Round(s/5)*5))
}

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
	Then        Hand          `json:"then,omitempty"`        // what the hand does when it is done
	WhenDrained bool          `json:"whenDrained,omitempty"` // it starts when the water has reached the bed; Start is when that is expected
	Temperature units.Celsius `json:"temperature"`
}

// End is when the step is done.
func (s Step) End() units.Seconds { return s.Start + s.Lasts }

// A Plan is a recipe's schedule. Finish is the drawdown that is aimed at, and
// Window the span around it that counts as on time. Both are an aim, not a
// prediction: the grind is what gets a brew there. More pours than the style's do
// not move it, which is why they want a coarser grind.
type Plan struct {
	Steps  []Step        `json:"steps"`
	Finish units.Seconds `json:"finish"`
	Window coffee.Window `json:"window"`
}

// windowHalf is how far from the aim a drawdown still counts as on time, s.
const windowHalf = 20

// Plan works out the schedule: whole grams that add up to the water, whole
// seconds, gaps that grow with the square root of the dose because a deeper bed
// drains more slowly. What a person has set themselves is taken as it is, even
// where it cannot be poured that way: Check says so.
func (r Recipe) Plan() Plan {
	style := r.Style.Style()
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
		add(Step{Act: Pour, Bloom: true, Water: bloom, Rate: r.bloomRate(), Height: r.Height, Pattern: Circles, Then: r.Hand})
		left -= bloom
		at = r.BloomTime
	}
	poured, upTo, pours := units.Grams(0), 0.0, r.shares()
	for i, s := range pours {
		upTo += s.of
		total := units.Grams(math.Round(float64(left) * upTo))
		step := Step{Act: Pour, Water: total - poured, Rate: r.PourRate(), Height: r.Height, Pattern: r.PourPattern(), WhenDrained: r.WhenDrained && i > 0}
		if s.low {
			step.Height = Low
		}
		last := i == len(pours)-1
		if last && r.Steep == 0 {
			step.Then = r.Hand
		}
		add(step)
		poured = total
		if !last {
			at += r.PourGap()
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
	drain := float64(style.drain) * r.depth()
	p.Finish = done + fives(drain)
	if own := r.asStyled(); own != r { // the style wants its own time, however it is poured
		p.Finish = max(own.Plan().Finish, done+fives(drain/2))
	}
	p.Window = coffee.Window{From: p.Finish - windowHalf, To: p.Finish + windowHalf}
	return p
}

// asStyled is the recipe with the number, rate, rhythm and pattern of its style's pours.
func (r Recipe) asStyled() Recipe {
	r.Pours, r.Rate, r.Gap, r.Pattern = 0, 0, 0, ""
	return r
}

// depth is how much longer a bed of this dose drains than one of 18 g.
func (r Recipe) depth() float64 { return math.Sqrt(float64(r.Dose) / 18) }

// shares are the pours after the bloom: the style's own, or as many equal ones
// as were asked for, poured like the style's first and, where the style ends low,
// ended low.
func (r Recipe) shares() []share {
	own := r.Style.Style().pours
	if r.Pours == 0 || r.Pours == len(own) {
		return own
	}
	out := make([]share, r.Pours)
	for i := range out {
		out[i] = own[0]
		out[i].of = 1 / float64(r.Pours)
	}
	out[r.Pours-1].low = own[len(own)-1].low
	return out
}

// PourPattern is the path of those pours.
func (r Recipe) PourPattern() Pattern {
	if own := r.Style.Style().pours; r.Pattern == "" && len(own) > 0 {
		return own[0].pattern
	}
	return r.Pattern
}

// bloomRate is how fast the bloom is poured, g/s: gently, and no faster than the
// pours where those were set slower.
func (r Recipe) bloomRate() float64 {
	if r.Rate == 0 {
		return gentle
	}
	return min(gentle, r.Rate)
}

// PourCount is the number of pours after the bloom.
func (r Recipe) PourCount() int { return len(r.shares()) }

// PourRate is how fast they are poured, g/s.
func (r Recipe) PourRate() float64 {
	if r.Rate == 0 {
		return r.Style.Style().Rate
	}
	return r.Rate
}

// PourGap is the time from the start of one of them to the start of the next, s.
// Where it was not set it is the style's, with the same pause between them however
// many they are: it is in the pause that the water sinks in. Two pours never run
// into each other.
func (r Recipe) PourGap() units.Seconds {
	n, style := r.PourCount(), r.Style.Style()
	if r.Gap != 0 || n < 2 {
		return r.Gap
	}
	pause := float64(style.gap)*r.depth() - r.pourTime(len(style.pours))
	return max(fives(pause+r.pourTime(n)), r.LeastGap())
}

// pourTime is how long one of n equal pours runs, s.
func (r Recipe) pourTime(n int) float64 {
	return float64(r.Water-r.bloomWater(r.Water)) / float64(n) / r.PourRate()
}

// LeastGap is the shortest gap in which a pour is done and the hand is free again.
func (r Recipe) LeastGap() units.Seconds {
	return upToFives(r.pourTime(r.PourCount())+1) + minPause // a second for whole grams
}

// LeastBloom is the shortest bloom in which its water is poured and the hand is free again.
func (r Recipe) LeastBloom() units.Seconds {
	return upToFives(float64(r.bloomWater(r.Water))/r.bloomRate()) + minPause
}

// minPause is the least time between two things that one pair of hands does, s.
const minPause = 10

// bloomWater is the bloom in whole g, never so much that nothing is left to pour.
func (r Recipe) bloomWater(water units.Grams) units.Grams {
	b := units.Grams(math.Round(float64(r.Dose) * r.Bloom))
	return min(b, units.Grams(math.Floor(float64(water)*0.6)))
}

// upToFives rounds a span up to five seconds.
func upToFives(s float64) units.Seconds { return units.Seconds(math.Ceil(s/5) * 5) }

// fives rounds a span to five seconds, at least five: nobody pours by the second.
func fives(s float64) units.Seconds {
	return units.Seconds(math.Max(5, math.Round(s/5)*5))
}

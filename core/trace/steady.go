package trace

import (
	"math"

	"yardbloom/core/units"
)

// A Stream is how evenly water fell between two moments.
type Stream struct {
	Rate   float64 // mean, g/s
	Wander float64 // standard deviation of the rate over its mean
	Lowest float64 // g/s, over two seconds
	Most   float64
}

const (
	// over is the time over which a rate is taken, s: shorter, a scale's noise would count
	// as the hand's.
	over = 2.0
	// noise is what an ordinary scale adds to the rate over that time, g/s.
	noise = 0.13
	// getsSteady is what a hand takes to begin and to stop, s: it does not count.
	getsSteady = 0.8
)

// Steady returns how evenly water fell between two moments; false where it fell for too
// short a time to say. What an ordinary scale's noise adds is taken off.
func Steady(all []Reading, from, to units.Seconds) (Stream, bool) {
	lo, hi := float64(from)+getsSteady, float64(to)-getsSteady
	var rates []float64
	for at := lo; at+over <= hi+1e-9; at += over / 2 {
		_, _, slope, ok := fit(span(all, at, at+over))
		if ok {
			rates = append(rates, slope)
		}
	}
	if len(rates) < 2 {
		return Stream{}, false
	}
	s := Stream{Lowest: math.Inf(1), Most: math.Inf(-1)}
	for _, r := range rates {
		s.Rate += r / float64(len(rates))
		s.Lowest, s.Most = min(s.Lowest, r), max(s.Most, r)
	}
	var squares float64
	for _, r := range rates {
		squares += (r - s.Rate) * (r - s.Rate)
	}
	if s.Rate <= 0 {
		return Stream{}, false
	}
	s.Wander = math.Sqrt(max(0, squares/float64(len(rates)-1)-noise*noise)) / s.Rate
	return s, true
}

// Score is a stream's steadiness, 0 to 100: 100 for one that does not wander, 0 for one that
// wanders by half of its rate.
func (s Stream) Score() int {
	const none = 0.5
	return int(math.Round(100 * max(0, 1-s.Wander/none)))
}

func span(all []Reading, from, to float64) []Reading {
	i := 0
	for i < len(all) && float64(all[i].At) < from {
		i++
	}
	j := i
	for j < len(all) && float64(all[j].At) <= to {
		j++
	}
	return all[i:j]
}

package trace

import (
	"math"

	"yardbloom/core/units"
)

// A rate is shown as too fast above FastRate times the target rate, and as too slow below SlowRate times
// it.
const (
	FastRate = 1.25
	SlowRate = 0.75
)

// A Stream describes how evenly water flowed during a period.
type Stream struct {
	Rate      float64 // mean, g/s
	Variation float64 // standard deviation of the rate divided by its mean
	Lowest    float64 // g/s, over two seconds
	Most      float64
}

const (
	// over is the averaging time of a rate, s. A shorter one would include the noise of the scale.
	over = 2.0
	// noise is the contribution of an ordinary scale to the rate over that time, g/s.
	noise = 0.13
	// getsSteady is the time at the start and the end of a pour that is excluded, s.
	getsSteady = 0.8
)

// Steady returns how evenly water flowed during a period, corrected for the noise of an ordinary scale. It
// returns false if the period is too short.
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
	s.Variation = math.Sqrt(max(0, squares/float64(len(rates)-1)-noise*noise)) / s.Rate
	return s, true
}

// Score returns the steadiness of a stream, 0 to 100: 100 for a constant rate, 0 for a standard deviation
// of half of the rate.
func (s Stream) Score() int {
	const none = 0.5
	return int(math.Round(100 * max(0, 1-s.Variation/none)))
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

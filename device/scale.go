package device

import (
	"math"
	"math/rand/v2"

	"yardbloom/core/units"
)

// Every is the interval of a scale's readings, s.
const Every = 0.1

// A ScaleStandIn simulates a good kitchen scale: 0.1 g resolution, ten readings a second, a small delay,
// noise, the push of the stream and the shaking of a hand while water falls, swings while the brewer is
// swirled, and a slow drift.
type ScaleStandIn struct {
	noise  float64 // × the ordinary noise
	rng    *rand.Rand
	begun  bool
	tare   bool // tared before the first reading
	lagged float64
	drift  float64
	sway   float64 // swing of a swirled load, g
	zero   float64
}

// NewScaleStandIn returns a scale with a multiple of the ordinary noise. The same seed gives the same
// readings.
func NewScaleStandIn(seed uint64, noise float64) *ScaleStandIn {
	return &ScaleStandIn{noise: noise, rng: rand.New(rand.NewPCG(seed, 2))}
}

// A Load is the load on a scale at a moment.
type Load struct {
	Grams  units.Grams
	Stream float64 // falling water, g/s
	Swirl  bool    // the brewer is being swirled
}

// Tare tares the scale.
func (s *ScaleStandIn) Tare() { s.zero, s.tare = s.lagged+s.drift, !s.begun }

// Step advances by Every and returns the reading.
func (s *ScaleStandIn) Step(on Load) units.Grams {
	const (
		lag     = 0.25  // s, of the cell and its filter
		push    = 0.15  // s: a stream from a hand's width pushes with 0.15 s of its flow
		ofCell  = 0.06  // g
		ofHand  = 0.35  // g, while water falls
		ofSwirl = 4.0   // g
		wander  = 0.004 // g per step
		turns   = 1.6   // per second
	)
	if !s.begun { // the load when it was switched on
		s.begun, s.lagged = true, float64(on.Grams)
		if s.tare {
			s.zero = s.lagged
		}
	}
	s.lagged += (float64(on.Grams) + push*on.Stream - s.lagged) * (1 - math.Exp(-Every/lag))
	s.drift += wander * s.noise * s.rng.NormFloat64()
	shown := s.lagged + s.drift - s.zero + ofCell*s.noise*s.rng.NormFloat64()
	if on.Stream > 0 {
		shown += ofHand * s.noise * s.rng.NormFloat64()
	}
	if on.Swirl {
		s.sway += 2 * math.Pi * turns * Every
		shown += s.noise * (ofSwirl*math.Sin(s.sway) + s.rng.NormFloat64())
	}
	return units.Grams(units.Round(shown, 1))
}

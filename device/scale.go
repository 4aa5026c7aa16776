package device

import (
	"math"
	"math/rand/v2"

	"yardbloom/core/units"
)

// Every is the time between two readings of a scale, s.
const Every = 0.1

// A ScaleStandIn shows what lies on it as a good kitchen scale does: to 0.1 g, ten times
// a second, a little late, with noise, with the push of the stream and the shaking of a
// hand while water falls, with swings while the brewer is swirled, and drifting a little.
type ScaleStandIn struct {
	noise  float64 // × the ordinary
	rng    *rand.Rand
	begun  bool
	tare   bool // it was tared before it had weighed anything
	lagged float64
	drift  float64
	sway   float64 // of what is swirled on it, g
	zero   float64
}

// NewScaleStandIn returns a scale with so many times the ordinary noise, that shows the
// same for the same seed.
func NewScaleStandIn(seed uint64, noise float64) *ScaleStandIn {
	return &ScaleStandIn{noise: noise, rng: rand.New(rand.NewPCG(seed, 2))}
}

// A Load is what is on a scale at a moment.
type Load struct {
	Grams  units.Grams
	Stream float64 // of water that falls onto it, g/s
	Swirl  bool    // what stands on it is turned
}

// Tare makes what lies on the scale count as nothing.
func (s *ScaleStandIn) Tare() { s.zero, s.tare = s.lagged+s.drift, !s.begun }

// Step lets Every pass and returns what the scale shows.
func (s *ScaleStandIn) Step(on Load) units.Grams {
	const (
		lag     = 0.25  // s, of the cell and its filter
		push    = 0.15  // s: a stream that falls a hand's breadth pushes with 0.15 s of its flow
		ofCell  = 0.06  // g
		ofHand  = 0.35  // g, while water falls
		ofSwirl = 4.0   // g
		wander  = 0.004 // g in each step
		turns   = 1.6   // a second
	)
	if !s.begun { // what lay on it when it was turned on
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

// Package device says what the app asks of the things that stand on a bench (a scale, a
// kettle, a refractometer), talks to them over an open protocol, and ships simulated
// stand-ins that behave like the real ones, down to a hand that pours.
package device

import (
	"hash/fnv"
	"math/rand/v2"

	"yardbloom/core/units"
)

// A RefractometerStandIn reads like a good hand-held one: to 0.01 %, repeating to 0.02 %,
// a little off as a whole for the day's temperature, and with a bad drop one time in twelve:
// a bubble, or a sample that was not stirred.
type RefractometerStandIn struct {
	strength float64
	rng      *rand.Rand
}

// NewRefractometerStandIn has a sample of a strength, %, in front of it. The same name gives the
// same readings, of which the first ones were taken already.
func NewRefractometerStandIn(name string, strength float64, taken int) *RefractometerStandIn {
	const ofTheDay = 0.015 // %
	h := fnv.New64a()
	h.Write([]byte(name))
	s := &RefractometerStandIn{rng: rand.New(rand.NewPCG(h.Sum64(), 1))}
	s.strength = strength + ofTheDay*s.rng.NormFloat64()
	for range taken {
		s.Read()
	}
	return s
}

// Read takes a fresh drop and returns its TDS, %.
func (s *RefractometerStandIn) Read() float64 {
	const repeats, badDrops = 0.02, 1. / 12
	v := s.strength + repeats*s.rng.NormFloat64()
	if s.rng.Float64() < badDrops {
		v += 0.2 + 0.2*s.rng.Float64()
	}
	return units.Round(max(0, v), 2)
}

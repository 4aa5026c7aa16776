// Package device defines how the app uses a scale, a kettle and a refractometer, talks to them over an open
// protocol, and provides simulated stand-ins, including a hand that pours.
package device

import (
	"hash/fnv"
	"math/rand/v2"

	"yardbloom/core/units"
)

// A RefractometerStandIn reads like a good hand-held refractometer: to 0.01 %, with a repeatability of 0.02
// %, a constant offset for the day's temperature, and one outlier in twelve from a bubble or an unstirred
// sample.
type RefractometerStandIn struct {
	strength float64
	rng      *rand.Rand
}

// NewRefractometerStandIn returns a refractometer with a sample of a strength, %. The same name gives the
// same sequence of readings, of which it skips the first taken ones.
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

// Read measures a fresh drop and returns its TDS, %.
func (s *RefractometerStandIn) Read() float64 {
	const repeats, badDrops = 0.02, 1. / 12
	v := s.strength + repeats*s.rng.NormFloat64()
	if s.rng.Float64() < badDrops {
		v += 0.2 + 0.2*s.rng.Float64()
	}
	return units.Round(max(0, v), 2)
}

package sim

import "math"

// Agitation is a number without a unit: 0 in a still bed, about 0.2 under a usual
// pour, 1 in a stirred one. It speeds extraction (1 + agitation), wets dry
// pockets and, summed over time, moves fines into the pores.
const (
	calming    = 9.0  // s: how fast a bed comes to rest
	pourStirs  = 0.42 // under a 5 g/s stream from 10 cm onto a bed without water
	streamRate = 5e-3 // kg/s
	deepWater  = 0.02 // m of water over the bed that halve what a stream stirs
)

// stir moves the agitation on by a step, under a stream of rate kg/s from a
// height of fall m into water that stands above m over the bed.
func (r *runner) stir(dt, rate, fall, above float64) {
	goal := 0.0
	if rate > 0 {
		goal = pourStirs * rate / streamRate * (0.6 + 4*fall) / (1 + above/deepWater)
	}
	r.agitation += (goal - r.agitation) * (1 - math.Exp(-dt/calming))
	r.stirred += r.agitation * dt
}

package sim

import "math"

// What grounds hold, kg of water per kg of dose.
const (
	insideGrains = 1.15 // taken up into the grains
	betweenFull  = 1.20 // between them in a saturated bed: porosity × bed volume per dose
	betweenHeld  = 0.85 // of that, what stays when the bed has drained: 2.0 with the grains
	uptakeTime   = 4.0  // s: how fast a wetted grain fills
	bedDensity   = 330. // kg of dose per m³ of settled wet bed
	// firstDrip: nothing leaves until the bed has taken up this share of what it
	// holds, however little of it is wetted yet.
	firstDrip   = 0.85
	leastWetted = 0.7
)

// wet moves the wetted share of the grounds on by a step. A fast part follows
// the water poured so far: two times the dose wets about 0.71 of a bed, three
// times 0.84. The rest is reached over tens of seconds, slower with more gas,
// which keeps the water out, and faster while the bed is stirred.
func (r *runner) wet(dt float64) {
	const (
		perDose  = 0.62 // 1 − exp(−0.62 × 3) = 0.84
		spread   = 3.0  // s: the fast part takes a moment
		slow     = 45.0 // s, rested coffee
		gasDelay = 1.2  // × slow, at full gas
		stirHelp = 6.0
	)
	fast := 1 - math.Exp(-perDose*r.poured/r.dose)
	if fast > r.wetted {
		r.wetted += (fast - r.wetted) * (1 - math.Exp(-dt/spread))
	}
	if r.poured > 0 {
		tau := slow * (1 + gasDelay*r.brew.Coffee.Gas) / (1 + stirHelp*r.agitation)
		r.wetted += (1 - r.wetted) * (1 - math.Exp(-dt/tau))
	}
}

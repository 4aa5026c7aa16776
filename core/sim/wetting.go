package sim

// What grounds hold, kg of water per kg of dose.
const (
	insideGrains = 1.15 // taken up into the grains: their own porosity of about one half, and what they swell
	betweenFull  = 1.20 // between them in a saturated bed: porosity × bed volume per dose, 0.40 / 0.33
	betweenHeld  = 0.85 // of that, what stays when the bed has drained, so that spent grounds hold the 2.0 g/g that is weighed
	uptakeTime   = 4.0  // s: water moves half the depth of a 650 µm grain in some seconds
	bedDensity   = 330. // kg of dose per m³ of settled wet bed: 18 g stand 55 ml high
	// firstDrip: nothing leaves until the bed has taken up this share of what it
	// holds, however little of it is wetted yet: with a bloom of three times the
	// dose the first drop falls after about ten seconds.
	firstDrip   = 0.85
	leastWetted = 0.7
)

// A Pattern is the path of the stream over the bed: how evenly it covers it, 0
// to 1, and which share of it falls near the wall.
type Pattern struct{ Even, Wall float64 }

// wet moves the wetted share of the grounds on by a step. A fast part follows
// the water poured so far, as far as it was poured evenly: in a rested coffee two
// times the dose in a spiral wets about 0.72 of a bed, three times 0.86. The rest
// is reached over a minute, faster while the bed is stirred. Gas keeps the water
// out of both.
func (r *runner) wet(dt float64) {
	// Set so that a bloom of 30 to 120 s adds half a point to a point of yield.
	const (
		perDose   = 0.65 // 1 − exp(−0.65 × 3) = 0.86
		gasShield = 0.35 // × less of it at full gas
		spread    = 3.0  // s: the fast part takes a moment
		slow      = 60.0 // s, rested coffee
		gasDelay  = 1.5  // × slower at full gas
		stirHelp  = 6.0  // per unit of agitation: a stir wets what is left in about a tenth of the time
	)
	fast := passed(perDose * (1 - gasShield*r.brew.Coffee.Gas) * r.spread / r.dose)
	if fast > r.wetted {
		r.wetted += (fast - r.wetted) * passed(dt/spread)
	}
	if r.poured > 0 {
		tau := slow * (1 + gasDelay*r.brew.Coffee.Gas) / (1 + stirHelp*r.agitation)
		r.wetted += (1 - r.wetted) * passed(dt/tau)
	}
}

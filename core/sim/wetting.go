package sim

import "math"

// What grounds hold, kg of water per kg of dose.
const (
	insideGrains = 1.15 // taken up into the grains: their own porosity of about one half, and what they swell
	betweenFull  = 1.20 // between them in a saturated bed: porosity × bed volume per dose, 0.40 / 0.33
	betweenHeld  = 0.88 // of that, what stays when the bed has drained, so that spent grounds hold the 2.0 g/g that is weighed
	uptakeTime   = 38.  // s, rested: air must leave a grain for water to come in
	uptakeGas    = 1.0  // × slower at full gas
	bedDensity   = 330. // kg of dose per m³ of settled wet bed: 18 g stand 55 ml high
	// firstDrip: nothing leaves until the bed has taken up this share of what it
	// holds, however little of it is wetted yet: with a bloom of three times the
	// dose the first drop falls after about fifteen seconds.
	firstDrip   = 0.74
	leastWetted = 0.7
)

// A Pattern is the path of the stream over the bed: how evenly it covers it, 0
// to 1, and which share of it falls near the wall.
type Pattern struct{ Even, Wall float64 }

// Clumps are grounds that the bloom did not reach: dry pockets with their own
// solids. None of these figures is measured; they are set together, to what practice
// reports of a bloom's amount and of stirring it (docs/model.md).
const (
	clumpsMost  = 0.46 // share of the dose that a trace of water leaves dry
	clumpsPer   = 0.46 // per g of bloom per g of dose: 1× leaves three tenths of a rested coffee dry, 3× an eighth
	gasClumps   = 0.8  // × more at full gas
	gasShield   = 0.15 // × less of it at full gas
	bloomMost   = 4.0  // g/g: more than the bed can hold runs past what is dry
	frontDepth  = 0.35 // g/g that wet what the water passes
	frontTime   = 3.0  // s: the front takes a moment
	opensAlone  = 200. // s in which most clumps open by themselves, rested
	opensWashed = 21.  // g/g of liquid past them that opens most
	gasDelay    = 1.0  // × slower at full gas
	stirHelp    = 1.5  // × faster per unit of agitation
	pocketBlock = 0.5  // conducting area that dry pockets take, per share of the dose
)

// reaches is the share of the grounds that a bloom of x g per g reaches.
func reaches(x, gas float64) float64 {
	dry := clumpsMost * (1 + gasClumps*gas) * math.Exp(-clumpsPer*min(x, bloomMost)*(1-gasShield*gas))
	return passed(x/frontDepth) * (1 - dry)
}

// wet moves the wetted share of the grounds on by a step. A front follows the first
// pour, as far as it was poured evenly; what it leaves dry opens slowly, or by a hand.
func (r *runner) wet(dt float64) {
	if front := reaches(r.bloom/r.dose, r.brew.Coffee.Gas); front > r.wetted {
		r.wetted += (front - r.wetted) * passed(dt/frontTime)
	}
	if r.poured > 0 {
		r.reached += dt
		passes := r.through * (1 - r.laneFlow()) / (1 - laneShare) / r.dose // beside the lane, g per g of dose
		slower := (1 + stirHelp*r.agitation) / (1 + gasDelay*r.brew.Coffee.Gas)
		r.wetted += (1 - r.wetted) * passed((dt/opensAlone+passes/opensWashed)*slower)
		r.wetted += (1 - r.wetted) * r.opens
	}
	r.opens = 0
	const worthIt = 1e-3 // of the dose: less waits for a later step
	if r.wetted-r.opened > worthIt {
		r.open(r.wetted - r.opened)
	}
}

// open lets a share of the dose that was dry take part: its solids come to the grains
// that are extracted.
func (r *runner) open(share float64) {
	r.opened += share
	for k := range r.column {
		col := &r.column[k]
		var add [families][classes]float64
		for f := range families {
			for c := range classes {
				add[f][c] = share * r.brew.Coffee.Soluble * r.dose * col.share / float64(col.n) * familyShare[f] * r.classShare[c]
			}
		}
		for i := range col.n {
			s := &col.layers[i].solids
			for f := range families {
				for c := range classes {
					s[f][c] += add[f][c]
				}
			}
		}
	}
}

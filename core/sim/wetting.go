package sim

import "math"

// The liquid retained by the grounds, kg of water per kg of dose.
const (
	insideGrains = 1.15 // in the grains: their porosity of about one half, and swelling
	betweenFull  = 1.20 // between them in a saturated bed: porosity × bed volume per dose, 0.40 / 0.33
	betweenHeld  = 1.03 // of that, the part left in a drained bed, so that spent grounds retain the measured 2.0 g/g
	uptakeTime   = 38.  // s, rested: air must leave a grain before water enters
	uptakeGas    = 1.0  // × slower at full gas
	bedDensity   = 330. // kg of dose per m³ of settled wet bed: 18 g are 55 ml
	// firstDrip: nothing drains until the bed has taken up this share of its capacity, for any wetted
	// share. With a bloom of three times the dose the first drop falls after about fifteen seconds.
	firstDrip   = 0.67
	leastWetted = 0.7
)

// A Pattern is the path of the stream over the bed: its evenness, 0 to 1, and the share near the wall.
// Soft is the share of the stream's momentum that a screen takes.
type Pattern struct{ Even, Wall, Soft float64 }

// Clumps are dry pockets that the bloom did not reach, with their own solids. None of these figures is
// measured; they are set together, to match what practitioners report about bloom amounts and stirring
// (docs/model.md).
const (
	clumpsMost  = 0.275 // share of the dose that a small amount of water leaves dry
	clumpsPer   = 0.20  // per g of bloom per g of dose: 1× leaves 0.23 of a rested coffee dry, 3× 0.15
	gasClumps   = 0.8   // × more at full gas
	gasShield   = 0.15  // × less of it at full gas
	bloomMost   = 4.0   // g/g: water above the capacity of the bed bypasses the dry pockets
	frontDepth  = 0.35  // g/g that wet the grounds along the water's path
	frontTime   = 3.0   // s: delay of the front
	opensAlone  = 500.  // s in which most clumps open by themselves, rested
	opensWashed = 50.   // g/g of liquid past them that opens most
	gasDelay    = 1.0   // × slower at full gas
	stirHelp    = 5.0   // × faster per unit of agitation
	pocketBlock = 0.35  // conducting area blocked by dry pockets, per share of the dose

	// Coffee that is added to water floats: its core stays dry until it is stirred, and no stream drives fines down to the
	// paper. Reports of both differ; the sizes are those of about a point of yield and half a minute.
	raftClumps = 1.5 // × more dry grounds
	looserRaft = 1.6 // × the permeability
)

// clumps returns the share of the grounds that a bloom of x g per g leaves dry.
func clumps(x, gas float64) float64 {
	return clumpsMost * (1 + gasClumps*gas) * math.Exp(-clumpsPer*min(x, bloomMost)*(1-gasShield*gas))
}

// wet advances the wetted share of the grounds by a step. A front follows the first pour, weighted by its
// evenness, and leaves dry pockets behind; these open slowly, or by a hand.
func (r *runner) wet(dt float64) {
	x := r.bloom / r.dose
	if front := passed(x / frontDepth); front > r.front {
		r.front += (front - r.front) * passed(dt/frontTime)
	}
	if r.poured > 0 {
		r.reached += dt
		passes := r.through * (1 - r.laneFlow()) / (1 - laneShare) / r.dose // beside the lane, g per g of dose
		slower := (1 + stirHelp*r.agitation) / (1 + gasDelay*r.brew.Coffee.Gas)
		r.pockets += (1 - r.pockets) * passed((dt/opensAlone+passes/opensWashed)*slower)
		r.pockets += (1 - r.pockets) * r.opens
	}
	dry := clumps(x, r.brew.Coffee.Gas)
	if r.brew.WaterFirst {
		dry = min(0.9, raftClumps*dry)
	}
	r.wetted = max(r.wetted, r.front*(1-dry*(1-r.pockets)))
	r.opens = 0
	const worthIt = 1e-3 // of the dose: smaller amounts wait for a later step
	if r.wetted-r.opened > worthIt && !r.flowOnly {
		r.open(r.wetted - r.opened)
	}
}

// open adds a share of the dose that was dry: its solids join the grains that extract.
func (r *runner) open(share float64) {
	r.opened += share
	for k := range r.column {
		col := &r.column[k]
		var add [families][classes]float64
		for f := range r.mixture.kinds {
			for c := range classes {
				add[f][c] = share * r.brew.Coffee.Soluble * r.dose * col.share / float64(col.n) * r.composition(c)[f] * r.classShare[c]
			}
		}
		for i := range col.n {
			s := &col.layers[i].solids
			for f := range r.mixture.kinds {
				for c := range classes {
					s[f][c] += add[f][c]
				}
			}
		}
	}
}

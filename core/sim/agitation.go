package sim

// Agitation is dimensionless: 0 in a still bed, about 0.2 under a usual pour, 1 in a stirred one. It opens
// dry pockets, mixes bed and slurry and, integrated over time, moves fines into the pores. It has almost no
// effect inside a grain.
//
// While it lasts, the usual stream from 10 cm stirs as much as a swirl does at once.
const (
	calming    = 9.0  // s: a swirled slurry is at rest after about two of these
	pourStirs  = 0.42 // under the usual stream, onto a bed without water
	streamRate = 5e-3 // kg/s: the usual stream
	deepWater  = 0.02 // depth of water, m, that halves the effect of a stream: a jet of 6 mm breaks up within about three diameters
)

// A Motion is the effect of a hand action on the bed. Agitation is added at once. Opens is the share of the
// dry pockets that it opens, Levels the share of grooves and mounds that it smooths, Clears the share of
// loose fines that it throws onto a ribbed wall, where they clog nothing, with enough water over the bed.
type Motion struct{ Agitation, Opens, Levels, Clears float64 }

func (m Motion) check() error {
	return inRanges([]bound{{"agitation", m.Agitation, strengths}, {"opens", m.Opens, shares}, {"levels", m.Levels, shares},
		{"clears", m.Clears, shares}})
}

// stir advances the agitation by a step, under a stream into water of depth above m over the bed.
func (r *runner) stir(dt float64, s stream, above float64) {
	goal := 0.0
	if s.rate > 0 && !r.brew.WaterFirst { // the coffee comes after the water
		// pourStirs is stated for a fall of 10 cm. Its momentum alone gives 0.3 of that.
		goal = pourStirs * s.rate / streamRate * (1 - s.soft) * (0.3 + 7*s.fall) / (1 + above/deepWater)
	}
	r.agitation += (goal - r.agitation) * passed(dt/calming)
	r.stirred += r.agitation * dt
}

// hands applies the motions that are due, with water of depth above m over the bed.
func (r *runner) hands(above float64) {
	if r.then != (Motion{}) {
		r.do(r.then, above)
		r.then = Motion{}
	}
	for r.hand < len(r.brew.Hands) && float64(r.brew.Hands[r.hand].At) <= r.t {
		r.do(r.brew.Hands[r.hand].Motion, above)
		r.hand++
	}
}

func (r *runner) do(m Motion, above float64) {
	const deepEnough = 0.03 // m of water over the bed: enough for a surface stir not to touch it
	r.agitation += m.Agitation
	r.opens = 1 - (1-r.opens)*(1-m.Opens)
	r.groove *= 1 - m.Levels
	if r.brew.Brewer.Ribbed {
		r.stirred *= 1 - m.Clears*min(1, above/deepEnough)
	}
}

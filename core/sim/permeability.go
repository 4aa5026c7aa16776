package sim

import "math"

const porosity = 0.40 // of the settled bed: loosely packed grains of many sizes

// permeability of the bed, m², by Kozeny (1927) and Carman (1937):
//
//	k = d32² ε³ / (180 (1 − ε)²)
//
// A bed that settled in still water is packed more loosely than a poured one.
func (g Grind) permeability(settled bool) float64 {
	const looser = 1.7 // ×: fitted to a steeper of 18 g at 650 µm that drains in a minute and a half
	d := g.sauter()
	k := d * d * porosity * porosity * porosity / (180 * (1 - porosity) * (1 - porosity))
	if settled {
		k *= looser
	}
	if g.Flow > 0 {
		k *= g.Flow
	}
	return k
}

// clogged is the relative permeability after stirring, which moves fines into the pores of bed and paper,
// more so where a cone gathers them at its apex.
func (r *runner) clogged() float64 {
	const clogging = 0.09 // 1/s at a fines share of one: a strong stir slows a cone with 10 % fines by about a seventh
	return 1 / (1 + clogging*r.brew.Brewer.Clogging*r.brew.Grind.Fines*r.stirred)
}

// gasBlocks returns the share of the bed's conducting area that gas bubbles block, reached s after the
// first water.
func gasBlocks(gas, reached float64) float64 {
	const (
		most = 0.35 // of the area, at full gas
		time = 60.0 // s: most of the gas leaves within one or two minutes
	)
	return most * gas * math.Exp(-reached/time)
}

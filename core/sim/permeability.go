package sim

import "yardbloom/core/units"

// The sizes. Boulders come in three sizes around the median, with the shares of
// a lognormal distribution cut in three; fines are of one size.
const (
	finesSize = 25.5e-6 // m, surface-weighted: what is seen under 100 µm is mostly smaller
	porosity  = 0.40    // of the settled bed: loosely packed grains of many sizes
)

var (
	boulderSizes  = [3]float64{0.55, 1.0, 1.55} // × median
	boulderShares = [3]float64{0.25, 0.45, 0.30}
)

// boulder returns the size of a boulder class, m. With less spread the three
// sizes draw together.
func (g Grind) boulder(i int) float64 {
	return float64(g.Median) * 1e-6 * (1 + (boulderSizes[i]-1)*g.Spread)
}

// sauter is the surface-weighted mean diameter of boulders and fines together,
// m (Sauter 1928): 1/d32 = Σ φi/di. Fines rule it, though they weigh little.
func (g Grind) sauter() float64 {
	inverse := g.Fines / finesSize
	for i, share := range boulderShares {
		inverse += (1 - g.Fines) * share / g.boulder(i)
	}
	return 1 / inverse
}

// Sauter is the size of even grains that would let water through as this grind does.
func (g Grind) Sauter() units.Micrometres { return units.Micrometres(g.sauter() * 1e6) }

// permeability of the bed, m², by Kozeny (1927) and Carman (1937):
//
//	k = d32² ε³ / (180 (1 − ε)²)
//
// Stirring moves fines into the pores of bed and paper: stirred is the
// accumulated agitation (agitation.go), s.
func (g Grind) permeability(stirred float64) float64 {
	const clogging = 0.09 // 1/s at a fines share of one: from how much a strong stir slows a bed with 10 % fines, about a seventh
	d := g.sauter()
	k := d * d * porosity * porosity * porosity / (180 * (1 - porosity) * (1 - porosity))
	return k / (1 + clogging*g.Fines*stirred)
}

package sim

import (
	"math"

	"yardbloom/core/units"
)

// Boulders are log-normally distributed around their median, like sieved grinds, and modelled as five sizes
// of a fifth of their mass each: the medians of the fifths, at e^(z·width). Fines have one size.
const (
	finesSize = 23.6e-6 // m, surface-weighted: most particles under 100 µm are smaller. Fitted to the base case's drawdown
	width     = 0.50    // standard deviation of ln(size) at a spread of 1: usual for burrs; ± 0.1
	sizes     = 5
)

var sizeAt = [sizes]float64{-1.2816, -0.5244, 0, 0.5244, 1.2816} // z: the normal quantiles at 0.1, 0.3, 0.5, 0.7, 0.9

// boulder returns the size of a fifth of the boulders, m.
func (g Grind) boulder(i int) float64 {
	return float64(g.Median) * 1e-6 * math.Exp(sizeAt[i]*width*g.Spread)
}

// sauter is the surface-weighted mean diameter of boulders and fines together, m (Sauter 1928): 1/d32 = Σ
// φi/di. Fines dominate it despite their small mass.
func (g Grind) sauter() float64 {
	inverse := g.Fines / finesSize
	for i := range sizes {
		inverse += (1 - g.Fines) / sizes / g.boulder(i)
	}
	return 1 / inverse
}

// Sauter returns the size of uniform grains with the same permeability.
func (g Grind) Sauter() units.Micrometres { return units.Micrometres(g.sauter() * 1e6) }

// The content of a sphere of radius R with a clean surface after a time t is a series (Crank 1975, 6.20):
// 6/π² Σ e^(−n²π²Dt/R²)/n². It is approximated by two modes: the first term, and one for all the others.
// The error is below 0.08, and below 0.04 after two seconds; a single linear driving force is off by 0.2
// for most of a bloom.
const modes = 2

var (
	modeShare = [modes]float64{0.608, 0.392}
	modeRate  = [modes]float64{math.Pi * math.Pi, 77.3} // × D/R²
)

// A pace is a share of the boulders' content, with its rate per diffusivity, 1/m².
type pace struct{ share, rate float64 }

// boulderStates is the number of paces for the modes of all sizes.
const boulderStates = 6

// paces returns the modes of all sizes, fastest first, merged into a few: neighbours with the most similar
// rates become one, at their geometric mean. at maps each mode of each size to its pace.
func (g Grind) paces() (out [boulderStates]pace, at [sizes][modes]int) {
	const count = sizes * modes
	var all [count]pace
	var order, ends [count]int // modes sorted by rate; for each group, the index after its last
	for i := range count {
		radius := g.boulder(i/modes) / 2
		all[i] = pace{modeShare[i%modes] / sizes, modeRate[i%modes] / (radius * radius)}
		order[i], ends[i] = i, i+1
	}
	for i := 1; i < count; i++ { // insertion sort of ten, without allocating
		for j := i; j > 0 && all[order[j]].rate > all[order[j-1]].rate; j-- {
			order[j], order[j-1] = order[j-1], order[j]
		}
	}
	var group [count]pace
	for i, m := range order {
		group[i] = all[m]
	}
	for n := count; n > boulderStates; n-- {
		near, least := 0, math.Inf(1)
		for i := range n - 1 {
			if gap := math.Log(group[i].rate/group[i+1].rate) * (group[i].share + group[i+1].share); gap < least {
				near, least = i, gap
			}
		}
		a, b := group[near], group[near+1]
		share := a.share + b.share
		group[near] = pace{share, math.Exp((a.share*math.Log(a.rate) + b.share*math.Log(b.rate)) / share)}
		ends[near] = ends[near+1]
		copy(group[near+1:n-1], group[near+2:n])
		copy(ends[near+1:n-1], ends[near+2:n])
	}
	from := 0
	for i := range boulderStates {
		out[i] = group[i]
		for _, m := range order[from:ends[i]] {
			at[m/modes][m%modes] = i
		}
		from = ends[i]
	}
	return out, at
}

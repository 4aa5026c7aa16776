package sim

import (
	"math"

	"yardbloom/core/units"
)

// Boulders are spread log-normally around their median, as sieved grinds are, and
// stand in the model as five sizes of a fifth of their mass each: the medians of
// the fifths, at e^(z·width). Fines are of one size.
const (
	finesSize = 26.08e-6 // m, surface-weighted: what is seen under 100 µm is mostly smaller. Fitted to the base case's drawdown
	width     = 0.50     // standard deviation of ln(size) at a spread of 1: usual for burrs; ± 0.1
	sizes     = 5
)

var sizeAt = [sizes]float64{-1.2816, -0.5244, 0, 0.5244, 1.2816} // z: the normal quantiles at 0.1, 0.3, 0.5, 0.7, 0.9

// boulder returns the size of a fifth of the boulders, m.
func (g Grind) boulder(i int) float64 {
	return float64(g.Median) * 1e-6 * math.Exp(sizeAt[i]*width*g.Spread)
}

// sauter is the surface-weighted mean diameter of boulders and fines together,
// m (Sauter 1928): 1/d32 = Σ φi/di. Fines rule it, though they weigh little.
func (g Grind) sauter() float64 {
	inverse := g.Fines / finesSize
	for i := range sizes {
		inverse += (1 - g.Fines) / sizes / g.boulder(i)
	}
	return 1 / inverse
}

// Sauter is the size of even grains that would let water through as this grind does.
func (g Grind) Sauter() units.Micrometres { return units.Micrometres(g.sauter() * 1e6) }

// What a sphere of radius R with a clean surface still holds after a time t is a
// series (Crank 1975, 6.20): 6/π² Σ e^(−n²π²Dt/R²)/n². Two modes stand for it: the
// first term as it is, and one for all the others. They stay within 0.08 of the
// series, and within 0.04 after two seconds; one linear driving force is 0.2 behind it for most of a bloom.
const modes = 2

var (
	modeShare = [modes]float64{0.608, 0.392}
	modeRate  = [modes]float64{math.Pi * math.Pi, 77.3} // × D/R²
)

// A pace is a share of what the boulders hold, and its rate per diffusivity, 1/m².
type pace struct{ share, rate float64 }

// boulderStates is how many paces stand for the modes of all sizes.
const boulderStates = 6

// paces are the modes of all sizes, the fastest first, merged into a few: neighbours
// whose rates differ least become one, at their geometric mean. at says where each
// mode of each size went.
func (g Grind) paces() (out [boulderStates]pace, at [sizes][modes]int) {
	const count = sizes * modes
	var all [count]pace
	var order, ends [count]int // of the modes by rate; of each group, one past its last
	for i := range count {
		radius := g.boulder(i/modes) / 2
		all[i] = pace{modeShare[i%modes] / sizes, modeRate[i%modes] / (radius * radius)}
		order[i], ends[i] = i, i+1
	}
	for i := 1; i < count; i++ { // ten of them, without allocating
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

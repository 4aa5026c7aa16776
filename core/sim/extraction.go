package sim

import "math"

// Families of solubles: they differ in how fast they move and how steeply that
// rises with temperature. The split is the model's least certain part.
const (
	bright = iota // acids and fruit: small molecules, fast
	sweet
	bitter
	families
)

// Classes of solubles by where they sit: fines and the broken outermost cells
// give theirs up at once, boulders of three sizes through diffusion.
const (
	fastClass = iota
	smallBoulders
	middleBoulders
	largeBoulders
	classes
)

var (
	familyShare  = [families]float64{0.33, 0.45, 0.22} // of all solubles
	familySpeed  = [families]float64{1.55, 1.0, 0.55}  // × diffusivity
	familyEnergy = [families]float64{27e3, 30e3, 35e3} // J/mol, activation energy of diffusion in the grain
)

const (
	diffusivity = 4.6e-11 // m²/s in a wet grain at 93 °C
	reference   = 93.0    // °C
	gasConstant = 8.314   // J/(mol K)
	fastRate    = 0.12    // 1/s: washing from broken cells
	cellDepth   = 10e-6   // m: how deep the outermost broken cells reach
	extractAgit = 1.7     // (1 + extractAgit × agitation) on every rate
)

// fastShare of the solubles sits in fines and in the outermost cells: the fines
// themselves, and of each boulder the shell of one cell's depth, 3·depth/radius.
func (g Grind) fastShare() float64 {
	shell := 0.0
	for i, share := range boulderShares {
		shell += share * min(1, 3*cellDepth/(g.boulder(i)/2))
	}
	return g.Fines + (1-g.Fines)*shell
}

// rates fills in, per class and family, the share of what drives it that moves
// in a step: 1 − exp(−κ dt), with Glueckauf's linear driving force
// κ = 15 D / R² for a boulder of radius R, and Arrhenius' law for D.
func (r *runner) rates(dt float64) {
	kelvin := r.celsius + 273.15
	speed := r.brew.Coffee.Rate * (1 + extractAgit*r.agitation) * r.wetted * dt
	for f := range families {
		arrhenius := math.Exp(familyEnergy[f] / gasConstant * (1/(reference+273.15) - 1/kelvin))
		r.moves[fastClass][f] = -math.Expm1(-fastRate * arrhenius * speed)
		d := diffusivity * familySpeed[f] * arrhenius
		for c := smallBoulders; c < classes; c++ {
			r.moves[c][f] = -math.Expm1(-15 * d / r.radius2[c] * speed)
		}
	}
}

// dissolve exchanges solubles between the grains of each layer and the liquid
// around them: dm/dt = κ (m − V C), m in the grain, V the liquid inside it, C
// outside. C is taken at the end of the step, so that nothing overshoots.
func (r *runner) dissolve() {
	if r.layerWater <= 0 {
		return
	}
	inside := r.inside / float64(r.n)
	for f := range families {
		var draw float64
		for c := range classes {
			draw += r.moves[c][f] * r.classShare[c]
		}
		draw *= inside
		for i := range r.n {
			l := &r.layers[i]
			var give float64
			for c := range classes {
				give += r.moves[c][f] * l.solids[c][f]
			}
			conc := (l.dissolved[f] + give) / (r.layerWater + draw)
			moved := 0.0
			for c := range classes {
				d := r.moves[c][f] * (l.solids[c][f] - inside*r.classShare[c]*conc)
				l.solids[c][f] -= d
				moved += d
			}
			l.dissolved[f] += moved
		}
	}
}

// dispersion is how far the liquid spreads along the bed, as a share of its
// height: grains, and a cone's uneven paths. Upwind differences spread too, by
// half a layer and half a step's travel; that much is taken off, so that what
// spreads is the bed and not the arithmetic.
const dispersion = 1. / 13

// advect carries dissolved solubles down the bed: q0 kg of slurry enter at the
// top in this step, each layer's water grows by dW, and what leaves the last
// layer goes to the cup. It is implicit, and one tridiagonal sweep serves
// each family.
func (r *runner) advect(q0, dW float64) (out [families]float64) {
	n := r.n
	w := r.layerWater // after the step
	if w <= 0 {
		return out
	}
	courant := max(q0, 0) / w
	spread := max(0, dispersion*float64(n)-0.5*(1+courant)) // × q, between layers
	// (w + q_i + e_{i−1} + e_i) C_i − (q_{i−1} + e_{i−1}) C_{i−1} − e_i C_{i+1} = dissolved_i
	q := func(i int) float64 { return q0 - float64(i)*dW } // through the top of layer i
	for i := range n {
		up, down := q(i), q(i+1)
		eUp, eDown := 0.0, 0.0
		if i > 0 {
			eUp = spread * max(up, 0)
		}
		if i < n-1 {
			eDown = spread * max(down, 0)
		}
		r.low[i], r.diag[i], r.high[i] = -(max(up, 0) + eUp), w+max(down, 0)+eUp+eDown, -eDown
	}
	for i := 1; i < n; i++ {
		m := r.low[i] / r.diag[i-1]
		r.diag[i] -= m * r.high[i-1]
		r.fold[i] = m
	}
	for f := range families {
		for i := range n {
			r.rhs[i] = r.layers[i].dissolved[f]
		}
		if r.slurry > 0 && q0 > 0 {
			r.rhs[0] += q0 * r.slurrySolids[f] / (r.slurry + q0)
		}
		for i := 1; i < n; i++ {
			r.rhs[i] -= r.fold[i] * r.rhs[i-1]
		}
		r.rhs[n-1] /= r.diag[n-1]
		for i := n - 2; i >= 0; i-- {
			r.rhs[i] = (r.rhs[i] - r.high[i]*r.rhs[i+1]) / r.diag[i]
		}
		before, after := 0.0, 0.0
		for i := range n {
			before += r.layers[i].dissolved[f]
			r.layers[i].dissolved[f] = r.rhs[i] * w
			after += r.layers[i].dissolved[f]
		}
		entered := 0.0
		if r.slurry > 0 && q0 > 0 {
			entered = q0 * r.slurrySolids[f] / (r.slurry + q0)
			r.slurrySolids[f] -= entered
		}
		out[f] = before + entered - after // what left, so that the books close to the last bit
		if q(n) <= 0 || out[f] < 0 {      // nothing leaves: the rounding stays in the bed
			r.layers[n-1].dissolved[f] += out[f]
			out[f] = 0
		}
	}
	return out
}

// mix exchanges liquid between the slurry and each layer: with a closed valve
// and while stirred, grounds and slurry are one.
func (r *runner) mix(dt float64, closed bool) {
	const still, stirred = 1. / 60, 1. / 6 // 1/s: closed and still; per unit of agitation
	rate := stirred * max(0, r.agitation-0.3)
	if closed {
		rate = still + stirred*r.agitation
	}
	if rate <= 0 || r.slurry <= 1e-4 || r.layerWater <= 0 {
		return
	}
	share := -math.Expm1(-rate * dt)
	for f := range families {
		all := r.slurrySolids[f]
		for i := range r.n {
			all += r.layers[i].dissolved[f]
		}
		even := all / (r.slurry + r.layerWater*float64(r.n))
		left := all
		for i := range r.n {
			d := &r.layers[i].dissolved[f]
			*d += share * (even*r.layerWater - *d)
			left -= *d
		}
		r.slurrySolids[f] = left
	}
}

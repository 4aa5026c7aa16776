package sim

import "math"

// Families of solubles. They differ in diffusivity and in its temperature dependence. The split is the
// least certain part of the model.
const (
	bright = iota // acids and fruit: small molecules, fast
	sweet
	bitter
	families
)

// Classes of solubles by location: fines and broken outer cells extract at once, boulders at six rates by
// diffusion, and a share is bound to the solids and leaves slowly.
const (
	fastClass = iota
	firstBoulder
	boundClass = firstBoulder + boulderStates
	classes    = boundClass + 1
)

// A mixture is a division of the solubles into families.
type mixture struct {
	kinds int
	share [families]float64 // of all solubles
	speed [families]float64 // × diffusivity
	// energy is the activation energy of diffusion in the grain, J/mol.
	energy [families]float64
	// bound is the composition of the bound share: large and hardly soluble molecules stay with the solids. So the last
	// part of an outflow is the most bitter one, as people report.
	bound [families]float64
}

var (
	// threeFamilies are acids and small sugars; the rest; melanoidins and bitter phenols. Diffusivity falls with about the cube
	// root of a molecule's mass.
	threeFamilies = mixture{3, [families]float64{0.33, 0.45, 0.22}, [families]float64{1.55, 1.0, 0.55}, [families]float64{27e3, 30e3, 35e3},
		[families]float64{0.15, 0.40, 0.45}}
	// oneFamily extracts like the three together, within 0.2 points, and its differences within a tenth; see RunLumped.
	oneFamily = mixture{1, [families]float64{1}, [families]float64{1}, [families]float64{30e3}, [families]float64{1}}
)

const (
	// diffusivity in a wet grain at 93 °C, m²/s: a seventh of that in water, because of the cell walls.
	// Fitted to the first minutes of a steep; ± 15 %.
	diffusivity = 3.6e-10
	reference   = 93.0  // °C
	gasConstant = 8.314 // J/(mol K)
	fastRate    = 0.13  // 1/s: broken cells are washed out in about ten seconds
	cellDepth   = 10e-6 // m: half a cell of a roasted bean is cut open at each surface
	extractAgit = 0.05  // (1 + extractAgit × agitation) on every rate, agitation up to 1: the film has a fiftieth of a grain's resistance

	// A closed steep levels off at the same TDS × ratio, whatever the ratio (Liang, Chan and Ristenpart 2021): about
	// three quarters of the solubles dissolve in all of the liquid, and the rest stays with the solids until fresher
	// water than that of a wide steep passes them. The share follows from that level, rate and limit are fitted to the
	// yields of percolations.
	boundShare = 0.255
	boundRate  = 1.0 / 125 // 1/s at 93 °C, into clean water
	freshLimit = 0.009     // kg of solubles per kg of liquid, from which on nothing bound leaves: a steep of 1 : 25
)

// shell is the share of a boulder within one cell depth of its surface: 3·depth/radius.
func (g Grind) shell(i int) float64 { return min(1, 3*cellDepth/(g.boulder(i)/2)) }

// fastShare returns the share of the free solubles in fines and in the outermost cells of boulders.
func (g Grind) fastShare() float64 {
	shells := 0.0
	for i := range sizes {
		shells += g.shell(i) / sizes
	}
	return g.Fines + (1-g.Fines)*shells
}

// composition returns the shares of the families in a class; those of all classes together are the mixture's.
func (r *runner) composition(class int) [families]float64 {
	if class == boundClass {
		return r.mixture.bound
	}
	return r.free
}

// shareOut divides the solubles among the classes and sets the rates of the boulders.
func (r *runner) shareOut() {
	for f := range r.mixture.kinds {
		r.free[f] = (r.mixture.share[f] - r.bound*r.mixture.bound[f]) / (1 - r.bound)
		r.fresh[f] = freshLimit * r.free[f]
	}
	fast := r.brew.Grind.fastShare()
	paces, _ := r.brew.Grind.paces()
	r.classShare[fastClass], r.classShare[boundClass] = (1-r.bound)*fast, r.bound
	for i, p := range paces {
		r.classShare[firstBoulder+i], r.pace[i] = (1-r.bound)*(1-fast)*p.share, p.rate
	}
}

// rates computes, per class and family, the fraction of the driving difference that is exchanged in a step:
// 1 − exp(−κ dt), with κ = rate · D for the boulders, and Arrhenius' law for D.
func (r *runner) rates(dt float64) {
	kelvin := r.celsius + 273.15
	speed := r.brew.Coffee.Rate * (1 + extractAgit*min(1, r.agitation)) * dt
	// Solubles in parts of a grain that water has not reached cannot leave it.
	soaked := r.inside / (insideGrains * r.dose * max(r.wetted, 1e-6))
	for f := range r.mixture.kinds {
		arrhenius := math.Exp(r.mixture.energy[f] / gasConstant * (1/(reference+273.15) - 1/kelvin))
		r.moves[f][fastClass] = passed(fastRate * arrhenius * speed)
		r.moves[f][boundClass] = passed(boundRate * r.mixture.speed[f] * arrhenius * speed * soaked)
		d := diffusivity * r.mixture.speed[f] * arrhenius * speed * soaked
		for i, rate := range r.pace {
			r.moves[f][firstBoulder+i] = passed(rate * d)
		}
	}
}

// dissolve exchanges solubles between the grains of each layer and the liquid around them: dm/dt = κ (m −
// V C), m in the grain, V the liquid inside it, C outside. For the bound share dm/dt = κ m (1 − C/limit), while C is below
// the limit. C is the mean of the concentrations at the ends of the step (Crank and Nicolson 1947), whose error falls with
// the square of the step; at the beginning, with little water around the grains, it is the one at the end.
func (r *runner) dissolve() {
	for k := range r.column {
		if col := &r.column[k]; col.water > 0 {
			r.dissolveIn(col)
		}
	}
}

func (r *runner) dissolveIn(col *column) {
	part := col.share / float64(col.n)
	free := r.inside * part / (1 - r.bound)
	// Per family: the uptake of each class per unit of concentration, and the sum.
	var draws [families][boundClass]float64
	var draw, per, late [families]float64
	for f := range r.mixture.kinds {
		for c := range boundClass {
			draws[f][c] = r.moves[f][c] * free * r.classShare[c]
			draw[f] += draws[f][c]
		}
		late[f] = 0.5
		if draw[f] > col.water {
			late[f] = 1
		}
		per[f] = 1 / (col.water + late[f]*draw[f])
	}
	perWater := 1 / col.water
	for i := range col.n {
		l := &col.layers[i]
		for f := range r.mixture.kinds {
			// Unrolled: a run spends most of its time here.
			m, s, d := &r.moves[f], &l.solids[f], &draws[f]
			g0, g1, g2, g3 := m[0]*s[0], m[1]*s[1], m[2]*s[2], m[3]*s[3]
			g4, g5, g6 := m[4]*s[4], m[5]*s[5], m[6]*s[6]
			give := ((g0 + g1) + (g2 + g3)) + ((g4 + g5) + g6)
			was := l.dissolved[f] * perWater
			early := 1 - late[f]
			rest := l.dissolved[f] + give - early*draw[f]*was
			conc := late[f]*rest*per[f] + early*was
			if limit := r.fresh[f]; conc < limit {
				g7 := m[boundClass] * s[boundClass]
				end := (rest + g7 - early*g7/limit*was) / (col.water + late[f]*(draw[f]+g7/limit))
				conc = late[f]*end + early*was
				g7 *= 1 - conc/limit
				s[boundClass] -= g7
				give += g7
			}
			s[0], s[1], s[2], s[3] = s[0]-g0+d[0]*conc, s[1]-g1+d[1]*conc, s[2]-g2+d[2]*conc, s[3]-g3+d[3]*conc
			s[4], s[5], s[6] = s[4]-g4+d[4]*conc, s[5]-g5+d[5]*conc, s[6]-g6+d[6]*conc
			l.dissolved[f] += give - draw[f]*conc
		}
	}
}

// dispersion is the length over which the liquid spreads along the bed, relative to its height, by grains
// and by a cone's uneven paths. Upwind differences add numerical dispersion of half a layer and half a
// step's travel, which is subtracted.
//
// A thirteenth is a Péclet number of 13 over the bed, usual for a few centimetres of irregular grains.
const dispersion = 1. / 13

// carry is advect in two steps where the flow is fast, because the numerical dispersion of a step grows with its travel.
func (r *runner) carry(col *column, in, mass, grow float64) (out [families]float64) {
	const fast = 1.0 // layers in a step
	after := col.water
	if in < fast*after || after <= grow {
		return r.advect(col, in, mass, grow)
	}
	col.water = after - grow/2
	out = r.advect(col, in/2, mass, grow/2)
	col.water = after
	for f, more := range r.advect(col, in/2, mass-in/2, grow/2) {
		out[f] += more
	}
	return out
}

// advect carries dissolved solubles down a column: in kg of the slurry's mass kg enter at the top in this
// step, each layer's water grows by grow, and the outflow of the last layer goes to the cup. It is
// implicit: one tridiagonal system, of which only the right-hand side differs between the families.
func (r *runner) advect(col *column, in, mass, grow float64) (out [families]float64) {
	n, w := col.n, col.water // after the step
	if w <= 0 || in == 0 && grow == 0 {
		return out
	}
	r.eliminate(n, in, grow, w)
	var before, after, entered, above, below [families]float64
	if mass > 0 && in > 0 {
		for f := range r.mixture.kinds {
			entered[f] = min(1, in/mass) * r.slurrySolids[f]
			r.slurrySolids[f] -= entered[f]
		}
	}
	layers, rhs, fold, high, inverse := col.layers[:n], r.rhs[:n], r.fold[:n], r.high[:n], r.inverse[:n]
	above = entered
	for i := range layers {
		d := &layers[i].dissolved
		for f := range r.mixture.kinds {
			before[f] += d[f]
			passes := -fold[i] * above[f]
			if i == 0 {
				passes = entered[f]
			}
			above[f] = d[f] + passes
			rhs[i][f] = above[f]
		}
	}
	for i := n - 1; i >= 0; i-- {
		d := &layers[i].dissolved
		for f := range r.mixture.kinds {
			below[f] = (rhs[i][f] - high[i]*below[f]) * inverse[i]
			d[f] = below[f] * w
			after[f] += d[f]
		}
	}
	leaves := in-float64(n)*grow > 0
	for f := range r.mixture.kinds {
		out[f] = before[f] + entered[f] - after[f] // the outflow, so that mass is conserved to rounding
		if !leaves || out[f] < 0 {                 // no outflow: rounding errors stay in the bed
			col.layers[n-1].dissolved[f] += out[f]
			out[f] = 0
		}
	}
	return out
}

// eliminate sets up the rows of advect's system
//
//	(w + q_i + e_{i−1} + e_i) C_i − (q_{i−1} + e_{i−1}) C_{i−1} − e_i C_{i+1} = dissolved_i
//
// and eliminates their lower diagonal: q_i is the flow through the bottom of layer i, e_i the exchange
// across it.
func (r *runner) eliminate(n int, in, grow, w float64) {
	courant := max(in, 0) / w
	spread := max(0, dispersion*float64(n)-0.5*(1+courant)) // × q
	fold, high, inverse := r.fold[:n], r.high[:n], r.inverse[:n]
	fold[0] = 0
	q := max(in, 0)
	e := 0.0
	for i := range fold {
		down := max(in-float64(i+1)*grow, 0)
		low := -(q + e)
		diagonal := w + down + e
		e = 0
		if i < n-1 {
			e = spread * down
		}
		diagonal += e
		if i > 0 {
			fold[i] = low * inverse[i-1]
			diagonal -= fold[i] * high[i-1]
		}
		high[i], inverse[i] = -e, 1/diagonal
		q = down
	}
}

// mix exchanges liquid between the slurry and each layer, while the valve is closed and while stirred.
func (r *runner) mix(dt float64, closed bool) {
	const still, stirred = 1. / 14, 1. / 12 // 1/s: closed and still, by convection; per unit of agitation
	rate := stirred * max(0, r.agitation-0.3)
	if closed {
		rate = still + stirred*r.agitation
	}
	if rate <= 0 || r.slurry <= 1e-4 || r.between <= 0 {
		return
	}
	share := passed(rate * dt)
	for f := range r.mixture.kinds {
		all := r.slurrySolids[f]
		for k := range r.column {
			for i := range r.column[k].n {
				all += r.column[k].layers[i].dissolved[f]
			}
		}
		even := all / (r.slurry + r.between)
		left := all
		for k := range r.column {
			for i := range r.column[k].n {
				d := &r.column[k].layers[i].dissolved[f]
				*d += share * (even*r.column[k].water - *d)
				left -= *d
			}
		}
		r.slurrySolids[f] = left
	}
}

package sim

// A Filter is what the water leaves through.
type Filter struct {
	Resistance float64 // of the wetted paper, 1/m
	Clings     bool    // heavy paper that lies against the wall: nothing passes beside the bed
}

// drain is the volume flow out of the brewer in m³/s under a head of h metres:
//
//	Q = ρ g h / (μ (∫dz/A / k + R_paper / A_wet) + R_outlet)
//
// Darcy's law (1856) through the bed, in series with the paper and the outlet.
func (r *runner) drain(h float64) float64 {
	if h <= 0 {
		return 0
	}
	bed := r.bedResistance / (r.permeability * r.clogged() * r.conductance())
	return r.rho * gravity * h / (viscosity(r.celsius)*(bed+r.paperResistance) + r.brew.Brewer.Outlet)
}

// bypass is the share of the flow that leaves through the wall without passing
// the bed. It grows with the height of water above the bed, which has only the
// paper between itself and the ribs. Paper that clings to the wall lets nothing past.
func (r *runner) bypass(above float64) float64 {
	const (
		reference = 0.03 // m: the height at which Brewer.Bypass is stated
		most      = 0.4  // of the flow: the paper passes no more, however high the water stands
	)
	if r.brew.Filter.Clings {
		return 0
	}
	return min(r.brew.Brewer.Bypass*above/reference, most)
}

// leave is what goes out in a step of dt s, kg: past the bed, through it from the
// slurry, and out of the bed itself once nothing stands over it. held is what a
// drained bed keeps between its grains.
func (r *runner) leave(dt, level, above, held float64) (past, through, drained float64) {
	if r.slurry > 0 {
		q := r.drain(level) * r.rho * dt
		past = q * r.bypass(above)
		through = q - past
		if q > r.slurry {
			past, through = past*r.slurry/q, through*r.slurry/q
		}
		if q <= r.slurry {
			return past, through, 0
		}
		dt *= 1 - r.slurry/q // the rest of the step drains the bed
	}
	room := r.between - held
	full := (r.full - r.held) * r.dose * r.wetted
	if room <= 0 || full <= 0 {
		return past, through, 0
	}
	head := r.bedHeight * min(1, room/full)
	return past, through, min(room, r.drain(head)*r.rho*dt)
}

package sim

import "math"

// A Filter is a filter of paper, cloth or metal.
type Filter struct {
	Resistance float64 // of the wetted paper, 1/m
	Sealing    bool    // thick paper that seals against the wall: no bypass
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
	paper := r.paperResistance * (1 + r.brew.Unlike.FinesLayer*r.brew.Grind.Fines*r.ran/r.dose)
	return r.rho * gravity * h / (viscosity(r.celsius)*(bed+paper) + r.brew.Brewer.Outlet)
}

// bypass is the share of the flow that leaves through the wall without passing the bed, in parallel with it: more of it
// shortens the drawdown. It grows with the height of water above the bed, where only paper separates it from the ribs. Paper
// that clings to the wall has none.
func (r *runner) bypass(above float64) float64 {
	const (
		reference = 0.03 // m: reference height of Brewer.Bypass
		most      = 0.4  // of the flow: the maximum through the paper at any height
	)
	if r.brew.Filter.Sealing {
		return 0
	}
	height := above / reference
	if power := r.brew.Unlike.BypassPower; power > 0 {
		height = math.Pow(height, power)
	}
	return min(r.brew.Brewer.Bypass*height, most)
}

// leave returns the outflow in a step of dt s, kg: past the bed, through it from the slurry, and from the
// bed itself once no water is over it. held is the liquid retained between the grains of a drained bed.
func (r *runner) leave(dt, level, above, held float64) (past, through, drained float64) {
	if r.slurry > 0 {
		share := r.bypass(above)
		through = r.drain(level) * r.rho * dt
		past = through * share / (1 - share)
		q := through + past
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

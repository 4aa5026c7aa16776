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
// Darcy's law through the bed, in series with the paper and the outlet.
func (r *runner) drain(h float64) float64 {
	if h <= 0 {
		return 0
	}
	mu := viscosity(r.celsius)
	bed := r.bedResistance / r.brew.Grind.permeability(r.stirred)
	return r.rho * gravity * h / (mu*(bed+r.paperResistance) + r.brew.Brewer.Outlet)
}

// bypass is the share of the flow that leaves through the wall without passing
// the bed. It grows with the height of water above the bed, which has only the
// paper between itself and the ribs, and with what an uneven bed lets past.
func (r *runner) bypass(above float64) float64 {
	const (
		reference = 0.03 // m: the height at which Brewer.Bypass is stated
		most      = 0.4
		dryPaths  = 0.35 // share of the flow along dry pockets and channels, per share of bed not wetted
	)
	b := dryPaths * (1 - r.wetted)
	if !r.brew.Filter.Clings {
		b += r.brew.Brewer.Bypass * above / reference
	}
	return min(b, most)
}

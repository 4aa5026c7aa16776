package forecast

import "yardbloom/core/coffee"

// The properties of a coffee shift the permeability of its bed at one setting of a grinder. Brittle beans, from dark roasting or
// decaffeination, break into more fines; dense ones too, and their grains swell more. The shifts are small against the spread of
// 0.18 between bags (Priors), which measured brews narrow down. Gas acts separately, while it leaves (sim.Coffee).
var (
	flowByRoast   = map[coffee.Roast]float64{coffee.MediumDark: -0.03, coffee.Dark: -0.06}
	flowByProcess = map[coffee.Process]float64{coffee.Natural: -0.03, coffee.Decaf: -0.08}
)

const (
	usualDensity   = 375.0   // g/l of loosely filled roasted beans
	flowPerDensity = -0.0006 // per g/l
)

// flowOf returns ln of the permeability of a coffee's bed relative to an ordinary coffee's.
func flowOf(b coffee.Bag) float64 {
	out := flowByRoast[b.Roast] + flowByProcess[b.Process]
	if b.Density > 0 {
		out += flowPerDensity * max(-60, min(60, b.Density-usualDensity))
	}
	return out
}

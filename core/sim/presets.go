package sim

import (
	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// Brewers by kind, in a small and a large size, of plastic. Outlets are resistances for water at 90 °C: a
// large hole passes 40 g/s under 5 cm, small ones 12, a valve 10. An open cone's ribs pass a quarter of the
// flow with 3 cm of water over the bed. Heat and contact are those of walls of 2 to 3 mm, wetted to the usual
// level. They lose about 12 W/(m² K) to the air by free convection and radiation; a steeper, with its lid and
// base, twice that. The minimum bed is that of 11 g in a small open cone, 14 g in a small flat bed or
// heavy-paper cone.
var (
	OpenConeSmall = Brewer{Base: 0.006, Angle: 30, Rim: 0.085, Outlet: 1.2e7, Ribbed: true, Bypass: 0.25, Heat: 90, Contact: 2.4,
		Loss: 0.18, Clogging: 1, MinBed: 0.035}
	OpenConeLarge = Brewer{Base: 0.007, Angle: 30, Rim: 0.100, Outlet: 1.2e7, Ribbed: true, Bypass: 0.25, Heat: 95, Contact: 2.0,
		Loss: 0.21, Clogging: 1, MinBed: 0.038}
	FlatBedSmall = Brewer{Base: 0.026, Angle: 9, Rim: 0.085, Outlet: 4e7, Bypass: 0.03, Heat: 70, Contact: 1.4, Loss: 0.15, Clogging: 0.25,
		MinBed: 0.0175}
	FlatBedLarge = Brewer{Base: 0.031, Angle: 10, Rim: 0.100, Outlet: 4e7, Bypass: 0.03, Heat: 95, Contact: 1.8, Loss: 0.2,
		Clogging: 0.25, MinBed: 0.018}
	HeavyConeSmall = Brewer{Base: 0.008, Angle: 31, Rim: 0.105, Outlet: 1.5e7, Heat: 140, Contact: 2.4, Loss: 0.22, Clogging: 1,
		MinBed: 0.035}
	HeavyConeLarge = Brewer{Base: 0.010, Angle: 31, Rim: 0.125, Outlet: 1.5e7, Heat: 190, Contact: 3.0, Loss: 0.28, Clogging: 1,
		MinBed: 0.036}
	SteeperSmall = Brewer{Base: 0.018, Angle: 28, Rim: 0.095, Outlet: 4.5e7, Ribbed: true, Bypass: 0.03, Heat: 110, Contact: 3.0,
		Loss: 0.55, Lid: true, Clogging: 0.5, MinBed: 0.015}
	SteeperLarge = Brewer{Base: 0.020, Angle: 28, Rim: 0.115, Outlet: 4.5e7, Ribbed: true, Bypass: 0.03, Heat: 150, Contact: 3.6,
		Loss: 0.68, Lid: true, Clogging: 0.5, MinBed: 0.016}
)

// A Material holds the thermal properties of a brewer's walls relative to plastic: heat capacity, heat
// transfer from the slurry, and loss to the air.
type Material struct{ Heat, Contact, Loss float64 }

// Materials by name. Thin metal stores little and conducts well; glass and ceramic are thick, store much
// and lose it slowly to the air.
var Materials = map[gear.Material]Material{
	gear.Plastic: {1, 1, 1},
	gear.Metal:   {1.2, 1.3, 1.5},
	gear.Glass:   {3, 1.15, 1.2},
	gear.Ceramic: {4, 1.15, 1.2},
	gear.Double:  {1.5, 1.15, 0.5}, // only the inner wall is heated, and the air between the walls insulates it
}

// WithCapacity returns the brewer with its rim at a volume of water, ml.
func (b Brewer) WithCapacity(water units.Grams) Brewer {
	b.Rim = b.shape().height(float64(water) * 1e-6)
	return b
}

// Outlets for water at 90 °C: one large hole, and several small ones.
const oneLarge, smallOnes = 1.2e7, 4e7

// WithWall returns the brewer with other ribs: tall ones pass more of the flow beside the bed, a smooth wall hardly any, and the bed
// then drains through its lowest part only.
func (b Brewer) WithWall(r gear.Ribs) Brewer {
	const tall, smooth = 1.4, 0.3 // × the bypass
	switch r {
	case gear.TallRibs:
		b.Ribbed, b.Bypass = true, min(0.5, max(b.Bypass, 0.1)*tall)
	case gear.Smooth:
		b.Ribbed, b.Bypass = false, b.Bypass*smooth
	}
	return b
}

// WithOutlets returns the brewer with other outlets.
func (b Brewer) WithOutlets(o gear.Outlets) Brewer {
	switch o {
	case gear.OneLarge:
		b.Outlet = oneLarge
	case gear.SmallOnes:
		b.Outlet = smallOnes
	}
	return b
}

// WithMaterial returns the brewer in another material.
func (b Brewer) WithMaterial(m Material) Brewer {
	b.Heat, b.Contact, b.Loss = b.Heat*m.Heat, b.Contact*m.Contact, b.Loss*m.Loss
	return b
}

// A Mill holds the properties of a kind of grinder: its share of fines at 650 µm, and the spread of its
// boulders.
type Mill struct{ Fines, Spread float64 }

// Mills by kind. A blade cuts at random: boulders of all sizes and more fines than burrs, though it chops rather than crushes and
// so makes less of the finest dust, which blocks the flow. With a share of 0.13 a cone of 650 µm drains in about five minutes,
// where people report three to six.
var Mills = map[gear.Burrs]Mill{
	gear.FlatBurr:    {0.08, 1},
	gear.ConicalBurr: {0.10, 1},
	gear.HandMill:    {0.09, 1},
	gear.Blade:       {0.13, 1.3},
	gear.Bought:      {0.09, 1},
}

// Grind returns the size distribution at a median size. The share of fines is proportional to 650 µm over
// the size.
func (m Mill) Grind(median units.Micrometres) Grind {
	const at, most = 650, 0.35
	return Grind{Median: median, Fines: min(most, m.Fines*at/float64(median)), Spread: m.Spread}
}

// Filters by kind: the resistance of the wetted filter.
var Filters = map[gear.FilterKind]Filter{
	gear.StandardPaper:   {Resistance: 4e8},
	gear.ThickPaper:      {Resistance: 4.5e8, Sealing: true},
	gear.FastPaper:       {Resistance: 1.8e8},
	gear.CorrugatedPaper: {Resistance: 7e8},
	gear.Cloth:           {Resistance: 3e8},
	gear.Mesh:            {Resistance: 0.3e8},
}

// The patterns of a pour.
var (
	Centre  = Pattern{Even: 0.60, Wall: 0}
	Circles = Pattern{Even: 0.90, Wall: 0.05}
	Spiral  = Pattern{Even: 1, Wall: 0.15}
	Ring    = Pattern{Even: 0.85, Wall: 0.60}
	// Scatter is a stream that falls apart into drops: even, with little momentum where it lands.
	Scatter = Pattern{Even: 0.95, Wall: 0.25, Soft: 0.6}
	// Screen is any pour through a dispersing screen: even, and with little of its momentum.
	Screen = Pattern{Even: 1, Wall: 0.05, Soft: 0.7}
)

// The motions of a hand. A swirl levels best. A needle reaches the dry pockets through the whole depth and
// leaves tracks. Washing grounds down the wall stirs hardly at all. A surface stir affects only the water on top and throws fines onto the wall.
var (
	Tap         = Motion{Agitation: 0.15, Opens: 0.10, Levels: 0.4}
	Swirl       = Motion{Agitation: 0.45, Opens: 0.25, Levels: 0.8}
	Stir        = Motion{Agitation: 0.80, Opens: 0.65, Levels: 0.5}
	NeedleStir  = Motion{Agitation: 0.60, Opens: 0.90, Levels: 0.6}
	WashWall    = Motion{Agitation: 0.10, Opens: 0.05, Levels: 0.1}
	SurfaceStir = Motion{Agitation: 0.20, Opens: 0.05, Levels: 0.2, Clears: 0.25}
)

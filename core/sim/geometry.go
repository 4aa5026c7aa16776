package sim

import (
	"math"

	"yardbloom/core/units"
)

// A Brewer holds the geometry and the thermal properties of a brewer. A cone has an Angle; a flat bed is a
// slightly widening cylinder, modelled as a cone of small angle on a wide base, so that one set of formulas
// serves both.
type Brewer struct {
	Base          float64 // radius at the outlet, m
	Angle         float64 // half angle of the wall to the axis, degrees
	Rim           float64 // height of the rim over the outlet, m
	Outlet        float64 // resistance of the outlet, Pa·s/m³
	Ribbed        bool    // the lower half of the bed drains through the wall
	Bypass        float64 // share of the flow past the bed, with 3 cm of water above it
	Heat          float64 // heat capacity, J/K
	Contact       float64 // heat passed from slurry to brewer, W/K
	Loss          float64 // heat passed from brewer to air, W/K
	Lid           bool    // covers the water
	ExtraRetained float64 // additional liquid in a drained bed, kg per kg of dose
	Clogging      float64 // × clogging by loose fines: a cone gathers them at its apex, a flat bed spreads them
	MinBed        float64 // m: a lower bed is thin, and water bypasses the grounds
	Blocked       float64 // share of the flow of one side that a collapsed ridge or a blocked outlet keeps back
}

func (b Brewer) check() error {
	return inRanges([]bound{
		{"brewer.base", b.Base, units.Range{Lo: 0.002, Hi: 0.08}}, {"brewer.angle", b.Angle, units.Range{Lo: 0.5, Hi: 50}},
		{"brewer.rim", b.Rim, units.Range{Lo: 0.03, Hi: 0.3}}, {"brewer.outlet", b.Outlet, units.Range{Lo: 0, Hi: 1e10}},
		{"brewer.bypass", b.Bypass, units.Range{Lo: 0, Hi: 0.5}}, {"brewer.heat", b.Heat, units.Range{Lo: 5, Hi: 3000}},
		{"brewer.contact", b.Contact, units.Range{Lo: 0, Hi: 50}}, {"brewer.loss", b.Loss, units.Range{Lo: 0, Hi: 20}},
		{"brewer.gathers", b.Clogging, strengths}, {"brewer.keeps", b.ExtraRetained, units.Range{Lo: -0.5, Hi: 1}},
		{"brewer.minbed", b.MinBed, units.Range{Lo: 0, Hi: 0.1}}, {"brewer.blocked", b.Blocked, shares},
	})
}

// A shape is a brewer's inside: a frustum of radius r(z) = r0 + z·tan(angle).
type shape struct{ r0, tan float64 }

func (b Brewer) shape() shape {
	return shape{b.Base, math.Tan(b.Angle * math.Pi / 180)}
}

// volume up to a height z, m³: π/(3 tan) · ((r0 + z tan)³ − r0³).
func (s shape) volume(z float64) float64 {
	r := s.r0 + z*s.tan
	return math.Pi / (3 * s.tan) * (r*r*r - s.r0*s.r0*s.r0)
}

// height of a volume v, m: the inverse of volume, in closed form.
func (s shape) height(v float64) float64 {
	return (math.Cbrt(3*s.tan*v/math.Pi+s.r0*s.r0*s.r0) - s.r0) / s.tan
}

// area of the surface at a height z, m².
func (s shape) area(z float64) float64 {
	r := s.r0 + z*s.tan
	return math.Pi * r * r
}

// wall is the area of the wall up to a height z, m²: the lateral surface of the frustum and its base,
// against which the paper rests.
func (s shape) wall(z float64) float64 {
	r := s.r0 + z*s.tan
	slant := z * math.Sqrt(1+s.tan*s.tan)
	return math.Pi*(s.r0+r)*slant + math.Pi*s.r0*s.r0
}

// resistance is ∫ dz / A(z) over a bed of height z, 1/m, in closed form: (1/(π tan)) · (1/r_low −
// 1/r_high). With a ribbed wall, the lower half of the bed drains sideways into the ribs, so it counts with
// the area at half height and the apex does not limit the flow.
func (s shape) resistance(z float64, ribbed bool) float64 {
	over := func(a, b float64) float64 {
		return (1/(s.r0+a*s.tan) - 1/(s.r0+b*s.tan)) / (math.Pi * s.tan)
	}
	if !ribbed {
		return over(0, z)
	}
	return z/2/s.area(z/2) + over(z/2, z)
}

// Radius returns the inner radius at a height z over the outlet, m.
func (b Brewer) Radius(z float64) float64 { return b.Base + z*b.shape().tan }

// Volume returns the volume up to a height of z m over the outlet, ml.
func (b Brewer) Volume(z float64) float64 { return b.shape().volume(z) * 1e6 }

// BedHeight returns the height of the settled wet bed of a dose over the outlet, m.
func (b Brewer) BedHeight(dose units.Grams) float64 {
	return b.shape().height(float64(dose) / 1000 / bedDensity)
}

// MinDose returns the smallest dose whose bed is not thin, g.
func (b Brewer) MinDose() units.Grams {
	return units.Grams(1000 * bedDensity * b.shape().volume(b.MinBed))
}

package sim

import (
	"math"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// Below is the carafe under the brewer, ice in it, and water added to the cup at the end. The zero Below
// has no mass and absorbs no heat.
type Below struct {
	Heat     float64       // heat capacity of the carafe, J/K
	Loss     float64       // heat passed from it to the air, W/K
	Warm     units.Celsius // of the carafe before the brew
	Ice      Ice
	Dilution units.Grams   // water added to the cup at the end
	Added    units.Celsius // temperature of that water
	// Discard is the first part of the outflow, which is not collected. CutAt is the brew in the carafe at which the brewer is
	// lifted off; 0 means at the end. The bed drains all the same.
	Discard, CutAt units.Grams
}

// Ice is ice, part of which may have melted.
type Ice struct {
	Mass    units.Grams
	Celsius units.Celsius // −18 from a deep freezer, 0 from an ice machine
	Wet     float64       // share of the mass that is water at 0 °C
}

const (
	heatOfIce = 2100.0  // J/(kg K), near −10 °C
	fusion    = 334.0e3 // J/kg
)

func (b Below) check() error {
	return inRanges([]bound{
		{"below.heat", b.Heat, units.Range{Lo: 0, Hi: 3000}}, {"below.loss", b.Loss, units.Range{Lo: 0, Hi: 20}},
		{"below.warm", float64(b.Warm), brewerWarms}, {"below.ice.mass", float64(b.Ice.Mass), units.Range{Lo: 0, Hi: 2000}},
		{"below.ice.celsius", float64(b.Ice.Celsius), units.Range{Lo: -40, Hi: 0}}, {"below.ice.wet", b.Ice.Wet, shares},
		{"below.dilution", float64(b.Dilution), units.Range{Lo: 0, Hi: 2000}},
		{"below.added", float64(b.Added), units.Range{Lo: 0, Hi: 100}},
		{"below.discard", float64(b.Discard), units.Range{Lo: 0, Hi: 1000}}, {"below.cutat", float64(b.CutAt), units.Range{Lo: 0, Hi: 2000}},
	})
}

// enthalpy of the ice, J, above liquid water at 0 °C: negative.
func (i Ice) enthalpy() float64 {
	return float64(i.Mass) / 1000 * (1 - i.Wet) * (heatOfIce*float64(i.Celsius) - fusion)
}

// enthalpy of everything below before the brew, J.
func (b Below) enthalpy() float64 { return b.Heat*float64(b.Warm) + b.Ice.enthalpy() }

// settle returns the temperature of water kg and a carafe of heat J/K with an enthalpy of h J above liquid
// water at 0 °C, and the part of the water that is ice, kg. It assumes a stirred cup in equilibrium.
func settle(h, water, heat float64) (celsius, ice float64) {
	switch frozen := -fusion * water; {
	case water+heat <= 0:
		return 0, 0
	case h >= 0:
		return h / (water*heatOfWater + heat), 0
	case h >= frozen:
		return 0, -h / fusion
	default:
		return (h - frozen) / (water*heatOfIce + heat), water
	}
}

// collect takes a step's outflow of water kg with carried J and its solids, and lets the carafe lose heat.
func (r *runner) collect(dt, water, carried float64, solids [families]float64) {
	kept := r.keeps(water)
	r.ran += water
	for f := range r.mixture.kinds {
		r.out[f] += solids[f]
		r.cup[f] += kept * solids[f]
	}
	r.cupWater += kept * water
	r.cupHeat += kept * carried
	r.carried += carried
	r.lost += (1 - kept) * carried
	lost := r.brew.Below.Loss * (r.cupCelsius - float64(r.brew.Ambient)) * dt
	r.cupHeat -= lost
	r.lost += lost
	r.settleCup()
}

// keeps returns the share of a step's outflow of water kg that is collected.
func (r *runner) keeps(water float64) float64 {
	b := &r.brew.Below
	if water <= 0 || b.Discard == 0 && b.CutAt == 0 {
		return 1
	}
	from, to := float64(b.Discard)/1000, math.Inf(1)
	if b.CutAt > 0 {
		to = from + float64(b.CutAt)/1000
	}
	return max(0, min(r.ran+water, to)-max(r.ran, from)) / water
}

// settleCup computes the temperature of the cup and its remaining ice.
func (r *runner) settleCup() {
	r.cupCelsius, r.cupIce = settle(r.cupHeat, r.cupWater+r.below, r.brew.Below.Heat)
	if r.cupWater+r.below+r.brew.Below.Heat <= 0 {
		r.cupCelsius = float64(r.brew.Ambient)
	}
}

// dilute adds the dilution water.
func (r *runner) dilute() {
	b := &r.brew.Below
	water := float64(b.Dilution) / 1000
	r.below += water
	r.cupHeat += water * heatOfWater * float64(b.Added)
	r.heatIn += water * heatOfWater * float64(b.Added)
	r.settleCup()
}

// MeltingIce returns the mass of ice, g, that just melts when the brewed grams at a temperature cool to
// wanted in the carafe below. ice provides the temperature and wetness; its Mass is ignored. The result is
// 0 if the brew is cool enough without ice.
//
//	m (1 − wet) (L + c_ice·(0 − T_ice)) + m c T = M c (T_brew − T) + C (T_carafe − T)
func (b Below) MeltingIce(brewed units.Grams, from, wanted units.Celsius) units.Grams {
	per := b.Ice
	per.Mass = 1000 // of 1 kg
	takes := -per.enthalpy() + heatOfWater*float64(wanted)
	gives := float64(brewed)/1000*heatOfWater*float64(from-wanted) + b.Heat*float64(b.Warm-wanted)
	return units.Grams(max(0, 1000*gives/takes))
}

// Carafes by material. Heat is the mass of a half-litre carafe times its specific heat.
var Carafes = map[gear.Material]Below{
	gear.Plastic: {Heat: 90, Loss: 0.35, Warm: 21}, gear.Glass: {Heat: 170, Loss: 0.6, Warm: 21},
	gear.Ceramic: {Heat: 330, Loss: 0.6, Warm: 21}, gear.Metal: {Heat: 110, Loss: 0.8, Warm: 21},
	gear.Double: {Heat: 120, Loss: 0.3, Warm: 21},
}

package recipe

import (
	"math"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// Two knobs that are one decision to a barista have a knob of their own: Coffee, SameCup and FinerCooler. They are not on the
// Recipe page; a Change of one is a single change.
var jointKnobs = []Knob{Coffee, SameCup, FinerCooler}

// setSameCup changes the ratio at about the same amount in the cup: dose and water both change.
func setSameCup(r Recipe, ratio float64) Recipe {
	cup := float64(r.Total()) - gear.DefaultRetained*float64(r.Dose)
	dose := units.Grams(units.Round(cup/(ratio-gear.DefaultRetained), 1))
	return r.ResizeRounded(dose, dose*units.Grams(ratio))
}

// perDegree is the step of the grind, in µm, that goes with one degree: so the yield hardly changes.
const perDegree = 6.25

// setFinerCooler changes the grind, and the temperature in proportion: finer and cooler, or coarser and hotter.
func setFinerCooler(r Recipe, grind float64) Recipe {
	degrees := math.Round((grind - float64(r.Grind)) / perDegree)
	r = setTemperature(r, temperatures.Clamp(float64(r.Temperature())+degrees))
	r.Grind = units.Micrometres(grind)
	return r
}

// asMuch reports whether two recipes have the same amounts within their rounding.
func (r Recipe) asMuch(o Recipe) bool {
	const dose, water = 0.15, 2.1 // g
	return math.Abs(float64(r.Dose-o.Dose)) < dose && math.Abs(float64(r.Total()-o.Total())) < water
}

// jointChange returns the change of one joint knob that turns one recipe into another, if there is one.
func jointChange(from, to Recipe) (Change, bool) {
	for _, k := range jointKnobs {
		a := AddressOf(k)
		was, is := from.Value(a), to.Value(a)
		if !from.Has(a) || math.Abs(is-was) <= minDifference(a, to) {
			continue
		}
		if next := from.With(a, is); next.asMuch(to) && len(plainChanges(next.ResizeRounded(to.Dose, to.Total()), to)) == 0 {
			return Change{a, was, is}, true
		}
	}
	return Change{}, false
}

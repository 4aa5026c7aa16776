package sim

import (
	"cmp"
	"slices"

	"yardbloom/core/units"
)

// A Fraction is a part of the outflow of a brewer, in the order in which it ran.
type Fraction struct {
	Mass units.Grams // liquid with its solids
	TDS  float64     // %
	// Balance holds the shares of bright, sweet and bitter among its solids; they add up to 1.
	Balance Balance
}

// passage is the outflow so far: water and solids, kg.
type passage struct {
	water  float64
	solids [families]float64
}

func (p passage) mass() float64 {
	return p.water + p.solids[bright] + p.solids[sweet] + p.solids[bitter]
}

// Ran returns the mass of everything that ran out of the brewer, whether it was collected or not.
func (o *Result) Ran() units.Grams {
	if len(o.passed) == 0 {
		return 0
	}
	return units.Grams(1000 * o.passed[len(o.passed)-1].mass())
}

// Fraction returns the part of the outflow between two masses counted from its beginning, interpolated between seconds.
func (o *Result) Fraction(from, to units.Grams) Fraction {
	a, b := o.passage(float64(from)/1000), o.passage(float64(to)/1000)
	var out Fraction
	var solids [families]float64
	all := 0.0
	for f := range families {
		solids[f] = b.solids[f] - a.solids[f]
		all += solids[f]
	}
	mass := b.water - a.water + all
	if mass <= 0 || all <= 0 {
		return out
	}
	out.Mass, out.TDS = units.Grams(1000*mass), 100*all/mass
	out.Balance = Balance{solids[bright] / all, solids[sweet] / all, solids[bitter] / all}
	return out
}

// CarafeAt returns the time at which the carafe holds a mass of brew, with anything else in it; false if it never does.
func (o *Result) CarafeAt(mass units.Grams) (units.Seconds, bool) {
	const rounding = 0.5 // g
	for i, b := range o.Curves.Beverage {
		if b >= float64(mass)-rounding {
			return units.Seconds(float64(i) * Every), true
		}
	}
	return 0, false
}

// Thirds returns the first, middle and last third of the outflow.
func (o *Result) Thirds() (out [3]Fraction) {
	third := o.Ran() / 3
	for i := range out {
		out[i] = o.Fraction(units.Grams(i)*third, units.Grams(i+1)*third)
	}
	return out
}

// passage returns the outflow up to a mass, kg.
func (o *Result) passage(mass float64) passage {
	i, _ := slices.BinarySearchFunc(o.passed, mass, func(p passage, mass float64) int { return cmp.Compare(p.mass(), mass) })
	switch {
	case len(o.passed) == 0:
		return passage{}
	case i == len(o.passed):
		return o.passed[i-1]
	case i == 0:
		return o.passed[0]
	}
	a, b := o.passed[i-1], o.passed[i]
	share := 0.0
	if step := b.mass() - a.mass(); step > 0 {
		share = (mass - a.mass()) / step
	}
	a.water += share * (b.water - a.water)
	for f := range families {
		a.solids[f] += share * (b.solids[f] - a.solids[f])
	}
	return a
}

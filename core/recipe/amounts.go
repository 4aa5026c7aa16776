package recipe

import (
	"fmt"
	"slices"

	"yardbloom/core/units"
)

// Amounts holds the dose and the water in g, the ratio of water to dose, and the beverage in g: water minus
// the liquid retained by the grounds.
type Amounts struct {
	Dose  units.Grams
	Water units.Grams
	Ratio float64
	Cup   units.Grams
}

// FourAmounts lists the amounts. Any two of them determine the others.
func FourAmounts() []Knob { return []Knob{Dose, Water, Ratio, Cup} }

// Get returns one of the four amounts.
func (a Amounts) Get(k Knob) float64 {
	switch k {
	case Dose:
		return float64(a.Dose)
	case Water:
		return float64(a.Water)
	case Ratio:
		return a.Ratio
	default:
		return float64(a.Cup)
	}
}

// Set returns the amounts with one of the four replaced.
func (a Amounts) Set(k Knob, v float64) Amounts {
	switch k {
	case Dose:
		a.Dose = units.Grams(v)
	case Water:
		a.Water = units.Grams(v)
	case Ratio:
		a.Ratio = v
	case Cup:
		a.Cup = units.Grams(v)
	}
	return a
}

// Solve computes all four amounts from the two held ones, by
//
//	ratio = water / dose     cup = water − dose × retained
//
// with retained in g of liquid per g of dose. The values of the other two are ignored. The error of an
// amount outside its range is a *units.ValueError at that amount's address.
func Solve(a Amounts, held [2]Knob, retained float64) (Amounts, error) {
	for _, k := range held {
		if err := checkAmount(k, a); err != nil {
			return a, err
		}
	}
	solve, ok := solvers[pair(held)]
	if !ok {
		return a, fmt.Errorf("cannot solve amounts from %q and %q", held[0], held[1])
	}
	a = solve(a, retained)
	for _, k := range FourAmounts() {
		if err := checkAmount(k, a); err != nil {
			return a, err
		}
	}
	return a, nil
}

type heldPair struct{ a, b Knob }

// pair sorts two knobs into the order used by solvers.
func pair(held [2]Knob) heldPair {
	p := heldPair{held[0], held[1]}
	if _, ok := solvers[p]; ok {
		return p
	}
	return heldPair{held[1], held[0]}
}

var solvers = map[heldPair]func(a Amounts, retained float64) Amounts{
	{Dose, Water}:  func(a Amounts, k float64) Amounts { return amounts(a.Dose, a.Water, k) },
	{Dose, Ratio}:  func(a Amounts, k float64) Amounts { return amounts(a.Dose, a.Dose*units.Grams(a.Ratio), k) },
	{Dose, Cup}:    func(a Amounts, k float64) Amounts { return amounts(a.Dose, a.Cup+a.Dose*units.Grams(k), k) },
	{Water, Ratio}: func(a Amounts, k float64) Amounts { return amounts(a.Water/units.Grams(a.Ratio), a.Water, k) },
	{Water, Cup}:   func(a Amounts, k float64) Amounts { return amounts((a.Water-a.Cup)/units.Grams(k), a.Water, k) },
	{Ratio, Cup}: func(a Amounts, k float64) Amounts {
		dose := a.Cup / units.Grams(a.Ratio-k)
		return amounts(dose, dose*units.Grams(a.Ratio), k)
	},
}

func amounts(dose, water units.Grams, k float64) Amounts {
	return Amounts{Dose: dose, Water: water, Ratio: float64(water / dose), Cup: water - dose*units.Grams(k)}
}

// Hold returns the held amounts after knob k was typed: k and the more recent of the two before. The first
// of the two is the latest.
func Hold(held [2]Knob, k Knob) [2]Knob {
	if k == held[0] {
		return held
	}
	return [2]Knob{k, held[0]}
}

// Weighable rounds the amounts to the resolution of a scale: the dose to 0.1 g, the water to 1 g. If the
// cup is held, the water is recalculated from the rounded dose so that the cup stays.
func (a Amounts) Weighable(held [2]Knob, retained float64) Amounts {
	dose := units.Grams(units.Round(float64(a.Dose), 1))
	if slices.Contains(held[:], Cup) && !slices.Contains(held[:], Water) {
		a.Water = a.Cup + dose*units.Grams(retained)
	}
	return amounts(dose, wholeGrams(a.Water), retained)
}

func checkAmount(k Knob, a Amounts) error { return k.Range().Check(AddressOf(k), a.Get(k)) }

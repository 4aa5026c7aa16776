package recipe

import (
	"fmt"

	"yardbloom/core/units"
)

// A Field names one thing on the recipe that a person can set.
type Field string

// The four amounts. Any two give the rest.
const (
	Dose  Field = "dose"
	Water Field = "water"
	Ratio Field = "ratio"
	Cup   Field = "cup"
)

// Amounts are the dose and the water in g, the ratio of water to dose, and what
// ends up in the cup: water less what the grounds keep, in g.
type Amounts struct {
	Dose  units.Grams
	Water units.Grams
	Ratio float64
	Cup   units.Grams
}

// The amounts that the product can speak for. UsualRatio is where most cups are.
var (
	DoseRange  = units.Range{Lo: 5, Hi: 120}
	WaterRange = units.Range{Lo: 60, Hi: 2000}
	RatioRange = units.Range{Lo: 6, Hi: 25}
	CupRange   = units.Range{Lo: 40, Hi: 1800}
	UsualRatio = units.Range{Lo: 12, Hi: 18}
)

// A FieldError is a value that cannot be brewed, with the field it belongs to
// and a sentence for the person.
type FieldError struct {
	Field    Field
	Sentence string
}

func (e *FieldError) Error() string { return e.Sentence }

// Solve works out all four amounts from the two that are held, by
//
//	ratio = water / dose     cup = water − dose × retained
//
// with retained in g of liquid per g of dose. The held values are taken from
// the argument, the others are replaced. Any amount outside its range is a
// *FieldError on that amount's field.
func Solve(a Amounts, held [2]Field, retained float64) (Amounts, error) {
	for _, f := range held {
		if err := checkAmount(f, a); err != nil {
			return a, err
		}
	}
	solve, ok := solvers[pair(held)]
	if !ok {
		return a, fmt.Errorf("cannot solve amounts from %q and %q", held[0], held[1])
	}
	a = solve(a, retained)
	for _, f := range []Field{Dose, Water, Ratio, Cup} {
		if err := checkAmount(f, a); err != nil {
			fe := err.(*FieldError)
			fe.Sentence = fmt.Sprintf("With this %s and %s it does not work out. %s", held[0], held[1], fe.Sentence)
			return a, fe
		}
	}
	return a, nil
}

type heldPair struct{ a, b Field }

// pair puts two fields into the order in which solvers knows them.
func pair(held [2]Field) heldPair {
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

// Weigh returns the recipe with other amounts, as they can be weighed out: the
// dose to a tenth of a gram, the water to a gram.
func (r Recipe) Weigh(dose, water units.Grams) Recipe {
	r.Dose, r.Water = units.Grams(units.Round(float64(dose), 1)), units.Grams(units.Round(float64(water), 0))
	return r
}

func amounts(dose, water units.Grams, k float64) Amounts {
	return Amounts{Dose: dose, Water: water, Ratio: float64(water / dose), Cup: water - dose*units.Grams(k)}
}

// Hold makes field the latest of the two held amounts and lets the older one
// go. The first of the two is the one touched last.
func Hold(held [2]Field, field Field) [2]Field {
	if field == held[0] {
		return held
	}
	return [2]Field{field, held[0]}
}

func checkAmount(f Field, a Amounts) error {
	var r units.Range
	var v float64
	unit, name := units.Unit{Symbol: "g", Scale: 1, Decimals: 1}, ""
	switch f {
	case Dose:
		r, v, name = DoseRange, float64(a.Dose), "The dose"
	case Water:
		r, v, name = WaterRange, float64(a.Water), "The water"
	case Ratio:
		r, v, name = RatioRange, a.Ratio, "The ratio’s second figure"
		unit.Symbol = ""
	case Cup:
		r, v, name = CupRange, float64(a.Cup), "The cup"
		unit.Symbol = "ml"
	}
	if err := r.Check(name, v, unit); err != nil {
		return &FieldError{f, err.Error()}
	}
	return nil
}

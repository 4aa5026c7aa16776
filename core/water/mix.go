package water

import "yardbloom/core/units"

// A Salt supplies the minerals of a concentrate. All salts are sold food grade.
type Salt struct {
	Name string
	Per  float64 // g of salt equivalent to 1 g of CaCO₃
}

// The salts. For hardness: magnesium sulphate heptahydrate, 246.47 g/mol. For alkalinity: sodium
// bicarbonate, 84.01 g/mol, or potassium bicarbonate, 100.12 g/mol; two bicarbonates count as one
// carbonate.
var (
	Epsom     = Salt{"Epsom salt (magnesium sulphate heptahydrate)", 246.47 / 100.09}
	Soda      = Salt{"baking soda (sodium bicarbonate)", 2 * 84.01 / 100.09}
	Potassium = Salt{"potassium bicarbonate", 2 * 100.12 / 100.09}
)

// Strength is the content of a concentrate, mg of CaCO₃ per g. One gram of it in a litre gives 10 mg/l.
const Strength = 10.0

// A Bottle is the recipe of a concentrate.
type Bottle struct {
	Salt  Salt
	Weigh units.Grams // of the salt
	Into  units.Grams // distilled water
}

// Concentrated returns the bottle for an amount of concentrate in g.
func Concentrated(s Salt, all units.Grams) Bottle {
	salt := units.Grams(units.Round(float64(all)*Strength/1000*s.Per, 2))
	return Bottle{s, salt, all - salt}
}

// A Mix is the recipe of a water, with weights to 0.01 g.
type Mix struct {
	Distilled, Hard, Alkaline units.Grams // distilled water and the two concentrates
	Bottles                   [2]Bottle   // 200 g each, for hardness and for alkalinity
}

// The ranges of a mix.
var (
	MixHardness   = units.Range{Lo: 0, Hi: 300}     // mg/l as CaCO₃
	MixAlkalinity = units.Range{Lo: 0, Hi: 200}     // mg/l as CaCO₃
	MixAmount     = units.Range{Lo: 200, Hi: 20000} // g
)

// MixOf returns the recipe for an amount of water in g with a hardness and an alkalinity, mg/l as CaCO₃,
// from distilled water and concentrates of two salts. A value out of range is a *units.ValueError at
// "hardness", "alkalinity" or "amount".
func MixOf(hardness, alkalinity float64, amount units.Grams, alkaline Salt) (Mix, error) {
	for _, c := range []struct {
		at string
		v  float64
		r  units.Range
	}{{"hardness", hardness, MixHardness}, {"alkalinity", alkalinity, MixAlkalinity}, {"amount", float64(amount), MixAmount}} {
		if err := c.r.Check(units.Place{Name: c.at}, c.v); err != nil {
			return Mix{}, err
		}
	}
	of := func(mg float64) units.Grams {
		return units.Grams(units.Round(mg*float64(amount)/1000/Strength, 2))
	}
	const bottle = 200
	m := Mix{Hard: of(hardness), Alkaline: of(alkalinity), Bottles: [2]Bottle{Concentrated(Epsom, bottle), Concentrated(alkaline, bottle)}}
	m.Distilled = amount - m.Hard - m.Alkaline
	return m, nil
}

// Cautions lists the cautions for mixing water.
var Cautions = []string{
	"Food-grade salts only, weighed to 0.01 g; an error of a gram can be harmful.",
	"Label the bottles with contents and date, keep them cold, and replace them after some weeks.",
	"Start from distilled or deionised water that is sold for drinking. Never brew with water that is not safe to drink.",
	"Where the supply is in doubt, ask a professional; your local rules and your doctor come before a recipe for water.",
}

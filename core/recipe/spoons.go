package recipe

import (
	"math"

	"yardbloom/core/units"
)

// Spoons are the amounts of a recipe for somebody without a scale.
type Spoons struct {
	Level  float64     // level tablespoons of ground coffee, to a half
	Kettle units.Grams // water to the mark of the kettle, to 50 ml
	Off    float64     // how far the ratio may be off, as a share: one standard error
}

// spoonful is what a level tablespoon of 15 ml holds of ground coffee, g: the
// coarser, the looser it lies.
func spoonful(size units.Micrometres) units.Grams {
	const fine, per100 = 5.6, 0.12 // at 400 µm; less for each 100 µm more
	return fine - units.Grams(size-400)/100*per100
}

// BySpoon returns the amounts in tablespoons and kettle marks. How a spoon is filled is
// good to about 12 % (roasts differ in density, and hands in what is level), a mark to 25
// ml, and both are rounded: the ratio is off by what these make together.
func (r Recipe) BySpoon() Spoons {
	const filling, mark = 0.12, 25 / 1.73
	each := spoonful(r.Grind)
	s := Spoons{Level: math.Max(0.5, math.Round(float64(r.Dose/each)*2)/2), Kettle: units.Grams(math.Max(50, math.Round(float64(r.Water())/50)*50))}
	ratio := float64(s.Kettle) / (s.Level * float64(each))
	rounding := ratio/(float64(r.Water()/r.Dose)) - 1
	s.Off = math.Sqrt(filling*filling + math.Pow(mark/float64(s.Kettle), 2) + rounding*rounding)
	return s
}

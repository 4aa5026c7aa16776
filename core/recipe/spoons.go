package recipe

import (
	"math"

	"yardbloom/core/coffee"
	"yardbloom/core/units"
)

// Spoons are the amounts of a recipe for somebody without a scale.
type Spoons struct {
	Level  float64     // level tablespoons of ground coffee, to a half
	Kettle units.Grams // water to the mark of the kettle, to 50 ml
	Off    float64     // standard error of the ratio, as a share
}

// spoonVolume is a level tablespoon, ml.
const spoonVolume = 15

// Spoonful is what a level tablespoon of ground coffee weighs, g: about 6 g of a medium roast
// at 650 µm. Ground coffee lies at about 0.4 g/ml. Roasting puffs the bean up, so each step
// darker weighs 3 % less; coarse grounds leave more air, 2 % for each 100 µm.
func Spoonful(roast coffee.Roast, size units.Micrometres) units.Grams {
	const density, perStep, per100 = 0.4, 0.03, 0.02 // g/ml at a medium roast and 650 µm
	darker := 0.0
	if roast != 0 {
		darker = float64(roast - coffee.Medium)
	}
	return units.Grams(spoonVolume * density * (1 - perStep*darker) * (1 - per100*float64(size-650)/100))
}

// BySpoon returns the amounts in tablespoons and kettle marks. How people fill a level spoon
// is good to about 15 %, a mark to 25 ml, and both are rounded: Off is what these make together.
func (r Recipe) BySpoon(roast coffee.Roast) Spoons {
	const filling, mark = 0.15, 25 / 1.73
	each := Spoonful(roast, r.Grind)
	s := Spoons{Level: math.Max(0.5, math.Round(float64(r.Dose/each)*2)/2), Kettle: units.Grams(math.Max(50, math.Round(float64(r.Water())/50)*50))}
	ratio := float64(s.Kettle) / (s.Level * float64(each))
	rounding := ratio/(float64(r.Water()/r.Dose)) - 1
	s.Off = math.Sqrt(filling*filling + math.Pow(mark/float64(s.Kettle), 2) + rounding*rounding)
	return s
}

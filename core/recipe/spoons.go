package recipe

import (
	"math"

	"yardbloom/core/coffee"
	"yardbloom/core/units"
)

// Spoons holds the amounts of a recipe for brewing without a scale.
type Spoons struct {
	Level  float64     // level tablespoons of ground coffee, to a half
	Kettle units.Grams // water up to a mark of the kettle, to 50 ml
	Error  float64     // relative standard error of the ratio
}

// spoonVolume is the volume of a level tablespoon in ml.
const spoonVolume = 15

// Spoonful returns the weight of a level tablespoon of ground coffee in g: 6 g for a medium
// roast at 650 µm, from a bulk density of about 0.4 g/ml. Roasting expands the bean, so each
// step darker weighs 3 % less; coarser grounds pack more loosely, 2 % less for each 100 µm.
func Spoonful(roast coffee.Roast, size units.Micrometres) units.Grams {
	const density, perStep, per100 = 0.4, 0.03, 0.02 // g/ml at a medium roast and 650 µm
	darker := 0.0
	if roast != 0 {
		darker = float64(roast - coffee.Medium)
	}
	return units.Grams(spoonVolume * density * (1 - perStep*darker) * (1 - per100*float64(size-650)/100))
}

// UsualSpoonful is Spoonful at the usual grind for filter coffee.
func UsualSpoonful(roast coffee.Roast) units.Grams {
	const usual = 650 // µm
	return Spoonful(roast, usual)
}

// spoonFilling is the relative standard error of the weight of a level tablespoon of ground coffee.
const spoonFilling = 0.15

// MugError returns the relative standard error of the ratio if coffee is measured in level tablespoons, and water in mugs that are filled to
// the brim within 15 ml.
func (r Recipe) MugError() float64 {
	const fill = 15
	fills := math.Max(1, float64(r.Water())/units.Mug)
	return math.Hypot(spoonFilling, fill*math.Sqrt(fills)/float64(r.Water()))
}

// Spoons returns the amounts in tablespoons and kettle marks. Off combines the errors of a
// level spoon (15 %), of a kettle mark (25 ml) and of rounding both.
func (r Recipe) Spoons(roast coffee.Roast) Spoons {
	const mark = 25 / 1.73
	each := Spoonful(roast, r.Grind)
	s := Spoons{Level: math.Max(0.5, math.Round(float64(r.Dose/each)*2)/2),
		Kettle: units.Grams(math.Max(50, math.Round(float64(r.Water())/50)*50))}
	ratio := float64(s.Kettle) / (s.Level * float64(each))
	rounding := ratio/(float64(r.Water()/r.Dose)) - 1
	s.Error = math.Sqrt(spoonFilling*spoonFilling + math.Pow(mark/float64(s.Kettle), 2) + rounding*rounding)
	return s
}

package forecast

import (
	"math"

	"yardbloom/core/recipe"
)

// A Versus compares the predictions of two recipes with one coffee and gear.
type Versus struct {
	First, Second Forecast
	Difference    // of the second from the first, with its errors
}

// Compare predicts two recipes and their difference. Errors that both share cancel; half of the difference counts as model error,
// because two ways to pour differ by the hand. The error is a *units.ValueError for a recipe outside the model's range.
func Compare(q Question, first, second recipe.Recipe) (Versus, error) {
	var v Versus
	one, other := q, q
	one.Recipe, other.Recipe = first, second
	if err := v.First.Run(one); err != nil {
		return v, err
	}
	if err := v.Second.Run(other); err != nil {
		return v, err
	}
	v.Difference = *v.Second.minus(v.First)
	v.Difference.sure(one.runSides(), other.runSides(), wrongHand)
	return v, nil
}

// Tasted is how well a difference can be tasted.
type Tasted int

// The degrees of Tasted.
const (
	NotTasted Tasted = iota // too small, by the model
	Perhaps                 // by a careful taster, side by side
	Probably                // by most people, side by side
)

// The differences that most people taste side by side: rules of thumb, since studies with untrained people find about twice as much
// and trained tasters less.
const (
	tastedYield    = 1.0 // points of EY
	tastedStrength = 0.1 // points of TDS
	tastedLean     = 0.02
)

// Tasted returns how well the difference can be tasted: Perhaps from half of what most people taste.
func (d Difference) Tasted() Tasted {
	share := max(math.Abs(d.Yield)/tastedYield, math.Abs(d.Strength)/tastedStrength, math.Abs(d.Lean)/tastedLean)
	switch {
	case share >= 1:
		return Probably
	case share >= 0.5:
		return Perhaps
	}
	return NotTasted
}

// Repeats returns how many brews of each recipe show the difference of yield, measured with a refractometer, at the 95 % level:
//
//	n = 2 (t σ / difference)²
//
// with σ the scatter from brew to brew. It is 0 if more than most are needed.
func (d Difference) Repeats(yield float64, most int) int {
	const t = 2.2 // Student's, for about ten brews
	n := int(math.Ceil(2 * square(t*scatterStrength*yield/d.Yield)))
	if d.Yield == 0 || n > most {
		return 0
	}
	return max(2, n)
}

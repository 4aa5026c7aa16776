package forecast

import (
	"math"

	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A Scaling is a recipe made for another dose or another brewer so that the cup stays
// the same, as far as the model can see.
type Scaling struct {
	Recipe      recipe.Recipe
	Was, Is     Forecast
	OtherStyle  bool // the brewer cannot do the style
	Unreachable bool // no grind gives the yield: this is as near as it comes
}

// Scale returns the recipe of a question for the dose and the gear of another one, at
// the ratio it had, ground so that the model expects the yield of before, and with an
// aim at the drawdown that comes of it. to holds the new gear; its recipe is ignored.
func Scale(q, to Question, dose units.Grams) (Scaling, error) {
	var out Scaling
	if err := out.Was.Ask(q); err != nil {
		return out, err
	}
	to.Recipe = q.Recipe
	if style := q.Recipe.Style.Style(); to.Gear.Brewer.Kind != q.Gear.Brewer.Kind && (!style.Fits(to.Gear.Brewer.Kind) || style.Steeps() != to.Gear.Brewer.Kind.Form().Immersion) {
		ratio := q.Recipe.Ratio()
		to.Recipe = Restyle(to, "").With(recipe.Of(recipe.Ratio), ratio)
		out.OtherStyle = true
	}
	to.Recipe = to.Recipe.Weigh(dose, dose*units.Grams(q.Recipe.Ratio()))
	to.Recipe.Grind = to.Gear.Grinder.Snap(to.Recipe.Grind)
	var err error
	if to.Recipe, out.Unreachable, err = grindFor(to, YieldOf, out.Was.Yield.Value); err != nil {
		return out, err
	}
	if err := out.Is.Ask(to); err != nil {
		return out, err
	}
	if to.Recipe.Aim > 0 && out.Is.Drained {
		to.Recipe.Aim = units.Seconds(math.Round(float64(out.Is.Drawdown)))
	}
	out.Recipe = to.Recipe
	return out, out.Is.Ask(to)
}

package forecast

import (
	"math"

	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A Scaling is a recipe adapted to another dose or brewer for the same predicted cup.
type Scaling struct {
	Recipe      recipe.Recipe
	Was, Is     Forecast
	OtherStyle  bool // the brewer does not support the style
	Unreachable bool // no grind gives the yield: this is the closest
}

// Scale adapts the recipe of a question to the dose and the gear of another question. It keeps the ratio,
// chooses the grind for the same predicted yield, and sets the aim to the predicted drawdown. to provides
// the gear; its recipe is ignored.
func Scale(q, to Question, dose units.Grams) (Scaling, error) {
	var out Scaling
	if err := out.Was.Run(q); err != nil {
		return out, err
	}
	to.Recipe = q.Recipe
	if style := q.Recipe.Style.Style(); to.Gear.Brewer.Kind != q.Gear.Brewer.Kind &&
		(!style.Fits(to.Gear.Brewer.Kind) || style.Steeps() != to.Gear.Brewer.Kind.Form().Immersion) {
		ratio := q.Recipe.Ratio()
		to.Recipe = Restyle(to, "").With(recipe.AddressOf(recipe.Ratio), ratio)
		out.OtherStyle = true
	}
	to.Recipe = to.Recipe.ResizeRounded(dose, dose*units.Grams(q.Recipe.Ratio()))
	to.Recipe.Grind = to.Gear.Grinder.Snap(to.Recipe.Grind)
	var err error
	if to.Recipe, out.Unreachable, err = grindFor(to, YieldOf, out.Was.Yield.Value); err != nil {
		return out, err
	}
	if err := out.Is.Run(to); err != nil {
		return out, err
	}
	if to.Recipe.Aim > 0 && out.Is.Drained {
		to.Recipe.Aim = units.Seconds(math.Round(float64(out.Is.Drawdown)))
	}
	out.Recipe = to.Recipe
	return out, out.Is.Run(to)
}

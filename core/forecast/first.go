package forecast

import (
	"fmt"
	"math"
	"slices"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// Situation returns the input for recipe.Suggest from a question's coffee and gear.
func (q Question) Situation() recipe.Situation {
	return recipe.Situation{Bag: q.Bag, Gear: q.Gear, Now: q.Now, Habits: q.Habits, Coarser: q.Beliefs.Coarser(q.Brew().Grind),
		LeastDose: Brewer(q.Gear.Brewer).MinDose()}
}

// FirstRecipe returns the first recipe for the coffee of a question in a style: the result of recipe.Suggest,
// with the grind adjusted by the model and the yard's beliefs. An unknown style, or one that does not suit
// the brewer, is replaced by the brewer's default.
func FirstRecipe(q Question, id recipe.StyleID) recipe.Recipe {
	return FirstRecipeOf(q, id, 0)
}

// FirstRecipeOf is FirstRecipe with a dose, g.
func FirstRecipeOf(q Question, id recipe.StyleID, dose units.Grams) recipe.Recipe {
	s := q.Situation()
	s.Dose = dose
	q.Recipe = recipe.Suggest(id, s)
	return fitted(q)
}

// Restyle returns the recipe of a question in another style or for another kind of brewer, with its grind
// adjusted like a first one.
func Restyle(q Question, id recipe.StyleID) recipe.Recipe {
	q.Recipe = recipe.Restyle(q.Recipe, id, q.Situation())
	return fitted(q)
}

// grindBand limits how much the grind of a first recipe deviates from the style's own to drain in time, as a
// factor, so that a coarse style stays coarse.
const grindBand = 1.22

// dialledIn returns a newly written recipe with the grind that drains in time by the model, and an aim that
// it can meet.
func dialledIn(q Question) recipe.Recipe {
	d := dial(q, q.Recipe.Grind)
	q.Recipe.Grind = d.grind
	if d.drains > 0 {
		q.Recipe = withExpectedStarts(q)
		q.Recipe.Aim = d.drains
	}
	return q.Recipe
}

// withExpectedStarts returns a recipe whose pours that wait for the bed or the drips start at their predicted times. A pour never
// starts before the previous one, so each iteration places another pour.
func withExpectedStarts(q Question) recipe.Recipe {
	r := q.Recipe
	if !r.WaitsByEye() {
		return r
	}
	r.Pours = slices.Clone(r.Pours)
	for range r.Pours {
		q.Recipe = r
		var f Forecast
		if f.Run(q) != nil || len(f.Pours) < len(r.Pours) {
			return r
		}
		for i, begun := range f.Pours {
			if r.Pours[i].Cue.ByEye() {
				r.Pours[i].Start = units.Seconds(math.Round(float64(begun.Start)))
			}
		}
	}
	return r
}

// A dialling is the grind for a window or, if no grind in the band meets it, the nearest one with its
// drawdown.
type dialling struct {
	grind  units.Micrometres
	drains units.Seconds // 0: in the target window
	why    string
}

// dial returns the grind, around the start grind of the style, at which the recipe drains in the middle of
// the target window.
func dial(q Question, start units.Micrometres) dialling {
	if !q.Gear.Grinder.Adjustable() {
		return fixedGrind(q, start)
	}
	snap := q.Gear.Grinder.Snap
	q.Recipe.Grind = start
	from := fmt.Sprintf("the model %s", basis(q.Beliefs))
	band := units.Range{Lo: float64(start) / grindBand, Hi: float64(start) * grindBand}
	if q.Recipe.WaitsByEye() {
		return dialWaiting(q, band, from)
	}
	window := q.Bag.TargetWindow(q.Recipe.Plan().Window)
	if !window.IsSet() {
		return dialling{grind: start}
	}
	middle := float64(window.From+window.To) / 2
	r, err := Reach(q, DrainIn, recipe.Grind, middle)
	switch grind := float64(r.Grind); {
	case err == nil && band.Contains(grind):
		q.Recipe = r
		if d, better := dialledForYield(q, band, from); better {
			return d
		}
		return dialling{r.Grind, 0, fmt.Sprintf("%s predicts %s, the middle of the window of %s", from, units.Seconds(middle), style(q))}
	case err == nil:
		q.Recipe.Grind = snap(units.Micrometres(band.Clamp(grind)))
	}
	var f Forecast
	if f.Run(q) != nil || !f.Drained {
		return dialling{grind: q.Recipe.Grind}
	}
	return dialling{q.Recipe.Grind, rounded(f.Drawdown), fmt.Sprintf("as far as %s goes; %s drains it in %s here, not in %s, so that is "+
		"the aim", style(q), from, rounded(f.Drawdown), units.Seconds(middle))}
}

// fixedGrind is dial for coffee that was bought ground: the aim is the time in which the model expects it to drain.
func fixedGrind(q Question, size units.Micrometres) dialling {
	q.Recipe.Grind = size
	q.Recipe = withExpectedStarts(q)
	var f Forecast
	if f.Run(q) != nil || !f.Drained {
		return dialling{grind: size}
	}
	return dialling{size, rounded(f.Drawdown), fmt.Sprintf("coffee sold ground for filters is about this size; the model %s expects it to drain in %s, "+
		"so that is the aim", basis(q.Beliefs), rounded(f.Drawdown))}
}

// dialWaiting is dial for a recipe whose pours wait for the bed or the drips. Its time follows from the grind, which is
// the style's own or, if the yield is too low, finer.
func dialWaiting(q Question, band units.Range, from string) dialling {
	q.Recipe = withExpectedStarts(q)
	if d, better := dialledForYield(q, band, from); better {
		q.Recipe.Grind = d.grind
		q.Recipe = withExpectedStarts(q)
	}
	var f Forecast
	if f.Run(q) != nil || !f.Drained {
		return dialling{grind: q.Recipe.Grind}
	}
	return dialling{q.Recipe.Grind, rounded(f.Drawdown), fmt.Sprintf("its pours wait for the water, so the time follows the grind; %s "+
		"expects %.1f %% of yield in %s", from, f.Yield.Value, rounded(f.Drawdown))}
}

// plausible is the range of yields that most people like, %. A first recipe whose target time gives a yield
// outside it is ground for the nearer end and aims at the resulting time.
var plausible = units.Range{Lo: 18.5, Hi: 22.5}

// dialledForYield returns the dialling of a recipe whose target time gives an implausible yield. It returns
// false if the yield is plausible or no grind in the band corrects it.
func dialledForYield(q Question, band units.Range, from string) (dialling, bool) {
	var f Forecast
	if f.Run(q) != nil || plausible.Contains(f.Yield.Value) {
		return dialling{}, false
	}
	end := plausible.Clamp(f.Yield.Value)
	r, err := Reach(q, YieldOf, recipe.Grind, end)
	if err != nil {
		return dialling{}, false
	}
	q.Recipe.Grind = q.Gear.Grinder.Snap(units.Micrometres(band.Clamp(float64(r.Grind))))
	was := f.Yield.Value
	if f.Run(q) != nil || !f.Drained || q.Bag.Window.IsSet() {
		return dialling{}, false
	}
	return dialling{q.Recipe.Grind, rounded(f.Drawdown), fmt.Sprintf("in the time that %s usually takes, %s expects %.1f %% of yield; "+
		"here it is %.1f %%, drained in %s", style(q), from, was, f.Yield.Value, rounded(f.Drawdown))}, true
}

func style(q Question) string {
	if q.Bag.Window.IsSet() {
		return "this coffee"
	}
	return "this style"
}

func rounded(s units.Seconds) units.Seconds { return units.Seconds(math.Round(float64(s))) }

// basis describes the basis of a prediction.
func basis(b *Beliefs) string {
	switch {
	case b == nil || b.Brews == 0:
		return "(without brews of yours)"
	case b.Brews == 1:
		return "(with one brew of yours)"
	}
	return fmt.Sprintf("(with %d brews of yours)", b.Brews)
}

// Reasons explains the recipe's values: for each the suggested value and its reason.
func Reasons(q Question, p units.Prefs) []recipe.Reason {
	s := q.Situation()
	out := recipe.Reasons(q.Recipe, s, p)
	for i, why := range out {
		if why.At.Knob == recipe.Grind {
			start, _ := recipe.StartGrind(q.Recipe, s)
			if d := dial(q, start); d.why != "" {
				out[i].Text = recipe.SuggestedValue(recipe.GrindSaid(s.Gear.Grinder, d.grind),
					sameGrind(s.Gear.Grinder, d.grind, q.Recipe.Grind), d.why)
			}
		}
	}
	if f, known := fits[q.Recipe.Style]; known {
		if why, ok := f.reason(q, p); ok {
			out = slices.DeleteFunc(out, func(r recipe.Reason) bool { return r.At == why.At })
			out = append(out, why)
		}
	}
	return out
}

// sameGrind reports whether two sizes are the same setting of a grinder, or without settings within a twentieth.
func sameGrind(g gear.Grinder, a, b units.Micrometres) bool {
	if g.Step == 0 {
		return math.Abs(float64(a/b)-1) < 0.05
	}
	return g.Snap(a) == g.Snap(b)
}

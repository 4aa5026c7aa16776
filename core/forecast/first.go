package forecast

import (
	"fmt"
	"math"
	"slices"

	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// Situation is what recipe.Suggest needs to know of a question's coffee and gear.
func (q Question) Situation() recipe.Situation {
	return recipe.Situation{Bag: q.Bag, Gear: q.Gear, Now: q.Now, Habits: q.Habits, Coarser: q.Beliefs.Coarser(q.Brew().Grind), LeastDose: Brewer(q.Gear.Brewer).MinDose()}
}

// First returns the recipe in a style with which the coffee of a question is begun:
// recipe.Suggest's, dialled in by the model with what the yard has taught. An unknown
// style, or one that the brewer cannot do, becomes the brewer's usual one.
func First(q Question, id recipe.StyleID) recipe.Recipe {
	q.Recipe = recipe.Suggest(id, q.Situation())
	return dialled(q)
}

// Restyle returns the recipe of a question in another style or for another kind of
// brewer, dialled in like a first one.
func Restyle(q Question, id recipe.StyleID) recipe.Recipe {
	q.Recipe = recipe.Restyle(q.Recipe, id, q.Situation())
	return dialled(q)
}

// bandOf is how far from a style's own grind a first recipe goes to drain in time, as a
// factor either way: a style that is ground coarse stays one.
const bandOf = 1.22

// dialled is a recipe as it was written, with the grind at which the model expects it
// to drain in time, and an aim that the model can meet.
func dialled(q Question) recipe.Recipe {
	d := dial(q, q.Recipe.Grind)
	q.Recipe.Grind = d.grind
	if d.drains > 0 {
		q.Recipe = expectant(q)
		q.Recipe.Aim = d.drains
	}
	return q.Recipe
}

// expectant is a recipe whose pours that wait for the bed stand where the model expects
// them. A pour never begins before the plan has the one before it, so that each round
// brings one more to its place.
func expectant(q Question) recipe.Recipe {
	r := q.Recipe
	if !r.Waits() {
		return r
	}
	r.Pours = slices.Clone(r.Pours)
	for range r.Pours {
		q.Recipe = r
		var f Forecast
		if f.Ask(q) != nil || len(f.Pours) < len(r.Pours) {
			return r
		}
		for i, begun := range f.Pours {
			if r.Pours[i].WhenDrained {
				r.Pours[i].Start = units.Seconds(math.Round(float64(begun.Start)))
			}
		}
	}
	return r
}

// A dialling is the grind for a window, and where none in the band gives it, when
// the nearest one drains.
type dialling struct {
	grind  units.Micrometres
	drains units.Seconds // 0: in the wanted window
	why    string
}

// dial finds the grind, around the one that the style would start with, at which the
// recipe of a question drains in the middle of the window that is wanted.
func dial(q Question, start units.Micrometres) dialling {
	snap := q.Gear.Grinder.Snap
	q.Recipe.Grind = start
	from := fmt.Sprintf("the model %s", believed(q.Beliefs))
	band := units.Range{Lo: float64(start) / bandOf, Hi: float64(start) * bandOf}
	if q.Recipe.Waits() {
		return dialWaiting(q, band, from)
	}
	window := q.Bag.Wanted(q.Recipe.Plan().Window)
	if !window.Set() {
		return dialling{grind: start}
	}
	middle := float64(window.From+window.To) / 2
	r, err := Reach(q, DrainIn, recipe.Grind, middle)
	switch grind := float64(r.Grind); {
	case err == nil && band.Holds(grind):
		q.Recipe = r
		if d, better := dialledForYield(q, band, from); better {
			return d
		}
		return dialling{r.Grind, 0, fmt.Sprintf("%s drains it in %s, the middle of what %s aims at", from, units.Seconds(middle), style(q))}
	case err == nil:
		q.Recipe.Grind = snap(units.Micrometres(band.Clamp(grind)))
	}
	var f Forecast
	if f.Ask(q) != nil || !f.Drained {
		return dialling{grind: q.Recipe.Grind}
	}
	return dialling{q.Recipe.Grind, rounded(f.Drawdown), fmt.Sprintf("as far as %s goes; %s drains it in %s here, not in %s, so that is the aim", style(q), from, rounded(f.Drawdown), units.Seconds(middle))}
}

// dialWaiting is the dialling of a recipe whose pours wait for the bed: its time follows
// the grind, which is the style's own, or as much finer as the yield wants.
func dialWaiting(q Question, band units.Range, from string) dialling {
	q.Recipe = expectant(q)
	if d, better := dialledForYield(q, band, from); better {
		q.Recipe.Grind = d.grind
		q.Recipe = expectant(q)
	}
	var f Forecast
	if f.Ask(q) != nil || !f.Drained {
		return dialling{grind: q.Recipe.Grind}
	}
	return dialling{q.Recipe.Grind, rounded(f.Drawdown), fmt.Sprintf("its pours wait for the bed, so the time follows the grind; %s expects %.1f %% of yield in %s", from, f.Yield.Value, rounded(f.Drawdown))}
}

// plausible is the yield that most cups people like have, %: a first recipe whose own
// time leads out of it is ground for its nearer end, and aims at the time that takes.
var plausible = units.Range{Lo: 18.5, Hi: 22.5}

// dialledForYield is the dialling of a recipe whose wanted time gives a yield that hardly
// anybody likes; false where it does not, or where no grind in the band mends it.
func dialledForYield(q Question, band units.Range, from string) (dialling, bool) {
	var f Forecast
	if f.Ask(q) != nil || plausible.Holds(f.Yield.Value) {
		return dialling{}, false
	}
	end := plausible.Clamp(f.Yield.Value)
	r, err := Reach(q, YieldOf, recipe.Grind, end)
	if err != nil {
		return dialling{}, false
	}
	q.Recipe.Grind = q.Gear.Grinder.Snap(units.Micrometres(band.Clamp(float64(r.Grind))))
	was := f.Yield.Value
	if f.Ask(q) != nil || !f.Drained || q.Bag.Window.Set() {
		return dialling{}, false
	}
	return dialling{q.Recipe.Grind, rounded(f.Drawdown), fmt.Sprintf("in the time that %s usually takes, %s expects %.1f %% of yield; here it is %.1f %%, drained in %s", style(q), from, was, f.Yield.Value, rounded(f.Drawdown))}, true
}

func style(q Question) string {
	if q.Bag.Window.Set() {
		return "this coffee"
	}
	return "this style"
}

func rounded(s units.Seconds) units.Seconds { return units.Seconds(math.Round(float64(s))) }

// believed says what a model's word rests on.
func believed(b *Beliefs) string {
	switch {
	case b == nil || b.Brews == 0:
		return "(which no brew of yours has corrected yet)"
	case b.Brews == 1:
		return "(with one brew of yours)"
	}
	return fmt.Sprintf("(with %d brews of yours)", b.Brews)
}

// Reasons explains a recipe's values, for each the place where the product would
// start and why.
func Reasons(q Question, p units.Prefs) []recipe.Reason {
	s := q.Situation()
	out := recipe.Reasons(q.Recipe, s, p)
	for i, why := range out {
		if why.At.Knob == recipe.Grind {
			start, _ := recipe.StartGrind(q.Recipe, s)
			if d := dial(q, start); d.why != "" {
				out[i].Text = recipe.StartsAt(s.Gear.Grinder.Setting(d.grind), s.Gear.Grinder.Snap(d.grind) == s.Gear.Grinder.Snap(q.Recipe.Grind), d.why)
			}
		}
	}
	return out
}

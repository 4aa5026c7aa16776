package coach

import (
	"yardbloom/core/cup"
	"yardbloom/core/recipe"
)

// practices lists the benefit of a change beyond the model's prediction, in marks, given a sign. Trainers'
// experience: by is +1 for an increase and -1 for a decrease.
var practices = []struct {
	sign  sign
	knob  recipe.Knob
	by    float64
	marks float64
}{
	{papery, recipe.Rinse, +1, 3},
	{iceLeft, recipe.IcePart, -1, 1.5},
	{muddled, recipe.HandAfter, -1, 1.2}, {muddled, recipe.PourHeight, -1, 1}, {muddled, recipe.Grind, +1, -0.2},
	{standing, recipe.Wait, +1, 1.1}, {standing, recipe.Gap, +1, 1}, {standing, recipe.Grind, +1, 0.2}, {standing, recipe.Pours, -1, 0.3},
	{stalled, recipe.Grind, +1, 1}, {stalled, recipe.Pours, -1, 0.9}, {stalled, recipe.HandAfter, -1, 0.7},
	{stalled, recipe.PourHeight, -1, 0.6},
	{seenBed(cup.DryPocket), recipe.Bloom, +1, 0.5}, {markedAs(cup.DrySpot), recipe.Bloom, +1, 0.5},
	{seenBed(cup.DryPocket), recipe.HandAfter, +1, 0.6},
	{seenBed(cup.Cratered), recipe.PourHeight, -1, 0.5}, {markedAs(cup.Channel), recipe.PourHeight, -1, 0.4},
	{seenBed(cup.HighWalls), recipe.HandAfter, +1, 0.5}, {seenBed(cup.HighWalls), recipe.PourHeight, -1, 0.4},
	{both(sharp, veryFresh), recipe.BloomTime, +1, 0.7}, {both(sharp, veryFresh), recipe.Bloom, +1, 0.3},
	{untried(recipe.BloomTime, both(sharp, veryFresh)), recipe.Grind, -1, -0.9},
	{both(sharp, noThermostat), recipe.Temperature, +1, 0.8},
	{untried(recipe.Temperature, both(sharp, noThermostat)), recipe.Grind, -1, -1.3},
	{both(both(overIce, flowsWell), sharp), recipe.Temperature, +1, 0.4},
	{untried(recipe.Temperature, both(both(overIce, flowsWell), sharp)), recipe.Grind, -1, -0.5},
	{both(both(overIce, flowsWell), harshAlone), recipe.Temperature, -1, 0.5},
	{untried(recipe.Temperature, both(both(overIce, flowsWell), harshAlone)), recipe.Grind, +1, -0.5},
	{thinBed, recipe.Dose, +1, 1.2},
	{both(sharp, coldBrewer), recipe.Rinse, +1, 0.6}, {both(sharp, coldBrewer), recipe.Temperature, +1, 0.4},
	{both(harsh, hotForRoast), recipe.Temperature, -1, 1},
	{sharpNotHeavy, recipe.Ratio, +1, -0.4}, {harshNotThin, recipe.Ratio, -1, -0.4},
	{sharpNotHeavy, recipe.SameCup, +1, -0.4}, {harshNotThin, recipe.SameCup, -1, -0.4},
	{sharpNotHeavy, recipe.Coffee, -1, -0.5}, {harshNotThin, recipe.Coffee, +1, -0.5},
	{onlyIn(splitStyle, sharp), recipe.Balance, -1, 1.8}, {onlyIn(splitStyle, thin), recipe.LastPours, +1, 1},
	{untried(recipe.Balance, onlyIn(splitStyle, sharp)), recipe.Grind, -1, -1.6}, {onlyIn(splitStyle, harsh), recipe.Balance, +1, 0.6},
	{both(harshAlone, flowsWell), recipe.Temperature, -1, 0.35},
	{untried(recipe.Temperature, both(harshAlone, flowsWell)), recipe.Grind, +1, -0.25},
	{both(sharp, runsSlow), recipe.Temperature, +1, 0.5}, {both(sharp, runsSlow), recipe.Grind, -1, -1.2},
	{both(sharp, runsSlow), recipe.Grind, +1, -0.6},
	{both(harsh, runsFast), recipe.Temperature, -1, 0.4}, {both(harsh, runsFast), recipe.Grind, +1, -0.8},
	{both(harshAlone, runsFast), recipe.FinerCooler, -1, 0.35}, {both(sharpAlone, runsSlow), recipe.FinerCooler, +1, 0.35},
	{both(harsh, runsSlow), recipe.Grind, +1, 0.4},
	{onlyThin, recipe.Grind, -1, -0.6}, {salty, recipe.Ratio, +1, -0.6},
}

// answers is the same for requests for the next cup.
var answers = []struct {
	want  cup.Want
	knob  recipe.Knob
	by    float64
	marks float64
}{
	{cup.Lighter, recipe.Ratio, +1, 1.2}, {cup.Lighter, recipe.Coffee, -1, 1.2}, {cup.Lighter, recipe.Dilute, +1, 1.2},
	{cup.Lighter, recipe.Ratio, -1, -2},
	{cup.Stronger, recipe.Ratio, -1, 1.2}, {cup.Stronger, recipe.Coffee, +1, 1.2}, {cup.Stronger, recipe.Dilute, -1, 1.2},
	{cup.Stronger, recipe.Ratio, +1, -2},
	{cup.Brighter, recipe.Grind, +1, 0.7}, {cup.Brighter, recipe.Temperature, -1, 0.6}, {cup.Brighter, recipe.Grind, -1, -1},
	{cup.Brighter, recipe.Release, -1, 0.5}, {cup.Brighter, recipe.Balance, +1, 0.6},
	{cup.Sweeter, recipe.Balance, -1, 0.6}, // otherwise the aim decides
	{cup.Sweeter, recipe.Grind, -1, 0.1}, {cup.Sweeter, recipe.Grind, +1, 0.1}, {cup.Sweeter, recipe.Temperature, +1, 0.1},
	{cup.Sweeter, recipe.Temperature, -1, 0.1},
}

// turns reports whether a change increases a knob, by = +1, or decreases it, by = -1.
func turns(change recipe.Change, k recipe.Knob, by float64) bool {
	return change.Knob == k && (change.To > change.From) == (by > 0)
}

// practice sums the benefits of a change from experience.
func (c Case) practice(change recipe.Change) (marks float64) {
	for _, p := range practices {
		if turns(change, p.knob, p.by) {
			if said := p.sign(c); said != "" && said != c.ignored {
				marks += p.marks
			}
		}
	}
	for _, a := range answers {
		if turns(change, a.knob, a.by) && c.Cup.Wants[a.want] {
			marks += a.marks
		}
	}
	return marks
}

// asksFor returns a request for the next cup that a change fulfils, or an empty string.
func (c Case) asksFor(change recipe.Change) string {
	for _, a := range answers {
		if a.marks > 0 && turns(change, a.knob, a.by) && c.Cup.Wants[a.want] {
			return wanted(a.want)(c)
		}
	}
	return ""
}

// remedies holds the share of a recipe's unevenness that a change removes. Trainers' experience.
var remedies = []struct {
	knob  recipe.Knob
	by    float64
	share float64
}{
	{recipe.Bloom, +1, 0.4}, {recipe.HandAfter, +1, 0.5}, {recipe.PourHeight, -1, 0.3}, {recipe.BloomTime, +1, 0.15},
	{recipe.Wait, +1, 0.1},
	{recipe.Release, +1, 0.3}, {recipe.Grind, -1, 0.1}, {recipe.Grind, +1, 0.1},
}

// mends returns the share of a recipe's unevenness that a change removes.
func mends(change recipe.Change) float64 {
	for _, r := range remedies {
		if turns(change, r.knob, r.by) {
			return r.share
		}
	}
	return 0
}

// untried is a sign that applies only until a knob was turned on this bag: what trainers try first.
func untried(k recipe.Knob, s sign) sign {
	return func(c Case) string {
		at := recipe.AddressOf(k)
		for _, past := range c.Path {
			if past.Recipe.Value(at) != c.Recipe.Value(at) {
				return ""
			}
		}
		return s(c)
	}
}

func onlyIn(there func(Case) bool, s sign) sign {
	return func(c Case) string {
		if !there(c) {
			return ""
		}
		return s(c)
	}
}

package brew

import (
	"math"

	"gonum.org/v1/gonum/stat/distuv"

	"yardbloom/core/recipe"
)

// A Best is the recipe with the highest mean mark among some brews.
type Best struct {
	Brew   Brew // its latest brew
	Brews  int  // of that recipe with a mark
	Mark   float64
	Chance float64 // that it is truly better than the next best one; 0: there is no other
}

// MarkScatter is the standard deviation of one person's marks of equal cups. One brew in ten or so is marked a point off.
const MarkScatter = 0.7

// BestOf returns the best recipe of a path as its tasters marked it, and how sure that is: the probability that its mean mark is truly
// higher than that of the next best, from the scatter of marks and the number of brews. It is false without a mark. Recipes that differ
// by less than a person can set count as one.
func BestOf(path []Brew) (Best, bool) {
	type group struct {
		latest Brew
		n      int
		sum    float64
	}
	var groups []group
	for _, b := range path {
		if b.Cup.Overall == 0 {
			continue
		}
		at := -1
		for i, g := range groups {
			if sameRecipe(g.latest, b) {
				at = i
			}
		}
		if at < 0 {
			at, groups = len(groups), append(groups, group{})
		}
		groups[at].latest, groups[at].n, groups[at].sum = b, groups[at].n+1, groups[at].sum+float64(b.Cup.Overall)
	}
	if len(groups) == 0 {
		return Best{}, false
	}
	best, next := 0, -1
	mean := func(i int) float64 { return groups[i].sum / float64(groups[i].n) }
	for i := 1; i < len(groups); i++ {
		if mean(i) >= mean(best) { // of equal ones the later
			best = i
		}
	}
	for i := range groups {
		if i != best && (next < 0 || mean(i) > mean(next)) {
			next = i
		}
	}
	out := Best{Brew: groups[best].latest, Brews: groups[best].n, Mark: mean(best)}
	if next >= 0 {
		err := MarkScatter * math.Sqrt(1/float64(groups[best].n)+1/float64(groups[next].n))
		out.Chance = distuv.UnitNormal.CDF((mean(best) - mean(next)) / err)
	}
	return out, true
}

// sameRecipe reports whether two brews were made alike: with the same gear, and a grind within a step.
func sameRecipe(a, b Brew) bool {
	if a.Gear.Brewer.ID != b.Gear.Brewer.ID || a.Gear.Grinder.ID != b.Gear.Grinder.ID || a.Recipe.Style != b.Recipe.Style {
		return false
	}
	for _, c := range recipe.Changes(a.AsBrewed(), b.AsBrewed()) {
		if c.Knob != recipe.Grind || !sameSetting(a.Gear.Grinder, b.Gear.Grinder, c) {
			return false
		}
	}
	return true
}

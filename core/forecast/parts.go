package forecast

import (
	"math"

	"yardbloom/core/coffee"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A PartEdit is a change of a recipe that leaves a part of the brew out of the cup.
type PartEdit string

// The edits.
const (
	CutLast      PartEdit = "cut"     // lift the brewer off before the last part
	DiluteLast   PartEdit = "dilute"  // add the water of the last pour to the cup instead
	DiscardFirst PartEdit = "discard" // leave out the first and strongest part
)

// A Part is a PartEdit of a recipe with its predicted effect.
type Part struct {
	Edit   PartEdit
	Amount units.Grams // left out of the cup, or added to it
	Recipe recipe.Recipe
	Effect Difference
}

// The usual amounts that are left out, g, for a cup of any size.
const (
	cutAway   units.Grams = 40
	discarded units.Grams = 20
)

// Parts returns the edits that suit a recipe, from its forecast. The first part is discarded only of dark roasts, as
// practitioners do.
func Parts(q Question, f Forecast) []Part {
	var out []Part
	r := q.Recipe
	if r.CutAt == 0 && f.Ran()-r.Discard > 3*cutAway {
		cut := r
		const whole = 5 // g
		cut.CutAt = units.Grams(math.Round(float64(f.Ran()-r.Discard-cutAway)/whole) * whole)
		out = append(out, Part{Edit: CutLast, Amount: cutAway, Recipe: cut})
	}
	if diluted, ok := r.DiluteLast(); ok {
		out = append(out, Part{Edit: DiluteLast, Amount: diluted.Dilution.Water, Recipe: diluted})
	}
	if r.Discard == 0 && q.Bag.Roast >= coffee.MediumDark {
		without := r
		without.Discard = discarded
		out = append(out, Part{Edit: DiscardFirst, Amount: discarded, Recipe: without})
	}
	var possible []Part
	var next Forecast
	for _, p := range out {
		q.Recipe = p.Recipe
		if d := next.differ(f, q); d != nil {
			p.Effect = *d
			possible = append(possible, p)
		}
	}
	return possible
}

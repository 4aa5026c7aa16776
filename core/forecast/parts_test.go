package forecast

import (
	"math"
	"testing"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
)

// Leaving the end out makes a cup stronger, less extracted and brighter; water instead of the last pour keeps the size of the
// cup. Mutations caught: an edit that is offered twice, dilution that adds to the last pour.
func TestPartsOfABrewCanBeLeftOut(t *testing.T) {
	q := question(gear.OpenCone, coffee.Light)
	f, err := Predict(q)
	if err != nil {
		t.Fatal(err)
	}
	parts := map[PartEdit]Part{}
	for _, p := range Parts(q, f) {
		parts[p.Edit] = p
	}
	cut, diluted := parts[CutLast], parts[DiluteLast]
	if cut.Effect.Yield >= -0.3 || cut.Effect.Strength <= 0 || cut.Effect.Lean >= 0 || cut.Effect.Time != 0 {
		t.Errorf("without the end: %+v", cut.Effect)
	}
	if diluted.Effect.Yield >= -0.3 || diluted.Effect.Time >= 0 {
		t.Errorf("diluted instead: %+v", diluted.Effect)
	}
	if off := diluted.Recipe.Total() - q.Recipe.Total(); math.Abs(float64(off)) > 0.5 {
		t.Errorf("the diluted recipe has %v g more water", off)
	}
	if _, found := parts[DiscardFirst]; found {
		t.Error("the beginning of a light roast is discarded")
	}
	q.Bag.Roast = coffee.Dark
	if f, err = Predict(q); err != nil {
		t.Fatal(err)
	}
	dark := Parts(q, f)
	if last := dark[len(dark)-1]; last.Edit != DiscardFirst || last.Effect.Strength >= 0 {
		t.Errorf("of a dark roast: %+v", last.Effect)
	}
	q.Recipe = cut.Recipe
	if f, err = Predict(q); err != nil || math.Abs(float64(f.Beverage-cut.Recipe.CutAt)) > 5 {
		t.Errorf("a cut at %v g leaves %v g, %v", cut.Recipe.CutAt, f.Beverage, err)
	}
	for _, p := range Parts(q, f) {
		if p.Edit == CutLast {
			t.Error("a cut is offered twice")
		}
	}
}

package brew

import (
	"fmt"
	"testing"

	"yardbloom/core/cup"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// More water after the bloom is in the bloom, the later pours make up for it, and an undo takes it back. Once the next pour
// has begun it changes nothing. Mutations caught: water on top of the total, a tap that
// counts in any stage, a tap that cannot be undone.
func TestMoreWaterBelongsToTheBloom(t *testing.T) {
	t.Parallel()
	byEye := recipe.BloomByEye.Style().Generate(18, 297, 94)
	planned := byEye.Plan()
	more := func(at units.Seconds) Event { return Event{Kind: More, At: at} }
	b := begun(t)
	b.Recipe, b.Plan = byEye, planned
	b = after(t, b, more(25), more(30))
	state := b.Revised().At(b.Started.Add(60e9))
	steps := state.Steps()
	if got := steps[0].Water - planned.Steps[0].Water; got != 2*MoreWater {
		t.Errorf("the bloom has %v g more", got)
	}
	if last := state.Plan().Steps[len(planned.Steps)-1].Total; last != 297 {
		t.Errorf("the last pour ends at %v g", last)
	}
	if b.At(b.Started.Add(40e9)).CanAddToBloom(byEye) {
		t.Error("more is offered to 79 g for 18 g of coffee")
	}
	undone := after(t, b, Event{Kind: Undo, Undoes: fmt.Sprint(More, units.Seconds(30), cup.Mark("")), At: 32})
	if got := undone.At(b.Started.Add(40e9)).Stages[0].Poured(); got != planned.Steps[0].Water+MoreWater {
		t.Errorf("after an undo the bloom has %v g", got)
	}
	for _, at := range []units.Seconds{60, 100} {
		late := begun(t)
		late.Recipe, late.Plan = byEye, planned
		late = after(t, late, more(at))
		if s := late.At(b.Started.Add(70e9)); s.Stages[0].Poured() != planned.Steps[0].Water || s.LastTap() != "" {
			t.Errorf("at %v: the bloom has %v g", at, s.Stages[0].Poured())
		}
	}
	if !At(planned, nil, 20).CanAddToBloom(byEye) {
		t.Error("no water is offered after the bloom")
	}
	for name, ok := range map[string]bool{"of another style": offered(At(planned, nil, 20), recipe.ThreeRounds), "later": offered(At(planned, nil,
		70), recipe.BloomByEye)} {
		if ok {
			t.Errorf("water is offered %s", name)
		}
	}
}

func offered(s State, style recipe.StyleID) bool {
	return s.CanAddToBloom(style.Style().Generate(18, 297, 94))
}

// A crust that was broken by hand counts as in a recipe with that moment. Mutation caught: the mark without effect.
func TestBrokenCrustCounts(t *testing.T) {
	t.Parallel()
	r := recipe.SteepAndRelease.Style().Generate(16, 256, 93).With(recipe.AddressOf(recipe.CrustAt), 0)
	b := begun(t)
	r.Grind = 800
	b.Recipe, b.Plan = r, r.Plan()
	b = after(t, b, Event{Kind: MarkEvent, Mark: cup.CrustBroken, At: 100}, Event{Kind: Finish, At: 230})
	if was, ok := b.AsPoured(); !ok || was.Crust != 100 {
		q := b.Sheet.Question(b.Started)
		q.Recipe = was
		t.Errorf("%v, the crust was broken at %v: %v", ok, was.Crust, q.Brew().Check())
	}
}

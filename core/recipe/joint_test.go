package recipe

import "testing"

// Two knobs that are one decision are one change, whichever recipe they start from, and their values stay apart from the single knobs'.
// Mutations caught: a coffee change over ice as two changes, a temperature that ignores the grind, a ratio alone as a joint change.
func TestJointChangesAreOneChange(t *testing.T) {
	r := ThreeRounds.Style().Generate(18, 297, 93)
	iced := IceHotAndSlow.Style().Generate(22, 330, 93)
	for _, c := range []struct {
		from Recipe
		k    Knob
		to   float64
		want Knob
	}{
		{r, SameCup, 15, SameCup}, {r, SameCup, 18, SameCup}, {r, Ratio, 15, Ratio}, {iced, Coffee, 25, Coffee},
		{r, FinerCooler, float64(r.Grind) - 50, FinerCooler}, {r, FinerCooler, float64(r.Grind) + 25, FinerCooler},
		{r, Grind, float64(r.Grind) - 50, Grind}, {r, Temperature, 90, Temperature},
	} {
		next := c.from.With(AddressOf(c.k), c.to)
		got := Changes(c.from, next)
		if len(got) != 1 || got[0].Knob != c.want {
			t.Errorf("%s to %v is %+v", c.k, c.to, got)
		}
	}
	stronger := r.With(AddressOf(SameCup), 15)
	if cup, was := stronger.Amounts(2).Cup, r.Amounts(2).Cup; stronger.Dose <= r.Dose || cup < was-2 || cup > was+2 {
		t.Errorf("1 : 15 for the same cup: %.1f g of coffee and a cup of %.0f g after %.0f", stronger.Dose, cup, was)
	}
	finer := r.With(AddressOf(FinerCooler), float64(r.Grind)-50)
	if finer.Temperature() != r.Temperature()-8 {
		t.Errorf("50 µm finer and %v °C, after %v", finer.Temperature(), r.Temperature())
	}
}

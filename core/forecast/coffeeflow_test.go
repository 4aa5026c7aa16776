package forecast

import (
	"math"
	"testing"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
)

// Brittle and dense coffees drain later at one setting, by less than bags differ. Mutation caught: the density of green beans as
// the reference, for which every roasted bag counts as light.
func TestCoffeesDifferInFlow(t *testing.T) {
	t.Parallel()
	usual := coffee.Bag{Roast: coffee.Medium, Process: coffee.Washed, RoastedOn: "2026-04-25"}
	if got := flowOf(usual); got != 0 {
		t.Errorf("an ordinary coffee has %v", got)
	}
	drains := func(b coffee.Bag) float64 {
		q := question(gear.OpenCone, coffee.Medium)
		q.Bag = b
		var f Forecast
		if err := f.RunFlow(q); err != nil {
			t.Fatal(err)
		}
		return float64(f.Drawdown)
	}
	for name, change := range map[string]func(*coffee.Bag){"decaf": func(b *coffee.Bag) { b.Process = coffee.Decaf },
		"dense": func(b *coffee.Bag) { b.Density = 420 }, "natural": func(b *coffee.Bag) { b.Process = coffee.Natural }} {
		b := usual
		change(&b)
		if flow := flowOf(b); flow >= 0 || math.Abs(flow) > Priors[Flow]/2 || drains(b) <= drains(usual) {
			t.Errorf("%s: %.3f, drains %.0f s after", name, flow, drains(b)-drains(usual))
		}
	}
	light := usual
	light.Density = 330
	if flowOf(light) <= 0 {
		t.Error("a light bean drains later")
	}
}

package forecast

import (
	"testing"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
)

// BenchmarkFirstRecipe writes and dials in a first recipe.
func BenchmarkFirstRecipe(b *testing.B) {
	q := question(gear.OpenCone, coffee.Medium)
	for b.Loop() {
		FirstRecipe(q, "")
	}
}

// BenchmarkSure computes the error of one difference.
func BenchmarkSure(b *testing.B) {
	q := question(gear.OpenCone, coffee.Medium)
	moves := []Move{{recipe.AddressOf(recipe.Grind), float64(q.Recipe.Grind) - 25}}
	for b.Loop() {
		AddErrors(q, moves, Try(q, moves))
	}
}

// BenchmarkTogether solves for two goals.
func BenchmarkTogether(b *testing.B) {
	q := question(gear.OpenCone, coffee.Medium)
	base, err := Predict(q)
	if err != nil {
		b.Fatal(err)
	}
	targets := []Target{{DrainIn, float64(base.Drawdown) + 12}, {YieldOf, base.Yield.Value + 0.9}}
	for b.Loop() {
		if _, err := Together(q, targets, recipe.Grind, recipe.Temperature, recipe.Ratio); err != nil {
			b.Fatal(err)
		}
	}
}

package recipe_test

import (
	"fmt"

	"yardbloom/core/recipe"
)

// printPlan prints one line per step of a recipe's plan.
func printPlan(r recipe.Recipe) {
	for _, s := range r.Plan().Steps {
		fmt.Printf("%v pour to %.0f g\n", s.Start, s.Total)
	}
}

// A style generates the pours of a recipe; the plan adds them up.
func ExampleStyle_Generate() {
	r := recipe.ThreeRounds.Style().Generate(18, 297, 93)
	printPlan(r)
	// Output:
	// 0:00 pour to 54 g
	// 0:45 pour to 135 g
	// 1:25 pour to 216 g
	// 2:05 pour to 297 g
}

// Every knob has an address: here the water of one pour.
func ExampleRecipe_With() {
	r := recipe.ThreeRounds.Style().Generate(18, 297, 93)
	second, _ := recipe.ParseAddress("pours.2.water")
	r = r.With(second, 100)
	printPlan(r)
	fmt.Printf("%.0f g in all\n", r.Water())
	// Output:
	// 0:00 pour to 54 g
	// 0:45 pour to 154 g
	// 1:25 pour to 226 g
	// 2:05 pour to 297 g
	// 297 g in all
}

// The difference between two recipes is a list of addresses and values.
func ExampleChanges() {
	was := recipe.ThreeRounds.Style().Generate(18, 297, 93)
	is := was.With(recipe.AddressOf(recipe.Temperature), 95).With(recipe.AddressOf(recipe.BloomTime), 60)
	for _, c := range recipe.Changes(was, is) {
		fmt.Println(c.Address, c.To)
	}
	// Output:
	// temperature 95
	// bloom_time 60
}

// Two of the four amounts determine the others.
func ExampleSolve() {
	held := [2]recipe.Knob{recipe.Ratio, recipe.Cup}
	a, err := recipe.Solve(recipe.Amounts{Ratio: 16.5, Cup: 261}, held, 2)
	fmt.Printf("%.1f g of coffee, %.0f g of water, %v\n", a.Dose, a.Water, err)
	// Output:
	// 18.0 g of coffee, 297 g of water, <nil>
}

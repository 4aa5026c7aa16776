package sim_test

import (
	"fmt"

	"yardbloom/core/gear"
	"yardbloom/core/sim"
)

// Run turns a brew into curves and a cup.
func ExampleRun() {
	brew := sim.Brew{
		Dose:    18,
		Coffee:  sim.Coffee{Soluble: 0.29, Rate: 1, Gas: 0.2},
		Grind:   sim.Mills[gear.HandMill].Grind(650),
		Brewer:  sim.OpenConeSmall,
		Filter:  sim.Filters[gear.StandardPaper],
		Ambient: 21,
		Warm:    60,
		Pours: []sim.Pour{
			{Water: 54, Start: 0, Rate: 5, Temperature: 95, Height: 0.10, Pattern: sim.Spiral},
			{Water: 243, Start: 40, Rate: 5, Temperature: 95, Height: 0.10, Pattern: sim.Spiral},
		},
	}
	r, err := sim.Run(brew)
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Printf("drawdown %v, %.0f g at %.2f %%, yield %.0f %%\n", r.Drawdown, r.Beverage, r.TDS, r.EY)

	brew.Grind = sim.Mills[gear.HandMill].Grind(550) // finer
	r, _ = sim.Run(brew)
	fmt.Printf("drawdown %v, %.0f g at %.2f %%, yield %.0f %%\n", r.Drawdown, r.Beverage, r.TDS, r.EY)
	// Output:
	// drawdown 2:55, 264 g at 1.34 %, yield 20 %
	// drawdown 3:41, 263 g at 1.43 %, yield 21 %
}

package cup_test

import (
	"fmt"

	"yardbloom/core/cup"
)

// The extraction yield of a cup, with its standard error.
func ExampleYield() {
	reading := cup.Measurement{Dose: 18, Beverage: 261, TDS: 1.40}
	yield, ok := cup.Yield(reading, cup.UsualInstruments)
	fmt.Println(yield, ok)

	// In immersion, the liquid in the grounds counts too.
	reading.Method, reading.Retained = cup.Immersion, 2
	yield, ok = cup.Yield(reading, cup.UsualInstruments)
	fmt.Println(yield, ok)
	// Output:
	// 20.3 ± 0.4 % true
	// 23.1 ± 0.5 % true
}

// Two cups are called different only if their errors allow it.
func ExampleFigure_Differs() {
	before, after := cup.Figure{Value: 19.6, Error: 0.4}, cup.Figure{Value: 20.4, Error: 0.4}
	fmt.Println(before.Differs(after))
	// Output: false
}

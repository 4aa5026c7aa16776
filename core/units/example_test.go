package units_test

import (
	"errors"
	"fmt"

	"yardbloom/core/units"
)

// A quantity is stored in one unit and shown in the person's own.
func ExampleUnit_Number() {
	metric, imperial := units.Prefs{}, units.Prefs{Ounces: true, Fahrenheit: true}
	fmt.Println(metric.Unit(units.Water).Number(297), imperial.Unit(units.Water).Number(297))
	fmt.Println(metric.Unit(units.Temperature).Number(93), imperial.Unit(units.Temperature).Number(93))
	fmt.Println(metric.Unit(units.Ratio).Format(16.5), metric.Unit(units.Time).Format(198))
	// Output:
	// 297 10.5
	// 93 199
	// 1 : 16.5 3:18
}

// Typed text is parsed into the unit in which the quantity is stored.
func ExampleUnit_Parse() {
	imperial := units.Prefs{Ounces: true}
	grams, err := imperial.Unit(units.Water).Parse("10,5 oz")
	fmt.Printf("%.1f g %v\n", grams, err)

	_, err = imperial.Unit(units.Time).Parse("until it is done")
	fmt.Println(errors.Is(err, units.ErrSyntax), err)
	// Output:
	// 297.7 g <nil>
	// true "until it is done" cannot be read
}

// The error of a range names the value, the range and the address.
func ExampleRange_Check() {
	err := units.Range{Lo: 5, Hi: 120}.Check(units.Place{Name: "dose"}, 500)
	var wrong *units.ValueError
	fmt.Println(errors.As(err, &wrong), wrong.At, wrong.Value, wrong.Range)
	fmt.Println(errors.Is(err, units.ErrRange))
	// Output:
	// true dose 500 5 to 120
	// true
}

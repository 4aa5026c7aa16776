// Package cup computes the result of a brew: extraction yield with its error, and taste.
package cup

import (
	"fmt"
	"math"

	"yardbloom/core/units"
)

// A Figure is a value with its standard error, in the same unit.
type Figure struct {
	Value float64
	Error float64
}

// Method is the way in which water meets the grounds. It determines the liquid that counts as extracted.
type Method string

// The methods.
const (
	Percolation Method = "percolation"
	Immersion   Method = "immersion"
)

// Instruments holds the standard errors of the readings for a yield.
type Instruments struct {
	Dose, Beverage units.Grams
	TDS            float64 // percentage points
	Retained       float64 // g/g
}

// UsualInstruments instruments: a scale that shows 0.1 g for the dose and is read to 1 g
// under a full carafe (a reading rounded to a step r has the standard error
// r/√12), a refractometer that repeats to ±0.03 % with sampling and temperature,
// and a retained water known to ±0.15 g/g.
var UsualInstruments = Instruments{Dose: 0.1 / sqrt12, Beverage: 1 / sqrt12, TDS: 0.03, Retained: 0.15}

const sqrt12 = 3.4641016151377544

// A Measurement holds the readings of a brew: g, g, % by mass, g per g of dose.
type Measurement struct {
	Method   Method
	Dose     units.Grams
	Beverage units.Grams
	TDS      float64
	Retained float64     // used in immersion only
	Added    units.Grams // part of the beverage that melted into it or was added to it
}

// Yield returns the extraction yield, % of the dry dose, with its standard error:
//
//	percolation  EY = TDS × beverage / dose
//	immersion    EY = TDS × (beverage + retained × dose × beverage / (beverage − added)) / dose
//
// In immersion the liquid left in the grounds counts. It has the strength of the undiluted brew, before ice
// melted into it or water was added. The error is the first-order propagation of the instruments' errors.
// The result is false without dose, beverage or TDS.
func Yield(r Measurement, in Instruments) (Figure, bool) {
	if r.Dose <= 0 || r.Beverage <= 0 || r.TDS <= 0 {
		return Figure{}, false
	}
	dose, beverage := float64(r.Dose), float64(r.Beverage)
	perDose := beverage / dose
	retained, retainedError := 0.0, 0.0
	if r.Method == Immersion {
		stronger := 1.0
		if brewed := r.Beverage - r.Added; brewed > 0 {
			stronger = beverage / float64(brewed)
		}
		retained, retainedError = r.Retained*stronger, in.Retained*stronger
	}
	ey := r.TDS * (perDose + retained)
	parts := []float64{
		(perDose + retained) * in.TDS,
		r.TDS / dose * float64(in.Beverage),
		r.TDS * perDose / dose * float64(in.Dose),
		r.TDS * retainedError,
	}
	var sum float64
	for _, p := range parts {
		sum += p * p
	}
	return Figure{Value: ey, Error: math.Sqrt(sum)}, true
}

// RetainedError returns the part of a yield's standard error that comes from the retained water: brews of one brewer share it.
func RetainedError(r Measurement, in Instruments) float64 {
	if r.Method != Immersion {
		return 0
	}
	stronger := 1.0
	if brewed := r.Beverage - r.Added; brewed > 0 {
		stronger = float64(r.Beverage / brewed)
	}
	return r.TDS * in.Retained * stronger
}

// Differs reports whether two figures differ by more than twice the error of their difference.
func (f Figure) Differs(g Figure) bool {
	return math.Abs(f.Value-g.Value) > 2*math.Hypot(f.Error, g.Error)
}

// String formats a figure in %, such as "20.4 ± 0.4 %".
func (f Figure) String() string {
	return fmt.Sprintf("%.1f ± %.1f %%", f.Value, f.Error)
}

// The plausible ranges of the readings.
var (
	BeverageRange = units.Range{Lo: 20, Hi: 2000}
	TDSRange      = units.Range{Lo: 0.2, Hi: 6}
	TimeRange     = units.Range{Lo: 20, Hi: 1800}
)

// Difference returns b − a with the error of the difference.
func Difference(a, b Figure) Figure {
	return Figure{Value: b.Value - a.Value, Error: math.Hypot(a.Error, b.Error)}
}

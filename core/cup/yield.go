// Package cup says what came out: extraction yield with its error, and taste.
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

// Method is how the water met the grounds, which decides what counts as extracted liquid.
type Method string

// The methods.
const (
	Percolation Method = "percolation"
	Immersion   Method = "immersion"
)

// Instruments are the standard errors of the readings that a yield is made from.
type Instruments struct {
	Dose, Beverage units.Grams
	TDS            float64 // percentage points
	Retained       float64 // g/g
}

// Usual instruments: a scale that shows 0.1 g for the dose and is read to 1 g
// under a full carafe (a reading rounded to a step r has the standard error
// r/√12), a refractometer that repeats to ±0.03 % with sampling and temperature,
// and a retained water known to ±0.15 g/g.
var Usual = Instruments{Dose: 0.1 / sqrt12, Beverage: 1 / sqrt12, TDS: 0.03, Retained: 0.15}

const sqrt12 = 3.4641016151377544

// A Reading is what was weighed and measured: g, g, % by mass, g per g of dose.
type Reading struct {
	Method   Method
	Dose     units.Grams
	Beverage units.Grams
	TDS      float64
	Retained float64     // counts in immersion only
	Added    units.Grams // of the beverage, what melted into it or was added to it
}

// Yield returns the extraction yield, % of the dry dose, with its standard error:
//
//	percolation  EY = TDS × beverage / dose
//	immersion    EY = TDS × (beverage + retained × dose × beverage / (beverage − added)) / dose
//
// In immersion the liquid left in the grounds counts. It is as strong as what ran
// out of the brewer: as the cup, before ice melted into it or water was added. The error is the first-order propagation of the instruments' errors.
// A reading without dose, beverage or TDS has no yield.
func Yield(r Reading, in Instruments) (Figure, bool) {
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

// Differs says whether two figures may be called different: only where they lie
// further apart than twice the error of their difference.
func (f Figure) Differs(g Figure) bool {
	return math.Abs(f.Value-g.Value) > 2*math.Hypot(f.Error, g.Error)
}

// String prints a figure in %, such as "20.4 ± 0.4 %".
func (f Figure) String() string {
	return fmt.Sprintf("%.1f ± %.1f %%", f.Value, f.Error)
}

// The readings that can be real.
var (
	BeverageRange = units.Range{Lo: 20, Hi: 2000}
	TDSRange      = units.Range{Lo: 0.2, Hi: 6}
	TimeRange     = units.Range{Lo: 20, Hi: 1800}
)

// Difference returns b − a with the error of the difference.
func Difference(a, b Figure) Figure {
	return Figure{Value: b.Value - a.Value, Error: math.Hypot(a.Error, b.Error)}
}

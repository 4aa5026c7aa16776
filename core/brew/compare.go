package brew

import (
	"math"

	"yardbloom/core/cup"
	"yardbloom/core/units"
)

// An Outcome compares the effect of an advised change with the expected one.
type Outcome struct {
	Yield *cup.Figure // change of the yield, if both were measured
	Time  *units.Seconds
	// Verdict compares the change of yield with the expected one; empty without an expectation or a
	// measurement.
	Verdict Verdict
}

// A Verdict is the result of a change relative to its expectation.
type Verdict string

// The verdicts.
const (
	AsExpected  Verdict = "as expected"
	WithinError Verdict = "the way expected, within the error"
	NoChange    Verdict = "no difference beyond the error"
	Opposite    Verdict = "the other way than expected"
)

// Compare returns the outcome of the change from one brew to the next.
func Compare(before, after Brew) Outcome {
	var o Outcome
	if before.Cup.Drawdown > 0 && after.Cup.Drawdown > 0 {
		d := after.Cup.Drawdown - before.Cup.Drawdown
		o.Time = &d
	}
	y0, ok0 := before.Yield()
	y1, ok1 := after.Yield()
	if !ok0 || !ok1 {
		return o
	}
	diff := cup.Difference(y0, y1)
	o.Yield = &diff
	if after.Advised == nil || after.Advised.Effect.Yield == 0 {
		return o
	}
	toward := (diff.Value > 0) == (after.Advised.Effect.Yield > 0)
	switch {
	case y0.Differs(y1) && toward:
		o.Verdict = AsExpected
	case y0.Differs(y1):
		o.Verdict = Opposite
	case toward && math.Abs(diff.Value) > diff.Error:
		o.Verdict = WithinError
	default:
		o.Verdict = NoChange
	}
	return o
}

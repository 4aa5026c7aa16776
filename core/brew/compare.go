package brew

import (
	"math"

	"yardbloom/core/cup"
	"yardbloom/core/units"
)

// An Outcome is what following an advice did, against what was expected.
type Outcome struct {
	Yield *cup.Figure // change of EY, where both were measured
	Time  *units.Seconds
	// Verdict compares the change of yield with the expected one; empty where
	// nothing was expected or measured.
	Verdict Verdict
}

// A Verdict says whether a change did what was expected of it.
type Verdict string

// The verdicts on a change.
const (
	AsExpected  Verdict = "as expected"
	WithinError Verdict = "the way expected, within the error"
	NoChange    Verdict = "no difference beyond the error"
	Opposite    Verdict = "the other way than expected"
)

// Compare tells what changed from one brew to the one that followed on it.
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
	if after.Asked == nil || after.Asked.Effect.Yield == 0 {
		return o
	}
	toward := (diff.Value > 0) == (after.Asked.Effect.Yield > 0)
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

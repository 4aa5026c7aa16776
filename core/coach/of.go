package coach

import (
	"math"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/units"
)

// Of gathers what is known of a brew. The wanted drawdown is the bag's own
// window where it has one, else the plan's.
func Of(b brew.Brew, prefs units.Prefs) Brew {
	when := b.Started
	if when.IsZero() {
		when = b.Created
	}
	out := Brew{
		Recipe: b.Recipe, Bag: b.Bag, Now: when, Window: Window(b), Gear: b.Gear,
		Freshness: b.Bag.Freshness(when), Cup: b.Cup, Prefs: prefs,
	}
	for _, m := range b.At(b.Ended).Marks {
		out.Marks = append(out.Marks, m.What)
	}
	return out
}

// Window is the drawdown wanted of a brew.
func Window(b brew.Brew) coffee.Window {
	return b.Bag.Wanted(b.Schedule().Window)
}

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
func Compare(before, after brew.Brew) Outcome {
	var o Outcome
	if before.Cup.Drawdown > 0 && after.Cup.Drawdown > 0 {
		d := after.Cup.Drawdown - before.Cup.Drawdown
		o.Time = &d
	}
	y0, ok0 := Of(before, units.Prefs{}).Yield()
	y1, ok1 := Of(after, units.Prefs{}).Yield()
	if !ok0 || !ok1 {
		return o
	}
	diff := cup.Difference(y0, y1)
	o.Yield = &diff
	if after.Asked == nil || after.Asked.Yield == 0 {
		return o
	}
	toward := (diff.Value > 0) == (after.Asked.Yield > 0)
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

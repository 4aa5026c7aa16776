package coach

import "math"

// A Direction is where an advice would move the cup.
type Direction string

// The directions. The empty one is unknown: the advice is to repeat or measure, or its change moves neither
// strength nor extraction.
const (
	AsItIs         Direction = "fine"
	Stronger       Direction = "stronger"
	Lighter        Direction = "lighter"
	MoreExtraction Direction = "more extraction"
	LessExtraction Direction = "less extraction"
)

// noticeable is the smallest change of strength and yield that counts as a direction; of two, the larger in
// these units is named.
const (
	noticeableStrength = 0.025 // points of TDS
	noticeableYield    = 0.3   // points of EY
)

// Direction returns where the advice would move the cup.
func (a Advice) Direction() Direction {
	if a.First == nil {
		if a.Do == Stop {
			return AsItIs
		}
		return ""
	}
	strength, yield := a.First.Effect.Strength/noticeableStrength, a.First.Effect.Yield/noticeableYield
	switch {
	case max(math.Abs(strength), math.Abs(yield)) < 1:
		return ""
	case math.Abs(strength) > math.Abs(yield):
		return pick(strength > 0, Stronger, Lighter)
	}
	return pick(yield > 0, MoreExtraction, LessExtraction)
}

func pick(is bool, yes, no Direction) Direction {
	if is {
		return yes
	}
	return no
}

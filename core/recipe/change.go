package recipe

import "math"

// A Change is a change of one knob.
type Change struct {
	Address
	From, To float64
}

// Changes returns the changes that turn one recipe into another: first the knobs of the whole recipe, then
// the remaining differences of single pours. Several that are one change of a joint knob are returned as that.
// It ignores differences below the resolution of a knob.
func Changes(from, to Recipe) []Change {
	out := plainChanges(from, to)
	if len(out) > 1 {
		if one, ok := jointChange(from, to); ok {
			return []Change{one}
		}
	}
	return out
}

func plainChanges(from, to Recipe) []Change {
	var out []Change
	for _, k := range knobOrder {
		a := AddressOf(k)
		if !from.Has(a) || !to.Has(a) {
			continue
		}
		was, is := from.Value(a), to.Value(a)
		if math.Abs(is-was) > minDifference(a, to) {
			out = append(out, Change{a, was, is})
			from = from.With(a, is)
		}
	}
	for i := range min(len(from.Pours), len(to.Pours)) {
		for _, k := range pourKnobOrder {
			a := Address{k, i + 1}
			if was, is := from.Value(a), to.Value(a); math.Abs(is-was) > minDifference(a, to) {
				out = append(out, Change{a, was, is})
			}
		}
	}
	return out
}

// minDifference returns the smallest difference that counts at an address.
func minDifference(a Address, r Recipe) float64 {
	const whole = 0.51 // resolution of whole grams and whole seconds
	switch {
	case a.Knob == Ratio, a.Knob == SameCup, a.Knob == Bloom:
		return whole / float64(max(1, r.Dose))
	case a.Knob == Water, a.Knob == Start:
		return whole
	}
	return 1e-6
}

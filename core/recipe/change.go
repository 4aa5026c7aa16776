package recipe

import "math"

// A Change is one thing turned.
type Change struct {
	Address
	From, To float64
}

// Changes is the list of turns that leads from one recipe to another: those of
// the whole recipe first, then what still differs in single pours. Differences
// smaller than what a person could set are none.
func Changes(from, to Recipe) []Change {
	var out []Change
	for _, k := range told {
		a := Of(k)
		if !from.Has(a) || !to.Has(a) {
			continue
		}
		was, is := from.Value(a), to.Value(a)
		if math.Abs(is-was) > least(a, to) {
			out = append(out, Change{a, was, is})
			from = from.With(a, is)
		}
	}
	for i := range min(len(from.Pours), len(to.Pours)) {
		for _, k := range toldOfPour {
			a := Address{k, i + 1}
			if was, is := from.Value(a), to.Value(a); math.Abs(is-was) > least(a, to) {
				out = append(out, Change{a, was, is})
			}
		}
	}
	return out
}

// least is the smallest difference at an address that is one.
func least(a Address, r Recipe) float64 {
	const whole = 0.51 // whole grams of water and whole seconds come no nearer
	switch {
	case a.Knob == Ratio, a.Knob == Bloom:
		return whole / float64(max(1, r.Dose))
	case a.Knob == Water, a.Knob == Start:
		return whole
	}
	return 1e-6
}

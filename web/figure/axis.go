package figure

import "math"

// An extent is a range of an axis.
type extent struct{ lo, hi float64 }

func (e *extent) cover(v, around float64) { e.lo, e.hi = min(e.lo, v-around), max(e.hi, v+around) }

// widen extends an extent to a minimum length.
func (e *extent) widen(least float64) {
	if short := least - (e.hi - e.lo); short > 0 {
		e.lo, e.hi = e.lo-short/2, e.hi+short/2
	}
}

// ticks returns a few round numbers in an extent.
func (e extent) ticks(steps ...float64) (at []float64) {
	step := steps[len(steps)-1]
	for _, s := range steps {
		if (e.hi-e.lo)/s <= 7 {
			step = s
			break
		}
	}
	for v := math.Ceil(e.lo/step) * step; v <= e.hi; v += step {
		at = append(at, v)
	}
	return at
}

// timeStep returns the distance of the ticks of a time axis, s: the usual one, or a longer one for a brew that was ended late.
func timeStep(span, usual float64) float64 {
	const most = 40 // ticks
	for _, step := range []float64{usual, 60, 300, 900, 3600, 6 * 3600, 24 * 3600} {
		if step >= usual && span/step <= most {
			return step
		}
	}
	return span / most
}

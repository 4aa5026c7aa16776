package trace

import (
	"math"
	"slices"
)

// since returns the readings from a moment on.
func (r *Reader) since(at float64) []Reading {
	i := len(r.recent)
	for i > 0 && float64(r.recent[i-1].At) >= at-1e-9 {
		i--
	}
	return r.recent[i:]
}

func (r *Reader) between(from, to float64) []Reading {
	xs := r.since(from)
	i := len(xs)
	for i > 0 && float64(xs[i-1].At) > to {
		i--
	}
	return xs[:i]
}

// slope returns the growth rate of the weight over the last seconds, g/s; false if there are too few
// readings.
func (r *Reader) slope(over float64) (float64, bool) {
	if len(r.recent) == 0 {
		return 0, false
	}
	_, _, slope, ok := fit(r.since(float64(r.recent[len(r.recent)-1].At) - over))
	return slope, ok
}

// fit returns the least-squares line through readings: their means and the slope.
func fit(xs []Reading) (t, g, slope float64, ok bool) {
	if len(xs) < 3 {
		return 0, 0, 0, false
	}
	for _, x := range xs {
		t, g = t+float64(x.At), g+float64(x.Grams)
	}
	n := float64(len(xs))
	t, g = t/n, g/n
	var tt, tg float64
	for _, x := range xs {
		d := float64(x.At) - t
		tt, tg = tt+d*d, tg+d*(float64(x.Grams)-g)
	}
	if tt <= 0 {
		return t, g, 0, false
	}
	return t, g, tg / tt, true
}

// spread returns the range of the readings.
func spread(xs []Reading) float64 {
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, x := range xs {
		lo, hi = min(lo, float64(x.Grams)), max(hi, float64(x.Grams))
	}
	return hi - lo
}

func median(xs []Reading) float64 {
	if len(xs) == 0 {
		return 0
	}
	var room [64]float64
	gs := room[:0]
	for _, x := range xs {
		gs = append(gs, float64(x.Grams))
	}
	slices.Sort(gs)
	mid := len(gs) / 2
	if len(gs)%2 == 1 {
		return gs[mid]
	}
	return (gs[mid-1] + gs[mid]) / 2
}

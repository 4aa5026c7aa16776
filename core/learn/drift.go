package learn

import (
	"math"
	"time"

	"yardbloom/core/forecast"
)

// A Drift is a grinder whose drawdowns changed at some moment by more than the scatter between brews and bags: its
// zero has moved, or its burrs have.
type Drift struct {
	Grinder      string // as in Sample
	Since        time.Time
	By           float64 // ln of the size; negative: finer than before
	Slower       float64 // relative time of the draining
	Significance float64 // standard errors
	// Bag is true if the change coincides with a change of the bag, so that the bag may be the reason.
	Bag bool
}

// Drifts looks for a change in each grinder's brews. Bags differ in flow too, so a change is only claimed if bags that were
// brewed before and after it share it. The result is only reported, because a deliberate change looks the same.
func (y *Knowledge) Drifts() (out []Drift) {
	if y == nil {
		return nil
	}
	by := map[string][]Seen{}
	var order []string
	for _, s := range y.Seen {
		if s.Drawdown > 0 && s.PerSize != 0 && (!s.Out || s.Odd) {
			if by[s.Grinder] == nil {
				order = append(order, s.Grinder)
			}
			by[s.Grinder] = append(by[s.Grinder], s)
		}
	}
	for _, grinder := range order {
		if d, ok := drift(by[grinder]); ok {
			d.Grinder = grinder
			out = append(out, d)
		}
	}
	return out
}

const (
	scatter = 0.065 // of ln(drawdown), between brews of one bag
	// fromFlow is the change of ln(drawdown) for one of ln(permeability): bed and outlet share the resistance.
	fromFlow = 0.8
)

// drift returns the moment that divides a grinder's brews best.
func drift(seen []Seen) (best Drift, found bool) {
	const (
		least  = 3    // brews on each side
		surely = 2.8  // standard errors, at the best of all moments: exceeded by chance in one history of twenty
		worth  = 0.05 // ln of the size: the smallest change that is reported
	)
	latest := latestBag(seen)
	for at := least; at <= len(seen)-least; at++ {
		step, err := stepAt(seen, at, fromFlow*math.Sqrt(key{forecast.Flow, bagPrefix}.variance()))
		d := Drift{Since: seen[at].At, By: step / seen[at].PerSize, Slower: math.Expm1(step), Significance: math.Abs(step) / err}
		if math.Abs(d.By) > worth && d.Significance > surely && d.Significance > best.Significance {
			best, found = d, true
		}
	}
	if found || latest < least || latest > len(seen)-least {
		return best, found
	}
	plain, err := stepAt(seen, latest, 0)
	best = Drift{Since: seen[latest].At, By: plain / seen[latest].PerSize, Slower: math.Expm1(plain), Significance: math.Abs(plain) / err, Bag: true}
	return best, math.Abs(best.By) > worth && best.Significance > surely
}

// latestBag returns the index of the first brew of the bag that was opened last.
func latestBag(seen []Seen) (at int) {
	known := map[string]bool{}
	for i, s := range seen {
		if !known[s.Bag] {
			known[s.Bag], at = true, i
		}
	}
	return at
}

// stepAt returns the step in ln(drawdown) from the brew at on, and its standard error, by generalized least squares with an
// intercept, the step, and an effect of each bag with a standard deviation of between.
func stepAt(seen []Seen, at int, between float64) (step, err float64) {
	type sums struct{ n, after, y, yAfter float64 }
	bags := map[string]*sums{}
	for i, s := range seen {
		b := bags[s.Bag]
		if b == nil {
			b = &sums{}
			bags[s.Bag] = b
		}
		b.n++
		b.y += s.Slow
		if i >= at {
			b.after++
			b.yAfter += s.Slow
		}
	}
	// The inverse covariance of a bag's brews is (1 − shrink·11ᵀ)/scatter².
	var oo, oa, aa, oy, ay float64
	for _, b := range bags {
		shrink := between * between / (scatter*scatter + b.n*between*between)
		oo += b.n - shrink*b.n*b.n
		oa += b.after - shrink*b.n*b.after
		aa += b.after - shrink*b.after*b.after
		oy += b.y - shrink*b.n*b.y
		ay += b.yAfter - shrink*b.after*b.y
	}
	det := oo*aa - oa*oa
	if det <= 1e-12 {
		return 0, math.Inf(1)
	}
	return (oo*ay - oa*oy) / det, scatter * math.Sqrt(oo/det)
}

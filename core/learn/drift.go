package learn

import (
	"math"
	"time"
)

// A Drift is a grinder whose drawdowns changed at some moment by more than the scatter between brews: its
// zero has moved, or its burrs have.
type Drift struct {
	Grinder      string // as in Sample
	Since        time.Time
	By           float64 // ln of the size; negative: finer than before
	Significance float64 // standard errors
}

// Drifts looks for a change in each grinder's brews, by comparing the residuals of their drawdowns before
// and after each moment. The result is only reported, because a deliberate change looks the same.
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

// drift returns the moment that divides a grinder's brews best.
func drift(seen []Seen) (best Drift, found bool) {
	const (
		least   = 3    // brews on each side
		scatter = 0.08 // of ln(drawdown), between brews
		surely  = 3.2  // standard errors, at the best of all moments
		worth   = 0.08 // ln of the size: smaller changes are within the differences between bags
	)
	for at := least; at <= len(seen)-least; at++ {
		before, after := mean(seen[:at]), mean(seen[at:])
		sure := math.Abs(after-before) / (scatter * math.Sqrt(1/float64(at)+1/float64(len(seen)-at)))
		by := (after - before) / seen[at].PerSize
		if math.Abs(by) > worth && sure > surely && sure > best.Significance {
			best, found = Drift{Since: seen[at].At, By: by, Significance: sure}, true
		}
	}
	return best, found
}

func mean(seen []Seen) (m float64) {
	for _, s := range seen {
		m += s.Slow / float64(len(seen))
	}
	return m
}

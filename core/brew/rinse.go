package brew

import (
	"time"

	"yardbloom/core/units"
)

const (
	// rinseWithin is how long after the first water a brew can turn out to have been a rinse.
	rinseWithin = 4 * time.Minute
	// rinseShare is how much of a recipe's water is never poured for a rinse.
	rinseShare units.Grams = 2.0 / 3
)

// ofScale are the events that a scale makes by itself.
var ofScale = map[EventKind]bool{Start: true, Tared: true, Watched: true, Unwatched: true, Began: true, Grown: true, Ended: true, Weighed: true, Off: true, Back: true, Bend: true}

// OnlyRinsed says whether all of a brew that a scale began may have been the rinse: its first
// water was a short while ago, not much was poured, and no hand touched the screen.
func (b Brew) OnlyRinsed(now time.Time) bool {
	if b.Status != Running || now.Sub(b.Started) > rinseWithin {
		return false
	}
	for _, e := range b.Events {
		if !ofScale[e.Kind] {
			return false
		}
	}
	return b.At(now).Weight <= rinseShare*b.Plan.Steps[len(b.Plan.Steps)-1].Total
}

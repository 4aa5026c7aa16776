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
	// doseOff is how far what a mill gives lies from the dose at the most, g.
	doseOff units.Grams = 3
)

// ofScale are the events that a scale makes by itself.
var ofScale = map[EventKind]bool{Start: true, Tared: true, Watched: true, Unwatched: true, Began: true, Grown: true, Ended: true, Weighed: true, Off: true, Back: true, Bend: true}

// OnlyRinsed says whether all of a brew that a scale began may have been the rinse: not much
// was poured, a short while ago, and no hand touched the screen.
func (b Brew) OnlyRinsed(now time.Time) bool {
	return b.untouched(now) && b.At(now).Weight <= rinseShare*b.Plan.Steps[len(b.Plan.Steps)-1].Total
}

// OnlyDosed says whether what a scale took for the first water was the coffee: about the dose
// was on it when it was tared again.
func (b Brew) OnlyDosed(tared units.Grams, now time.Time) bool {
	off := tared - b.Recipe.Dose
	return b.untouched(now) && off < doseOff && off > -doseOff
}

// untouched says that a brew has only just begun, and that no hand touched the screen.
func (b Brew) untouched(now time.Time) bool {
	if b.Status != Running || now.Sub(b.Started) > rinseWithin {
		return false
	}
	for _, e := range b.Events {
		if !ofScale[e.Kind] {
			return false
		}
	}
	return true
}

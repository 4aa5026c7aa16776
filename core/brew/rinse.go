package brew

import (
	"time"

	"yardbloom/core/units"
)

const (
	// rinseWithin is the time after the first water in which a brew can turn out to have been a rinse.
	rinseWithin = 4 * time.Minute
	// rinseShare is the share of a recipe's water that no rinse exceeds.
	rinseShare units.Grams = 2.0 / 3
	// doseTolerance is the maximum difference between the ground coffee and the dose, g.
	doseTolerance units.Grams = 3
)

// scaleEvents holds the events that devices and the plan cause without a tap.
var scaleEvents = map[EventKind]bool{Start: true, Tared: true, Watched: true, Unwatched: true, Began: true, Grown: true, Ended: true,
	Weighed: true, Off: true, Back: true, Bend: true, Heated: true}

// LooksLikeRinse reports whether a brew that a scale began may have been the filter rinse: little water, a
// short time ago, and no tap.
func (b Brew) LooksLikeRinse(now time.Time) bool {
	return b.justStarted(now) && b.At(now).Weight <= rinseShare*b.Plan.Steps[len(b.Plan.Steps)-1].Total
}

// LooksLikeDosing reports whether the first water of a brew was the coffee being weighed: the scale showed about
// the dose when it was tared again.
func (b Brew) LooksLikeDosing(tared units.Grams, now time.Time) bool {
	off := tared - b.Recipe.Dose
	return b.justStarted(now) && off < doseTolerance && off > -doseTolerance
}

// justStarted reports whether a brew has just begun and has no taps.
func (b Brew) justStarted(now time.Time) bool {
	if b.Status != Running || now.Sub(b.Started) > rinseWithin {
		return false
	}
	for _, e := range b.Events {
		if !scaleEvents[e.Kind] {
			return false
		}
	}
	return true
}

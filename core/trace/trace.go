// Package trace detects events in the readings of a scale under a brewer: the first water, the start, end
// and amount of each pour, swirls for which the brewer is lifted, and the lift at the end.
//
// # The algorithm
//
// A Reader processes readings one by one and is always in one of four states.
//
//	still     The weight rests. Its level is the median of a second and a half. The
//	          state becomes pouring once every reading of half a second is above the
//	          level by more than noise and the last ones climb: a swirl on the scale
//	          swings to both sides, a pour does not return. The pour began when the
//	          weight was last at the level, minus the delay of hand and scale.
//	pouring   The weight climbs. The pour is over once the weight has stopped rising for
//	          most of a second; a shorter pause belongs to the pour. It ended when the
//	          weight reached the present rest weight. Its amount is reported at once,
//	          and again when the weight is at rest.
//	away      The weight fell by more than the lightest brewer within half a second: the
//	          brewer was lifted. It comes back, or after six seconds it is off for good
//	          from the moment of the lift. If it comes back without its water, the water
//	          was a rinse.
//	moved     The weight jumped faster than any pour: something was put on the scale.
//	          Once at rest, its weight is subtracted. A fall to zero, and not below, is
//	          a tare: the weight before is added.
//
// Clock steps backwards, NaN, implausible weights and floods of readings are ignored. Water that arrives
// during a gap in the readings is one pour of which only the amount is known.
package trace

import "yardbloom/core/units"

// A Reading is the weight shown by a scale at a moment of a brew.
type Reading struct {
	At    units.Seconds
	Grams units.Grams
}

// Rounded returns a reading rounded as it is stored: to 0.01 s and 0.1 g. Replaying stored readings after a
// restart gives the same events.
func (x Reading) Rounded() Reading {
	return Reading{units.Seconds(units.Round(float64(x.At), 2)), units.Grams(units.Round(float64(x.Grams), 1))}
}

// Kind is the kind of an event.
type Kind string

// The kinds of events.
const (
	Began   Kind = "began"   // start of a pour, at At
	Grown   Kind = "grown"   // the running pour is larger than additional drops; Total so far
	Ended   Kind = "ended"   // end of a pour, at At; Total is the poured weight so far, Water that of the pour
	Weighed Kind = "weighed" // Total and Water of the last pour, after the weight has come to rest
	Tared   Kind = "tared"   // the scale was tared; Total is the weight before, which still counts
	Lifted  Kind = "lifted"  // the brewer was lifted, for a swirl or for good
	Back    Kind = "back"    // the brewer is back
	Emptied Kind = "emptied" // the brewer is back without its water; Water is the missing amount
	Off     Kind = "off"     // the brewer was lifted for good, at At; Total is the reading without it
)

// Seen is a detected event.
type Seen struct {
	Kind  Kind
	At    units.Seconds
	Total units.Grams
	Water units.Grams
}

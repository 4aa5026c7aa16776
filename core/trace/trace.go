// Package trace understands what a scale under a brewer shows while somebody brews:
// the first water, when each pour began and ended and how much it was, swirls for
// which the brewer is lifted, and the lift at the end.
//
// # The algorithm
//
// A Reader takes readings one by one and is always in one of four states.
//
//	still     The weight rests. Its level is the median of a second and a half. It turns
//	          to pouring once every reading of half a second lies above the level by
//	          more than noise and the last ones climb: a swirl on the scale swings to
//	          both sides, a pour does not come back. The pour began where the weight
//	          last lay at the level, less what hand and scale take to get going.
//	pouring   The weight climbs. The pour is over once it has stopped rising for most of
//	          a second: a hand that pauses for less pours on. It ended where the weight
//	          came up to where it rests now. What it weighed is said at once, and again
//	          when the weight has come to rest.
//	away      The weight fell by more than the lightest brewer within half a second: the
//	          brewer was lifted. It comes back, or after six seconds it is off for good,
//	          from the moment at which it was lifted. If all of it comes back without the
//	          water that was in it, it was emptied: the water was a rinse.
//	moved     The weight jumped up faster than anybody pours: something was put on the
//	          scale, and once it rests it no longer counts. A fall to nothing, and not
//	          below, is a tare: what came before is added on again.
//
// A step of a clock backwards, NaN, weights that no kitchen scale shows and a flood of
// readings are passed over. After a time without readings what came meanwhile is one
// pour, of which only the amount is known.
package trace

import "yardbloom/core/units"

// A Reading is what a scale showed at a moment of a brew.
type Reading struct {
	At    units.Seconds
	Grams units.Grams
}

// Kept is a reading as finely as it is kept: to 0.01 s and 0.1 g. What is read again after a
// restart is then understood as it was.
func (x Reading) Kept() Reading {
	return Reading{units.Seconds(units.Round(float64(x.At), 2)), units.Grams(units.Round(float64(x.Grams), 1))}
}

// Kind is what was understood.
type Kind string

// What a Reader understands.
const (
	Began   Kind = "began"   // a pour: At is its start
	Grown   Kind = "grown"   // a pour: it has given more than anybody pours after, and Total so far
	Ended   Kind = "ended"   // a pour: At is its end, Total the weight poured so far, Water what it gave
	Weighed Kind = "weighed" // the pour that ended last, once the weight has come to rest: Total and Water
	Tared   Kind = "tared"   // the scale: Total is what was on it, and still counts
	Lifted  Kind = "lifted"  // the brewer, for a swirl or for good
	Back    Kind = "back"    // the brewer, where it was
	Emptied Kind = "emptied" // it stands there again without its water: Water is what is gone
	Off     Kind = "off"     // the brewer was lifted for good, at At; Total is what the scale shows without it
)

// Seen is something that was understood of the readings.
type Seen struct {
	Kind  Kind
	At    units.Seconds
	Total units.Grams
	Water units.Grams
}

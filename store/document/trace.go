package document

import (
	"yardbloom/core/trace"
	"yardbloom/core/units"
)

// Trace is the stored form of scale readings: pairs of s and g.
type Trace [][2]float64

// OfTrace returns the stored form of readings.
func OfTrace(readings []trace.Reading) (out Trace) {
	for _, x := range readings {
		x = x.Rounded()
		out = append(out, [2]float64{float64(x.At), float64(x.Grams)})
	}
	return out
}

// Core returns the readings of a document.
func (d Trace) Core() (out []trace.Reading) {
	for _, x := range d {
		out = append(out, trace.Reading{At: units.Seconds(x[0]), Grams: units.Grams(x[1])})
	}
	return out
}

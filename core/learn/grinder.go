package learn

import (
	"math"

	"yardbloom/core/forecast"
	"yardbloom/core/units"
)

// A Grinder is what a yard believes of how a grinder's settings grind.
type Grinder struct {
	Coarser float64 // than its dial says, ln of the size
	Error   float64 // one standard error of that
	Brews   int     // that taught it
}

// Grinder returns what the yard believes of the grinder of a key.
func (y *Yard) Grinder(key string) Grinder {
	out := Grinder{Error: forecast.Priors[forecast.Size]}
	if y == nil {
		return out
	}
	b := y.Beliefs(Sample{Grinder: key})
	if b == nil {
		return out
	}
	variance := 0.0
	for _, v := range b.Root[forecast.Size] {
		variance += v * v
	}
	out.Coarser, out.Error = b.Mean[forecast.Size], math.Sqrt(variance)
	for _, s := range y.Seen {
		if s.Grinder == key && !s.Out {
			out.Brews++
		}
	}
	return out
}

// Alike is the size to which another grinder's dial is set for grounds like those of
// this one at a size.
func (g Grinder) Alike(size units.Micrometres, other Grinder) units.Micrometres {
	return size * units.Micrometres(math.Exp(g.Coarser-other.Coarser))
}

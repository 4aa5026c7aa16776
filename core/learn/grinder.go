package learn

import (
	"math"

	"yardbloom/core/forecast"
	"yardbloom/core/units"
)

// A Grinder holds the learned deviation of a grinder's settings.
type Grinder struct {
	Coarser float64 // than shown by its dial, ln of the size
	Error   float64 // standard error of Coarser
	Brews   int     // number of brews behind it
}

// Grinder returns the learned deviation of the grinder with a key.
func (y *Knowledge) Grinder(key string) Grinder {
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

// A Flow is the learned flow of a bag.
type Flow struct {
	Slower float64 // than an ordinary bag at the same setting: relative time of the draining
	Error  float64 // standard error of Slower
	Brews  int     // number of brews behind it
}

// Flow returns the learned flow of a bag.
func (y *Knowledge) Flow(bagID string) (out Flow) {
	if y == nil {
		return out
	}
	i, known := y.index[key{forecast.Flow, bagPrefix + bagID}]
	if !known {
		return out
	}
	out.Slower, out.Error = math.Exp(-fromFlow*y.mean[i])-1, fromFlow*math.Sqrt(y.cov.At(i, i))
	for _, s := range y.Seen {
		if s.Bag == bagID && !s.Out && s.Drawdown > 0 {
			out.Brews++
		}
	}
	return out
}

// MatchingSize returns the size to set on another grinder's dial for grounds like those of this grinder at a size.
func (g Grinder) MatchingSize(size units.Micrometres, other Grinder) units.Micrometres {
	return size * units.Micrometres(math.Exp(g.Coarser-other.Coarser))
}

package coach

import (
	"math"

	"yardbloom/core/cup"
)

// The taste of cups away from a person's aim, in the five steps of a sense. The tables are trainers'
// experience, not measurements.

// A trait describes a sense: its step at the aim, and its change per point of excess yield, per 0.1 % of
// excess strength, per point of yield in either direction, and for an uneven bed.
type trait struct{ at, yield, strength, off, uneven float64 }

var traits = map[cup.Sense]trait{
	cup.Acidity:    {2.9, -0.45, 0, 0, 1.2},
	cup.Bitterness: {2.1, 0.5, 0.15, 0, 1.5},
	cup.Dryness:    {1.7, 0.35, 0, 0, 0.8},
	cup.Sweetness:  {3.9, 0, 0, -0.5, -1.0},
	cup.Body:       {3.0, 0.05, 0.5, 0, 0},
	cup.Aftertaste: {3.5, 0, 0, -0.4, 0},
	cup.Clarity:    {3.5, -0.15, 0, 0, -0.9},
}

// step returns the step of a sense for a cup dy points and ds % away from the aim, with an unevenness from
// 0 to 1.
func (t trait) step(dy, ds, uneven float64) float64 {
	return t.at + t.yield*dy + t.strength*ds*10 + t.off*math.Abs(dy) + t.uneven*uneven
}

// flaws holds the log-likelihood ratio of a fault per point of missing yield, and for an uneven bed.
var flaws = map[cup.Fault]struct{ under, uneven float64 }{
	cup.Salty:  {1.6, 1.3},
	cup.Hollow: {1.3, 1.5},
}

// wishes describes the cups after which a person makes a request such as "sweeter": its dependence per
// point of excess yield, per 0.1 % of excess strength, and per point of yield in either direction.
var wishes = map[cup.Want]struct{ yield, strength, off float64 }{
	cup.Sweeter:  {-0.4, 0, 0.8},
	cup.Brighter: {1.2, 0, 0},
	cup.Lighter:  {0.3, 1.2, 0},
	cup.Stronger: {-0.2, -1.2, 0},
}

// The standard deviation of a person's words from these tables, in steps, and of a mark from the expected
// one; and the frequency of a bad bed by chance.
const (
	ofSteps, ofMarks = 0.8, 0.9
	badBed           = 1. / 8
)

// expected returns the expected mark of a cup away from the aim: one less for each point of yield or 0.1 %
// of strength, and two less for an uneven bed.
func expected(dy, ds, uneven float64) float64 {
	return math.Max(1, 9.2-math.Hypot(dy, ds*10)-unevenCosts*uneven)
}

const unevenCosts = 2.

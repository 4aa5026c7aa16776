package coach

import (
	"math"

	"yardbloom/core/cup"
)

// What cups off a person's aim taste like: a trainer's tables, in steps of the five words
// of a sense. They are a trainer's experience, not measured.

// A trait says what a sense is like for a cup that is off the aim: its step where the
// cup is on it, what a point of yield too much adds, what 0.1 % of strength too much
// adds, what a point of yield either way adds, and what an uneven bed adds.
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

// step is where on its scale a sense stands for a cup that is dy points and ds % off the
// aim, and uneven by so much (0 to 1).
func (t trait) step(dy, ds, uneven float64) float64 {
	return t.at + t.yield*dy + t.strength*ds*10 + t.off*math.Abs(dy) + t.uneven*uneven
}

// flaws say how much likelier a fault in the cup is for each point of yield too little, and for an uneven bed.
var flaws = map[cup.Fault]struct{ under, uneven float64 }{
	cup.Salty:  {1.6, 1.3},
	cup.Hollow: {1.3, 1.5},
}

// wishes say where a cup lies of which somebody says "sweeter, please": how the wish
// grows with a point of yield too much, with 0.1 % of strength too much, and with a point
// of yield either way.
var wishes = map[cup.Want]struct{ yield, strength, off float64 }{
	cup.Sweeter:  {-0.4, 0, 0.8},
	cup.Brighter: {1.2, 0, 0},
	cup.Lighter:  {0.3, 1.2, 0},
	cup.Stronger: {-0.2, -1.2, 0},
}

// How far what a person says may lie from these tables, in steps, and a mark from what is
// expected; and how often a bed is bad that nobody is to blame for.
const (
	ofSteps, ofMarks = 0.8, 0.9
	badBed           = 1. / 8
)

// expected is the mark that a cup so far off the aim gets: a mark less for each point of
// yield or 0.1 % of strength, and two less for an uneven bed.
func expected(dy, ds, uneven float64) float64 {
	return math.Max(1, 9.2-math.Hypot(dy, ds*10)-unevenCosts*uneven)
}

const unevenCosts = 2.

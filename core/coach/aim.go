package coach

import (
	"math"

	"yardbloom/core/cup"
	"yardbloom/core/forecast"
)

// An aim is where a person likes a coffee, as a spread over yield and strength in the
// model's own coordinates: a mill that is off, or a coffee that gives itself up faster, moves
// both alike and drops out.
type aim struct {
	weight [aimYields][aimStrengths]float64 // adding to 1
}

// The grid of aims, and what is believed before a cup was tasted.
const (
	aimYields, aimStrengths = 33, 25
	yieldFrom, yieldStep    = 14.5, 0.375 // %
	strengthFrom, strongBy  = 0.84, 0.045 // %
	likedYield, yieldSpread = 20.5, 2.2
	likedStrength, spread   = 1.38, 0.18
)

func yieldAt(i int) float64    { return yieldFrom + yieldStep*float64(i) }
func strengthAt(j int) float64 { return strengthFrom + strongBy*float64(j) }

func newAim() aim {
	var a aim
	for i := range a.weight {
		for j := range a.weight[i] {
			dy, ds := (yieldAt(i)-likedYield)/yieldSpread, (strengthAt(j)-likedStrength)/spread
			a.weight[i][j] = math.Exp(-(dy*dy + ds*ds) / 2)
		}
	}
	a.normalise()
	return a
}

func (a *aim) normalise() {
	sum := 0.0
	for i := range a.weight {
		for j := range a.weight[i] {
			sum += a.weight[i][j]
		}
	}
	for i := range a.weight {
		for j := range a.weight[i] {
			a.weight[i][j] /= sum
		}
	}
}

// A trait says what a sense is like for a cup that is off the aim: its step where the
// cup is on it, what a point of yield too much adds, what 0.1 % of strength too much
// adds, what a point either way adds, and what an uneven bed adds. A trainer's table.
type trait struct{ at, yield, strength, off, uneven float64 }

var traits = map[cup.Sense]trait{
	cup.Acidity:    {2.9, -0.45, 0, 0, 1.0},
	cup.Bitterness: {2.1, 0.5, 0.15, 0, 1.0},
	cup.Dryness:    {1.7, 0.35, 0, 0, 0.8},
	cup.Sweetness:  {3.9, 0, 0, -0.5, -1.0},
	cup.Body:       {3.0, 0.05, 0.5, 0, 0},
	cup.Aftertaste: {3.5, 0, 0, -0.4, 0},
	cup.Clarity:    {3.5, -0.15, 0, 0, -0.9},
}

// How far what a person says may lie from the table, in steps, and a mark from what is
// expected, and how often a bed is bad.
const (
	ofSteps, ofMarks = 0.8, 0.9
	badBed           = 1. / 8
)

// expected is the mark that a cup so far off the aim gets.
func expected(dy, ds, uneven float64) float64 {
	return math.Max(1, 9-math.Hypot(dy, ds*10)-2*uneven)
}

// step is where on its scale a sense stands for a cup that is dy points and ds % off the
// aim, and uneven by so much (0 to 1).
func (t trait) step(dy, ds, uneven float64) float64 {
	return t.at + t.yield*dy + t.strength*ds*10 + t.off*math.Abs(dy) + t.uneven*uneven
}

// likelihood is how likely, up to a factor, what was tasted is for such a cup.
func likelihood(t cup.Taste, dy, ds, uneven float64) float64 {
	sum := 0.0
	for sense, said := range t.Steps {
		if tr, known := traits[sense]; known && said > 0 {
			off := (float64(said) - tr.step(dy, ds, uneven)) / ofSteps
			sum += off * off
		}
	}
	if t.Overall > 0 {
		off := (float64(t.Overall) - expected(dy, ds, uneven)) / ofMarks
		sum += off * off
	}
	switch t.Serve { // about a mark of 7 or more, or 6 or less
	case "yes":
		off := math.Min(0, expected(dy, ds, uneven)-7.5)
		sum += off * off
	case "no":
		off := math.Max(0, expected(dy, ds, uneven)-6.5)
		sum += off * off
	}
	return math.Exp(-sum / 2)
}

// seenUneven is how much likelier an uneven bed is for what was seen of it.
func seenUneven(c Case) float64 {
	switch {
	case uneven(c) != "":
		return 6
	case c.Cup.Bed == cup.FlatBed:
		return 0.6
	}
	return 1
}

// learn narrows the aim by a cup of so much yield and strength, in the model's
// coordinates, and returns how likely its bed was uneven.
func (a *aim) learn(c Case, yield, strength float64) (unevenness float64) {
	prior := badBed * seenUneven(c)
	prior /= prior + 1 - badBed
	var even, odd float64
	for i := range a.weight {
		for j := range a.weight[i] {
			dy, ds := yield-yieldAt(i), strength-strengthAt(j)
			e := (1 - prior) * likelihood(c.Cup.Taste, dy, ds, 0)
			o := prior * likelihood(c.Cup.Taste, dy, ds, 1)
			even, odd = even+a.weight[i][j]*e, odd+a.weight[i][j]*o
			a.weight[i][j] *= e + o
		}
	}
	a.normalise()
	return odd / (even + odd)
}

// mark is the mark that a cup is expected to get, an even one.
func (a *aim) mark(yield, strength float64) float64 {
	sum := 0.0
	for i := range a.weight {
		for j := range a.weight[i] {
			sum += a.weight[i][j] * expected(yield-yieldAt(i), strength-strengthAt(j), 0)
		}
	}
	return sum
}

// better is the probability that a cup is liked more than another one.
func (a *aim) better(o offset, f, than forecast.Forecast) float64 {
	sum := 0.0
	for i := range a.weight {
		for j := range a.weight[i] {
			y, s := yieldAt(i), strengthAt(j)
			if expected(o.yield(f)-y, o.strength(f)-s, 0) > expected(o.yield(than)-y, o.strength(than)-s, 0) {
				sum += a.weight[i][j]
			}
		}
	}
	return sum
}

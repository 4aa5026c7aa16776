// Package recipe turns a coffee and gear into amounts, a grind, a temperature
// and a pour schedule.
//
// A Recipe holds what a person decides; Plan works the schedule out of it.
package recipe

import (
	"math"
	"slices"

	"yardbloom/core/units"
)

// A Recipe is everything that is decided before a brew. What follows from it
// (running totals, times) is its Plan.
type Recipe struct {
	Style       StyleID           `json:"style"`
	Dose        units.Grams       `json:"dose"`
	Water       units.Grams       `json:"water"`
	Grind       units.Micrometres `json:"grind"` // median size
	Temperature units.Celsius     `json:"temperature"`
	Bloom       float64           `json:"bloom"`     // g of water per g of dose; 0 for none
	BloomTime   units.Seconds     `json:"bloomTime"` // from first water to the next pour
	Hand        Hand              `json:"hand"`      // what the hand does after the bloom and after the last pour
	Height      Height            `json:"height"`    // of the stream over the bed, before the last pour
	// Pours, Rate (g/s) and Gap (s, from the start of one pour to the start of the
	// next) are those after the bloom; 0 leaves each to the style. WhenDrained
	// starts each but the first when the water of the one before has reached the
	// bed; the first one waits for the bloom's time.
	Pours       int           `json:"pours,omitempty"`
	Rate        float64       `json:"rate,omitempty"`
	Gap         units.Seconds `json:"gap,omitempty"`
	WhenDrained bool          `json:"whenDrained,omitempty"`
	Pattern     Pattern       `json:"pattern,omitempty"` // of those pours; "" leaves it to the style
	Steep       units.Seconds `json:"steep"`             // valve steeper: from first water to opening the valve
	Rinse       bool          `json:"rinse"`
}

// Ratio is water over dose, or 0 where there is no dose.
func (r Recipe) Ratio() float64 {
	if r.Dose <= 0 {
		return 0
	}
	return float64(r.Water / r.Dose)
}

// Amounts returns the recipe's four amounts for a brewer that keeps so many g of liquid per g of dose.
func (r Recipe) Amounts(retained float64) Amounts {
	return amounts(r.Dose, r.Water, retained)
}

// Height is how high the stream falls onto the bed.
type Height int

// The heights of a pour.
const (
	Low  Height = iota // spout just over the water
	Mid                // about a hand's breadth
	High               // about two hands' breadths
)

var heightNames = [...]string{"low", "mid", "high"}

func (h Height) String() string {
	if h < Low || h > High {
		return "mid"
	}
	return heightNames[h]
}

// Heights lists the heights from low to high.
func Heights() []Height { return []Height{Low, Mid, High} }

// ParseHeight reads the name of a height.
func ParseHeight(name string) (Height, bool) {
	i := slices.Index(heightNames[:], name)
	return Height(i), i >= 0
}

// Hand is what the hand does to the bed after a pour.
type Hand string

// What a hand can do.
const (
	NoHand      Hand = ""
	Tap         Hand = "tap"
	Swirl       Hand = "swirl"
	StirBed     Hand = "stir"
	NeedleStir  Hand = "needle stir"
	SurfaceStir Hand = "surface stir"
)

// Hands lists what a hand can do, from nothing to much.
func Hands() []Hand { return []Hand{NoHand, Tap, Swirl, SurfaceStir, NeedleStir, StirBed} }

func (h Hand) String() string {
	if h == NoHand {
		return "nothing"
	}
	return string(h)
}

// A Knob is one number that can be turned on a recipe, by a person or by advice.
type Knob string

// The knobs of a recipe. Yes-or-no knobs are 1 or 0, the height 0 to 2, the
// pattern its place in Patterns.
const (
	KnobRatio       Knob = "ratio"
	KnobGrind       Knob = "grind"
	KnobTemperature Knob = "temperature"
	KnobBloom       Knob = "bloom"
	KnobBloomTime   Knob = "bloom time"
	KnobSwirl       Knob = "swirl"
	KnobPours       Knob = "pours"
	KnobRate        Knob = "pour rate"
	KnobGap         Knob = "gap"
	KnobDrained     Knob = "wait for the bed"
	KnobPattern     Knob = "pattern"
	KnobHeight      Knob = "height"
	KnobSteep       Knob = "steep"
	KnobRinse       Knob = "rinse"
)

type knob struct {
	knob  Knob
	get   func(Recipe) float64
	set   func(*Recipe, float64)
	Range units.Range
}

// knobs is the one table of what can be turned, in the order in which changes are told.
var knobs = []knob{
	{KnobRatio, Recipe.Ratio, func(r *Recipe, v float64) { r.Water = units.Grams(units.Round(float64(r.Dose)*v, 0)) }, RatioRange},
	{KnobGrind, func(r Recipe) float64 { return float64(r.Grind) }, func(r *Recipe, v float64) { r.Grind = units.Micrometres(v) }, units.Range{Lo: 200, Hi: 1600}},
	{KnobTemperature, func(r Recipe) float64 { return float64(r.Temperature) }, func(r *Recipe, v float64) { r.Temperature = units.Celsius(v) }, units.Range{Lo: 70, Hi: 100}},
	{KnobBloom, func(r Recipe) float64 { return r.Bloom }, func(r *Recipe, v float64) { r.Bloom = v }, units.Range{Lo: 0, Hi: 5}},
	{KnobBloomTime, func(r Recipe) float64 { return float64(r.BloomTime) }, func(r *Recipe, v float64) { r.BloomTime = units.Seconds(v) }, units.Range{Lo: 15, Hi: 180}},
	{KnobSwirl, func(r Recipe) float64 { return flag(r.Hand != NoHand) }, setSwirl, units.Range{Lo: 0, Hi: 1}},
	{KnobPours, func(r Recipe) float64 { return float64(r.PourCount()) }, func(r *Recipe, v float64) { r.Pours, r.Gap = int(math.Round(v)), 0 }, units.Range{Lo: 1, Hi: 8}},
	{KnobRate, func(r Recipe) float64 { return r.PourRate() }, func(r *Recipe, v float64) { r.Rate = v }, units.Range{Lo: 1, Hi: 20}},
	{KnobGap, func(r Recipe) float64 { return float64(r.PourGap()) }, func(r *Recipe, v float64) { r.Gap = units.Seconds(v) }, units.Range{Lo: 5, Hi: 140}},
	{KnobDrained, func(r Recipe) float64 { return flag(r.WhenDrained) }, func(r *Recipe, v float64) { r.WhenDrained = v > 0 }, units.Range{Lo: 0, Hi: 1}},
	{KnobPattern, func(r Recipe) float64 { return float64(slices.Index(Patterns(), r.PourPattern())) }, func(r *Recipe, v float64) { r.Pattern = Patterns()[int(v)] }, units.Range{Lo: 0, Hi: 3}},
	{KnobHeight, func(r Recipe) float64 { return float64(r.Height) }, func(r *Recipe, v float64) { r.Height = Height(v) }, units.Range{Lo: 0, Hi: 2}},
	{KnobSteep, func(r Recipe) float64 { return float64(r.Steep) }, func(r *Recipe, v float64) { r.Steep = units.Seconds(v) }, units.Range{Lo: 60, Hi: 600}},
	{KnobRinse, func(r Recipe) float64 { return flag(r.Rinse) }, func(r *Recipe, v float64) { r.Rinse = v > 0 }, units.Range{Lo: 0, Hi: 1}},
}

// setSwirl turns the hand's motion on or off: a hand that does something else than
// a swirl already goes on with it.
func setSwirl(r *Recipe, v float64) {
	switch {
	case v <= 0:
		r.Hand = NoHand
	case r.Hand == NoHand:
		r.Hand = Swirl
	}
}

func flag(b bool) float64 {
	if b {
		return 1
	}
	return 0
}

func (k Knob) row() knob {
	for _, row := range knobs {
		if row.knob == k {
			return row
		}
	}
	panic("recipe: no knob " + string(k)) // a knob is a constant of this package
}

// Range is what a knob may be set to.
func (k Knob) Range() units.Range { return k.row().Range }

// Value reads a knob.
func (r Recipe) Value(k Knob) float64 { return k.row().get(r) }

// With returns the recipe with one knob set and all else kept. A new ratio
// keeps the dose and changes the water.
func (r Recipe) With(k Knob, v float64) Recipe {
	k.row().set(&r, v)
	return r
}

// A Change is one knob turned.
type Change struct {
	Knob Knob    `json:"knob"`
	From float64 `json:"from"`
	To   float64 `json:"to"`
}

// Changes lists the knobs that differ between two recipes. Differences smaller
// than what a person could set are none.
func Changes(from, to Recipe) []Change {
	var out []Change
	for _, k := range knobs {
		if k.knob == KnobGap && from.Gap == 0 && to.Gap == 0 {
			continue // it follows from the rest
		}
		a, b := k.get(from), k.get(to)
		least := 1e-9
		if k.knob == KnobRatio {
			least = 0.51 / float64(max(1, to.Dose)) // half a gram of water: whole grams come no nearer
		}
		if d := b - a; d > least || d < -least {
			out = append(out, Change{k.knob, a, b})
		}
	}
	return out
}

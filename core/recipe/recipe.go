// Package recipe turns a coffee and gear into amounts, a grind, a temperature
// and pours.
//
// A Recipe holds its pours. A Style writes them once, from a dose and an amount
// of water; after that they stand for themselves. Plan works out the running
// totals and times. Everything that can be turned has an Address, and one table
// of knobs says how each is read and set.
package recipe

import (
	"slices"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// A Recipe is everything that is decided before a brew.
type Recipe struct {
	Style StyleID           // wrote the pours
	Dose  units.Grams       // dry coffee
	Grind units.Micrometres // median size
	Rinse bool              // of the filter
	Pours []Pour            // at least one, in their order
	// WaterFirst puts the coffee onto the water of a steep instead of the water onto it.
	WaterFirst bool
	Crust      units.Seconds // of a steep: when the crust is broken; 0: it is left alone
	Release    units.Seconds // of a steep: when the valve is opened; 0: the brew runs through at once
	Aim        units.Seconds // wanted end of the last steady stream; 0: none is wanted
	Carafe     gear.Material // what it runs into; empty: glass
	Ice        Ice           // in the carafe
	Dilution   Dilution      // of the cup
}

// A Pour is water from the kettle. Water and Start are exact; the Plan rounds
// them to what a scale and a hand can follow.
type Pour struct {
	Bloom       bool
	Water       units.Grams
	Start       units.Seconds // since the first water
	WhenDrained bool          // starts when the water before it has reached the bed; Start is when that is expected
	Rate        float64       // g/s
	Height      Height
	Pattern     Pattern
	Temperature units.Celsius // of the water in the kettle
	Then        Hand          // what the hand does when the water is in
	Pinned      bool          // keeps its water when another pour gets more or less
}

// Lasts is how long the pour takes at its rate, s.
func (p Pour) Lasts() units.Seconds { return units.Seconds(float64(p.Water) / p.Rate) }

// Ice lies in the carafe before the brew runs onto it. The zero Ice is none.
type Ice struct {
	Mass        units.Grams
	Temperature units.Celsius // −18 out of a deep freezer, 0 out of a machine
	Wet         float64       // share of the mass that is water already
}

// Dilution is water that the cup gets afterwards. The zero Dilution is none.
type Dilution struct {
	Water       units.Grams
	Temperature units.Celsius
}

// Steeps says that all of the water stands with the coffee until a valve is opened.
func (r Recipe) Steeps() bool { return r.Release > 0 }

// Waits says that a pour waits for the bed.
func (r Recipe) Waits() bool {
	return slices.ContainsFunc(r.Pours, func(p Pour) bool { return p.WhenDrained })
}

// Water is all the water that is poured, g.
func (r Recipe) Water() units.Grams {
	var sum units.Grams
	for _, p := range r.Pours {
		sum += p.Water
	}
	return sum
}

// Ratio is all water over dose, or 0 where there is no dose.
func (r Recipe) Ratio() float64 {
	if r.Dose <= 0 {
		return 0
	}
	return float64(r.Total() / r.Dose)
}

// Temperature is what the kettle is set to for the first pour.
func (r Recipe) Temperature() units.Celsius {
	if len(r.Pours) == 0 {
		return 0
	}
	return r.Pours[0].Temperature
}

// Amounts returns the recipe's four amounts for a brewer that keeps so many g of liquid per g of dose.
func (r Recipe) Amounts(retained float64) Amounts {
	return amounts(r.Dose, r.Total(), retained)
}

// blooms is 1 where the first pour is a bloom, else 0: the place of the first pour after it.
func (r Recipe) blooms() int {
	if len(r.Pours) > 0 && r.Pours[0].Bloom {
		return 1
	}
	return 0
}

// after are the pours after the bloom. They are the recipe's own, not copies.
func (r Recipe) after() []Pour { return r.Pours[r.blooms():] }

// clone returns a recipe whose pours can be changed without changing those of r.
func (r Recipe) clone() Recipe {
	r.Pours = slices.Clone(r.Pours)
	return r
}

// Height is how high the stream falls onto the bed.
type Height int

// The heights of a pour.
const (
	Low  Height = iota // spout just over the water
	Mid                // about a hand's breadth
	High               // about two hands' breadths
)

var heightNames = []string{"low", "mid", "high"}

func (h Height) String() string {
	if h < Low || h > High {
		return "mid"
	}
	return heightNames[h]
}

// ParseHeight reads the name of a height.
func ParseHeight(name string) (Height, bool) {
	i := slices.Index(heightNames, name)
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

// Pattern is the path of the stream over the bed.
type Pattern string

// The patterns of a pour.
const (
	Centre  Pattern = "centre"
	Circles Pattern = "small circles"
	Spiral  Pattern = "spiral"
	Ring    Pattern = "ring"
)

// Patterns lists the patterns from the middle outwards.
func Patterns() []Pattern { return []Pattern{Centre, Circles, Spiral, Ring} }

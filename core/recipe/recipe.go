// Package recipe turns a coffee and gear into amounts, a grind, a temperature and pours.
//
// A Recipe holds its pours. A Style generates them once, from a dose and an amount of water; later edits
// change the pours, not the style. Plan computes the cumulative water and times. Every adjustable value has
// an Address, and one table of knobs defines how each is read and set.
package recipe

import (
	"slices"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// A Recipe holds all settings of a brew.
type Recipe struct {
	Style StyleID           // the style that generated the pours
	Dose  units.Grams       // dry coffee
	Grind units.Micrometres // median size
	Rinse bool              // of the filter
	Pours []Pour            // at least one, in chronological order
	// WaterFirst is true for a steep that begins with the water in the brewer and adds the coffee to it.
	WaterFirst bool
	Crust      units.Seconds // of a steep: time at which the crust is broken; 0: not broken
	Release    units.Seconds // of a steep: time at which the valve opens; 0: percolation
	Aim        units.Seconds // wanted end of the last steady stream; 0: none is wanted
	Carafe     gear.Material // material; empty: glass
	Ice        Ice           // in the carafe
	Dilution   Dilution      // of the beverage
	Screen     bool          // all water passes a dispersing screen
	Reheat     bool          // a kettle without a thermostat is put back on the heat between the pours
	Discard    units.Grams   // first part of the brew, which does not go into the cup
	CutAt      units.Grams   // brew in the carafe at which the brewer is lifted off; 0: it drains
	GlassIce   units.Grams   // one large piece in the glass; 0: some fresh ice
}

// A Pour is one pour from the kettle. Water and Start are exact; the Plan rounds them to whole grams and
// seconds.
type Pour struct {
	Bloom       bool
	Water       units.Grams
	Start       units.Seconds // from the first water
	Cue         Cue           // its start: the clock or a sight; Start is then the expected time
	Rate        float64       // g/s
	Height      Height
	Pattern     Pattern
	Temperature units.Celsius // of the water in the kettle
	Then        HandAction    // hand action after the pour
	Pinned      bool          // keeps its water when other pours change
	// Level is the height of the water to which it is poured, as a share of the height from outlet to rim; 0: by weight alone. Its
	// water was found by the model.
	Level  float64
	Second bool // from the second kettle
}

// Lasts returns the duration of the pour at its rate, s.
func (p Pour) Lasts() units.Seconds { return units.Seconds(float64(p.Water) / p.Rate) }

// Ice is the ice in the carafe. The zero value means none.
type Ice struct {
	Mass        units.Grams
	Temperature units.Celsius // −18 from a deep freezer, 0 from an ice machine
	Wet         float64       // mass fraction that is already water
}

// Dilution is water added to the beverage. The zero value means none.
type Dilution struct {
	Water       units.Grams
	Temperature units.Celsius
}

// Steeps reports whether all water stays with the coffee until a valve opens.
func (r Recipe) Steeps() bool { return r.Release > 0 }

// WaitsByEye reports whether any pour waits for the bed or the drips.
func (r Recipe) WaitsByEye() bool {
	return slices.ContainsFunc(r.Pours, func(p Pour) bool { return p.Cue.ByEye() })
}

// Water returns the total poured water, g.
func (r Recipe) Water() units.Grams {
	var sum units.Grams
	for _, p := range r.Pours {
		sum += p.Water
	}
	return sum
}

// Sources returns the water poured from the kettle and from the second kettle of a set, g.
func (r Recipe) Sources(g gear.Set) (first, second units.Grams) {
	for _, p := range r.Pours {
		if p.Second && g.Second.ID != "" {
			second += p.Water
		} else {
			first += p.Water
		}
	}
	return first, second
}

// Ratio returns total water divided by dose, or 0 without a dose.
func (r Recipe) Ratio() float64 {
	if r.Dose <= 0 {
		return 0
	}
	return float64(r.Total() / r.Dose)
}

// Temperature returns the kettle temperature of the first pour.
func (r Recipe) Temperature() units.Celsius {
	if len(r.Pours) == 0 {
		return 0
	}
	return r.Pours[0].Temperature
}

// Amounts returns the recipe's four amounts for a brewer that retains the given g of liquid per g of dose.
func (r Recipe) Amounts(retained float64) Amounts {
	return amounts(r.Dose, r.Total(), retained)
}

// bloomCount returns 1 if the first pour is a bloom, otherwise 0: the index of the first pour after the bloom.
func (r Recipe) bloomCount() int {
	if len(r.Pours) > 0 && r.Pours[0].Bloom {
		return 1
	}
	return 0
}

// mainPours returns the pours after the bloom, without copying them.
func (r Recipe) mainPours() []Pour { return r.Pours[r.bloomCount():] }

// clone returns a copy of the recipe with its own pours.
func (r Recipe) clone() Recipe {
	r.Pours = slices.Clone(r.Pours)
	return r
}

// A Cue is the start of a pour: its time, or a sight.
type Cue int

// The cues of a pour.
const (
	ForTime  Cue = iota // its time
	ForBed              // the water of the previous pour has reached the bed
	ForDrips            // the stream below the brewer has turned to drips
)

// ByEye reports whether the pour starts at a sight, not at its time.
func (c Cue) ByEye() bool { return c != ForTime }

// String returns the cue as a condition, such as "when the stream turns to drips".
func (c Cue) String() string { return waitNames[int(places(waitNames).Clamp(float64(c)))] }

// Height is the height from which the stream falls onto the bed.
type Height int

// The heights of a pour.
const (
	Low  Height = iota // spout just above the water
	Mid                // about a hand's width
	High               // about two hands' widths
)

var heightNames = []string{"low", "mid", "high"}

func (h Height) String() string {
	if h < Low || h > High {
		return "mid"
	}
	return heightNames[h]
}

// ParseHeight parses the name of a height.
func ParseHeight(name string) (Height, bool) {
	i := slices.Index(heightNames, name)
	return Height(i), i >= 0
}

// HandAction is an action on the bed after a pour.
type HandAction string

// The hand actions.
const (
	NoHand      HandAction = ""
	Tap         HandAction = "tap"
	Swirl       HandAction = "swirl"
	StirBed     HandAction = "stir"
	NeedleStir  HandAction = "needle stir"
	SurfaceStir HandAction = "surface stir"
	WashWall    HandAction = "wash the wall"
)

// Hands lists the hand actions by increasing agitation and, last, the one that hardly stirs. Stored changes hold an index: add at the
// end.
func Hands() []HandAction {
	return []HandAction{NoHand, Tap, Swirl, SurfaceStir, NeedleStir, StirBed, WashWall}
}

func (h HandAction) String() string {
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
	Scatter Pattern = "scattered drops"
)

// Patterns lists the patterns from the centre outwards.
func Patterns() []Pattern { return []Pattern{Centre, Circles, Spiral, Ring, Scatter} }

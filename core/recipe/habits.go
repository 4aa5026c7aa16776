package recipe

import (
	"slices"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// Habits holds a person's defaults for first recipes. The zero Habits are the product's defaults.
type Habits struct {
	Style             StyleID       // in brewers that support it
	Bloom             float64       // g/g; 0: the style's
	BloomTime         units.Seconds // 0: the style's
	Hand              string        // after the bloom, by name; empty: the style's
	Pattern           Pattern       // of the pours; empty: the style's
	HighLastPour      bool          // pour the last pour as high as the others
	Rinse             Rinsing
	TemperatureOffset units.Celsius // relative to the default
	LevelBed          bool          // no well in the bed of a cone
	First             LeverOrder    // first lever of the advice
	Good              int           // lowest mark of a good cup; 0: 8
	Keep              Keep          // the target that the rest of a brew keeps after a deviation
}

// Keep is the target that a replanned brew keeps.
type Keep string

// The targets.
const (
	KeepTotal    Keep = "" // the water
	KeepStrength Keep = "strength"
	KeepYield    Keep = "yield"
)

// Rinsing is the rule for rinsing the filter.
type Rinsing string

// The rinsing rules.
const (
	ByFilter Rinsing = "" // all filters but corrugated paper, whose ridges collapse, and cloth
	Always   Rinsing = "always"
	Never    Rinsing = "never"
)

// LeverOrder is the first lever of a person's advice.
type LeverOrder string

// The orders of levers: bed, grind, temperature, ratio, with one of them moved to the front.
const (
	BedFirst   LeverOrder = ""
	GrindFirst LeverOrder = "grind"
	HeatFirst  LeverOrder = "temperature"
)

// apply returns a newly written recipe with a person's habits applied.
func (h Habits) apply(r Recipe, filter gear.FilterKind) Recipe {
	switch h.Rinse {
	case Always:
		r.Rinse = true
	case Never:
		r.Rinse = false
	default:
		r.Rinse = filter != gear.CorrugatedPaper && filter != gear.Cloth
	}
	if r.bloomCount() > 0 {
		if h.Bloom > 0 {
			r = r.With(AddressOf(Bloom), h.Bloom)
		}
		if h.BloomTime > 0 {
			r = r.With(AddressOf(BloomTime), float64(h.BloomTime))
		}
		if i := slices.Index(handNames, h.Hand); i >= 0 {
			r = r.With(AddressOf(HandAfter), float64(i))
		}
	}
	if r.Steeps() {
		return r
	}
	if i := slices.Index(Patterns(), h.Pattern); i >= 0 {
		r = r.With(AddressOf(PourPattern), float64(i))
	}
	if last := len(r.Pours) - 1; h.HighLastPour && last > 0 {
		r = r.With(Address{PourHeight, last + 1}, float64(r.Pours[max(0, last-1)].Height))
	}
	return r
}

package recipe

import (
	"slices"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// Habits are where a person starts otherwise than the product does, set once for all
// first recipes. The zero Habits are the product's own.
type Habits struct {
	Style     StyleID       // in brewers that can do it
	Bloom     float64       // g/g; 0: the style's
	BloomTime units.Seconds // 0: the style's
	Hand      string        // after the bloom, by its name; empty: the style's
	Pattern   Pattern       // of the pours; empty: the style's
	LastHigh  bool          // the last pour falls as far as the others
	Rinse     Rinsing
	Hotter    units.Celsius // than the product would start
	Level     bool          // no well in the bed of a cone
	First     FirstTurned   // what is turned first when a cup wants mending
	Good      int           // the mark from which a cup is good; 0: 8
	Keep      Keep          // what still comes out where a pour went otherwise than planned
}

// Keep is what the rest of a brew is worked out for, once a pour went otherwise than planned.
type Keep string

// What can be kept.
const (
	KeepTotal    Keep = "" // the water
	KeepStrength Keep = "strength"
	KeepYield    Keep = "yield"
)

// Rinsing is when a filter is rinsed.
type Rinsing string

// The habits of rinsing.
const (
	ByFilter Rinsing = "" // not corrugated paper, whose ridges collapse, nor cloth
	Always   Rinsing = "always"
	Never    Rinsing = "never"
)

// FirstTurned is what a person turns first when a cup wants mending.
type FirstTurned string

// The orders of mending: the bed, then the grind, then the water's heat, then the ratio,
// with one of them first.
const (
	BedFirst   FirstTurned = ""
	GrindFirst FirstTurned = "grind"
	HeatFirst  FirstTurned = "temperature"
)

// apply gives a recipe that a style wrote a person's habits.
func (h Habits) apply(r Recipe, filter gear.FilterKind) Recipe {
	switch h.Rinse {
	case Always:
		r.Rinse = true
	case Never:
		r.Rinse = false
	default:
		r.Rinse = filter != gear.CorrugatedPaper && filter != gear.Cloth
	}
	if r.blooms() > 0 {
		if h.Bloom > 0 {
			r = r.With(Of(Bloom), h.Bloom)
		}
		if h.BloomTime > 0 {
			r = r.With(Of(BloomTime), float64(h.BloomTime))
		}
		if i := slices.Index(handNames, h.Hand); i >= 0 {
			r = r.With(Of(HandAfter), float64(i))
		}
	}
	if r.Steeps() {
		return r
	}
	if i := slices.Index(Patterns(), h.Pattern); i >= 0 {
		r = r.With(Of(PourPattern), float64(i))
	}
	if last := len(r.Pours) - 1; h.LastHigh && last > 0 {
		r = r.With(Address{PourHeight, last + 1}, float64(r.Pours[max(0, last-1)].Height))
	}
	return r
}

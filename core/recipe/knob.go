package recipe

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"yardbloom/core/units"
)

// A Knob is an adjustable quantity of a recipe. Its value is a number in the canonical unit; for a knob
// with Choices it is the index of the choice.
type Knob string

// The knobs. Water, Temperature, Rate, Height, Pattern, Hand and Wait can also be set for a single pour,
// Start, Lasts, Level and Source only for a single pour.
const (
	Dose        Knob = "dose"
	Water       Knob = "water"
	Ratio       Knob = "ratio"
	Cup         Knob = "cup"
	Coffee      Knob = "coffee"       // the dose at constant water
	SameCup     Knob = "same_cup"     // the ratio at a constant cup
	FinerCooler Knob = "finer_cooler" // grind and temperature
	Grind       Knob = "grind"
	Temperature Knob = "temperature"
	Bloom       Knob = "bloom"
	BloomTime   Knob = "bloom_time"
	HandAfter   Knob = "hand"
	Pours       Knob = "pours"
	Rate        Knob = "rate"
	Gap         Knob = "gap"
	Wait        Knob = "wait"
	PourPattern Knob = "pattern"
	PourHeight  Knob = "height"
	Release     Knob = "release"
	Rinse       Knob = "rinse"
	Start       Knob = "start"
	Lasts       Knob = "lasts"
	Level       Knob = "level"  // of a single pour: height of the water at its end, share of the height to the rim
	Source      Knob = "kettle" // of a single pour: the kettle

	Served    Knob = "serving"     // hot, over ice or diluted
	IcePart   Knob = "ice"         // share of the total water, %
	IceFrom   Knob = "ice_from"    // freezer or ice machine
	IceAt     Knob = "ice_at"      // temperature of the ice
	GlassIce  Knob = "glass_ice"   // one large piece in the glass
	Between   Knob = "between"     // where a kettle without a thermostat is between the pours
	Dilute    Knob = "dilution"    // share of the total water, %
	DiluteBy  Knob = "dilute_with" // hot or cold water
	Balance   Knob = "balance"     // share of the first pour in the water of the opening, %
	LastPours Knob = "last_pours"  // pours after the opening
	First     Knob = "first"       // of a steep: whether coffee or water goes in first
	CarafeOf  Knob = "carafe"      // its material
	CrustAt   Knob = "crust"       // of a steep: time at which the crust is broken
	Screen    Knob = "screen"      // dispersing screen
	Discard   Knob = "discard"     // first part of the brew
	CutAt     Knob = "cut_at"      // brew in the carafe at which the brewer is lifted off
)

// An Address identifies a knob of the whole recipe or of one pour. Pours count from 1; 0 means the whole
// recipe.
type Address struct {
	Knob Knob
	Pour int
}

// AddressOf returns the address of a knob of the whole recipe.
func AddressOf(k Knob) Address { return Address{Knob: k} }

// String formats an address for forms and stored documents, such as "dose" or "pours.2.water".
func (a Address) String() string {
	if a.Pour == 0 {
		return string(a.Knob)
	}
	return fmt.Sprintf("pours.%d.%s", a.Pour, a.Knob)
}

// ParseAddress parses the format of String. It returns false for anything else.
func ParseAddress(s string) (Address, bool) {
	a := Address{Knob: Knob(s)}
	if rest, one := strings.CutPrefix(s, "pours."); one {
		n, knob, _ := strings.Cut(rest, ".")
		place, err := strconv.Atoi(n)
		if err != nil || place < 1 || place > MaxPours || strconv.Itoa(place) != n {
			return Address{}, false
		}
		a = Address{Knob(knob), place}
	}
	k, known := table[a.Knob]
	if !known || a.Pour == 0 && k.get == nil && !isAmount(a.Knob) || a.Pour > 0 && k.getPour == nil {
		return Address{}, false
	}
	return a, true
}

func isAmount(k Knob) bool { return slices.Contains(FourAmounts(), k) }

// MaxPours is the maximum number of pours in a recipe.
const MaxPours = 40

// knobOrder is the order of knobs in lists of changes and on pages.
var knobOrder = []Knob{Dose, Ratio, Served, IcePart, IceFrom, IceAt, GlassIce, CarafeOf, Dilute, DiluteBy, Grind, Temperature, Pours, Balance,
	LastPours, Release, First, CrustAt,
	Bloom, BloomTime, Gap, Rate, PourHeight, PourPattern, Screen, HandAfter, Wait, Between, Rinse, Discard, CutAt}

// Knobs lists the knobs of a whole recipe except water and cup, in display order.
func Knobs() []Knob { return knobOrder }

// pourKnobOrder is the display order of the knobs of a single pour.
var pourKnobOrder = []Knob{Water, Start, Temperature, Rate, PourHeight, PourPattern, HandAfter, Wait, Level, Source}

// Label returns the heading of the knob on a page.
func (k Knob) Label() string { return table[k].label }

// Name returns the name of the knob within a sentence, such as "the bloom time".
func (k Knob) Name() string { return table[k].name }

// Kind returns the quantity of the knob's value.
func (k Knob) Kind() units.Kind { return table[k].kind }

// Range returns the valid range of the knob for a whole recipe, canonical.
func (k Knob) Range() units.Range { return table[k].limits }

// Usual returns the usual range of the knob, canonical. Advice stays within it.
func (k Knob) Usual() units.Range {
	if t := table[k]; t.usual != (units.Range{}) {
		return t.usual
	}
	return k.Range()
}

// Step returns the size of one step of the knob, canonical. The grind has the step of its dial.
func (k Knob) Step() float64 { return table[k].step }

// Choices returns the options of a knob with a list; nil for a number.
func (k Knob) Choices() []string { return table[k].choices }

// Range returns the valid range at the address, canonical.
func (a Address) Range() units.Range {
	row := table[a.Knob]
	if a.Pour > 0 && row.pour != (units.Range{}) {
		return row.pour
	}
	return row.limits
}

// Path returns the address in a recipe file, such as "dose_g" or "pours[1].water_g".
func (a Address) Path() string {
	if a.Pour == 0 {
		return table[a.Knob].file
	}
	return fmt.Sprintf("pours[%d].%s", a.Pour-1, table[a.Knob].file)
}

// Has reports whether the address exists in this recipe: the bloom, the valve or the pour that it names.
func (r Recipe) Has(a Address) bool {
	row := table[a.Knob]
	if a.Pour > 0 {
		begins := a.Pour == 1 && (a.Knob == Start || a.Knob == Wait) // the first pour starts the clock
		return a.Pour <= len(r.Pours) && row.getPour != nil && !begins
	}
	opening := r.Style.Style().opening
	split := opening > 0 && r.bloomCount() == 0 && len(r.Pours) > opening
	switch a.Knob {
	case Release, First, CrustAt:
		return r.Steeps()
	case Bloom, BloomTime:
		return !r.Steeps() && opening == 0 || r.bloomCount() > 0
	case Pours:
		return !r.Steeps() && !split
	case Balance, LastPours:
		return !r.Steeps() && split
	case Wait, Screen:
		return !r.Steeps()
	case Gap:
		return !r.Steeps() && len(r.mainPours()) > 1
	case IcePart, IceFrom, IceAt, GlassIce:
		return r.Serving() == OverIce
	case Dilute, DiluteBy:
		return r.Serving() == Diluted
	}
	return row.get != nil
}

// Value returns the canonical value at an address, or 0 if the recipe does not have it.
func (r Recipe) Value(a Address) float64 {
	row := table[a.Knob]
	switch {
	case a.Pour > 0 && a.Pour <= len(r.Pours) && row.getPour != nil:
		return row.getPour(r.Pours[a.Pour-1])
	case a.Pour == 0 && row.get != nil && len(r.Pours) > 0:
		return row.get(r)
	}
	return 0
}

// With returns the recipe with one value changed. Dose and Water scale the brew at the same ratio; Ratio
// changes the water. An address that the recipe does not have changes nothing.
func (r Recipe) With(a Address, v float64) Recipe {
	row := table[a.Knob]
	switch {
	case a.Pour > 0 && a.Pour <= len(r.Pours) && row.setPour != nil:
		return row.setPour(r, a.Pour-1, v)
	case a.Pour == 0 && row.set != nil && len(r.Pours) > 0:
		return row.set(r, v)
	}
	return r
}

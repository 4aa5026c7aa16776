package recipe

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"yardbloom/core/units"
)

// A Knob is one thing that can be turned on a recipe, by a person, by advice or
// by a fix. Its value is a number in the canonical unit; a knob with Choices has
// the place of the choice in the list.
type Knob string

// The knobs. Water, Temperature, Rate, Height, Pattern, Hand and Wait can be
// turned for a single pour too, Start and Lasts only for one.
const (
	Dose        Knob = "dose"
	Water       Knob = "water"
	Ratio       Knob = "ratio"
	Cup         Knob = "cup"
	Coffee      Knob = "coffee" // the dose, in the same water
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

	Served    Knob = "serving"     // hot, over ice or diluted
	IcePart   Knob = "ice"         // share of all water, %
	IceFrom   Knob = "ice_from"    // a freezer or an ice machine
	Dilute    Knob = "dilution"    // share of all water, %
	DiluteBy  Knob = "dilute_with" // hot or cold water
	Balance   Knob = "balance"     // of the opening's water, the first pour's share, %
	LastPours Knob = "last_pours"  // after the opening
	First     Knob = "first"       // of a steep: coffee or water
	CarafeOf  Knob = "carafe"      // its material
	CrustAt   Knob = "crust"       // of a steep: when the crust is broken
)

// An Address says which thing on a recipe is meant: a knob of the whole recipe,
// or of one pour. Pours count from 1; 0 is the whole recipe.
type Address struct {
	Knob Knob
	Pour int
}

// Of returns the address of a knob of the whole recipe.
func Of(k Knob) Address { return Address{Knob: k} }

// String prints an address as forms and stored documents have it, such as
// "dose" or "pours.2.water".
func (a Address) String() string {
	if a.Pour == 0 {
		return string(a.Knob)
	}
	return fmt.Sprintf("pours.%d.%s", a.Pour, a.Knob)
}

// ParseAddress reads what String prints. It returns false for anything else.
func ParseAddress(s string) (Address, bool) {
	a := Address{Knob: Knob(s)}
	if rest, one := strings.CutPrefix(s, "pours."); one {
		n, knob, _ := strings.Cut(rest, ".")
		place, err := strconv.Atoi(n)
		if err != nil || place < 1 || place > MostPours || strconv.Itoa(place) != n {
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

// MostPours is the most pours that a recipe can have.
const MostPours = 40

// told is the order in which changes are told and pages list the knobs.
var told = []Knob{Dose, Ratio, Served, IcePart, IceFrom, CarafeOf, Dilute, DiluteBy, Grind, Temperature, Pours, Balance, LastPours, Release, First, CrustAt,
	Bloom, BloomTime, Gap, Rate, PourHeight, PourPattern, HandAfter, Wait, Rinse}

// Knobs lists the knobs of a whole recipe, but the water and the cup, in the order
// in which changes are told.
func Knobs() []Knob { return told }

// toldOfPour is the same for what differs in single pours.
var toldOfPour = []Knob{Water, Start, Temperature, Rate, PourHeight, PourPattern, HandAfter, Wait}

// Label is what stands over the knob on a page.
func (k Knob) Label() string { return table[k].label }

// Name is the knob in a sentence, such as "the bloom time".
func (k Knob) Name() string { return table[k].name }

// Kind is the quantity of its value.
func (k Knob) Kind() units.Kind { return table[k].kind }

// Range is what the knob may be for a whole recipe, canonical.
func (k Knob) Range() units.Range { return table[k].limits }

// Usual is the range in which most recipes have the knob, canonical. Advice
// goes no further.
func (k Knob) Usual() units.Range {
	if t := table[k]; t.usual != (units.Range{}) {
		return t.usual
	}
	return k.Range()
}

// Step is one step of the knob, canonical; a grinder's dial has its own.
func (k Knob) Step() float64 { return table[k].step }

// Choices are the words of a knob that is chosen from a list; nil for a number.
func (k Knob) Choices() []string { return table[k].choices }

// Range is what may stand at the address, canonical.
func (a Address) Range() units.Range {
	row := table[a.Knob]
	if a.Pour > 0 && row.pour != (units.Range{}) {
		return row.pour
	}
	return row.limits
}

// Path is the address in a recipe file, such as "dose_g" or "pours[1].water_g".
func (a Address) Path() string {
	if a.Pour == 0 {
		return table[a.Knob].file
	}
	return fmt.Sprintf("pours[%d].%s", a.Pour-1, table[a.Knob].file)
}

// Has says whether the recipe has what the address names: a bloom, a
// valve, a second pour, such a pour.
func (r Recipe) Has(a Address) bool {
	row := table[a.Knob]
	if a.Pour > 0 {
		begins := a.Pour == 1 && (a.Knob == Start || a.Knob == Wait) // the first pour starts the clock
		return a.Pour <= len(r.Pours) && row.getPour != nil && !begins
	}
	opening := r.Style.Style().opening
	split := opening > 0 && r.blooms() == 0 && len(r.Pours) > opening
	switch a.Knob {
	case Release, First, CrustAt:
		return r.Steeps()
	case Bloom, BloomTime:
		return !r.Steeps() && opening == 0 || r.blooms() > 0
	case Pours:
		return !r.Steeps() && !split
	case Balance, LastPours:
		return !r.Steeps() && split
	case Wait:
		return !r.Steeps()
	case Gap:
		return !r.Steeps() && len(r.after()) > 1
	case IcePart, IceFrom:
		return r.Serving() == OverIce
	case Dilute, DiluteBy:
		return r.Serving() == Diluted
	}
	return row.get != nil
}

// Value reads what stands at an address, canonical. Nothing stands there unless the recipe Has it: 0.
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

// With returns the recipe with one thing turned and all else kept. Dose and Water
// make a brew of another size at the same ratio; Ratio changes the water. An
// address that the recipe does not have changes nothing.
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

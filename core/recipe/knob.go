package recipe

import (
	"fmt"
	"math"
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
// turned for a single pour too, Start only for one.
const (
	Dose        Knob = "dose"
	Water       Knob = "water"
	Ratio       Knob = "ratio"
	Cup         Knob = "cup"
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

// A knob is one row of the table: all that there is to know of a Knob.
type knob struct {
	label   string
	name    string // in a sentence: "the bloom time"
	kind    units.Kind
	limits  units.Range
	step    float64 // one step of it, as predictions turn it
	choices []string
	file    string // its name in a recipe file

	get     func(Recipe) float64
	set     func(Recipe, float64) Recipe
	getPour func(Pour) float64
	setPour func(r Recipe, i int, v float64) Recipe // i from 0
	pour    units.Range                             // what it may be for one pour, where that differs
}

// table is everything that can be turned.
var table = map[Knob]knob{
	Dose: {label: "Dose", name: "the dose", kind: units.Dose, limits: units.Range{Lo: 5, Hi: 120}, step: 0.5, file: "dose_g",
		get: func(r Recipe) float64 { return float64(r.Dose) },
		set: func(r Recipe, v float64) Recipe { return r.Weigh(units.Grams(v), units.Grams(v*r.Ratio())) }},
	Water: {label: "Water", name: "the water", kind: units.Water, limits: units.Range{Lo: 60, Hi: 2000}, step: 10, file: "water_g",
		get:     func(r Recipe) float64 { return float64(r.Water()) },
		set:     func(r Recipe, v float64) Recipe { return r.Weigh(units.Grams(v/r.Ratio()), units.Grams(v)) },
		getPour: func(p Pour) float64 { return float64(p.Water) },
		setPour: func(r Recipe, i int, v float64) Recipe { return r.pourWater(i, units.Grams(v)) }, pour: units.Range{Lo: 1, Hi: 2000}},
	Ratio: {label: "Ratio", name: "the ratio", kind: units.Ratio, limits: units.Range{Lo: 6, Hi: 25}, step: 0.5, file: "water_g",
		get: Recipe.Ratio,
		set: func(r Recipe, v float64) Recipe { return r.Weigh(r.Dose, r.Dose*units.Grams(v)) }},
	Cup: {label: "In the cup", name: "the cup", kind: units.Cup, limits: units.Range{Lo: 40, Hi: 1800}, step: 10},
	Grind: {label: "Grind", name: "the grind", kind: units.Grind, limits: units.Range{Lo: 200, Hi: 1600}, step: 25, file: "grind_um",
		get: func(r Recipe) float64 { return float64(r.Grind) },
		set: func(r Recipe, v float64) Recipe { r.Grind = units.Micrometres(v); return r }},
	Temperature: {label: "Water at", name: "the temperature", kind: units.Temperature, limits: units.Range{Lo: 70, Hi: 100}, step: 1, file: "temperature_c",
		get: func(r Recipe) float64 { return float64(r.Temperature()) }, set: setTemperature,
		getPour: func(p Pour) float64 { return float64(p.Temperature) },
		setPour: onPour(func(p *Pour, v float64) { p.Temperature = units.Celsius(v) }), pour: units.Range{Lo: 1, Hi: 100}},
	Bloom: {label: "Bloom", name: "the bloom", kind: units.PerDose, limits: units.Range{Lo: 0, Hi: 5}, step: 0.5, file: "pours[0].water_g",
		get: getBloom, set: Recipe.withBloom},
	BloomTime: {label: "Bloom for", name: "the bloom time", kind: units.Span, limits: units.Range{Lo: 15, Hi: 180}, step: 15, file: "pours[1].start_s",
		get: getBloomTime, set: setBloomTime},
	HandAfter: {label: "Then the hand", name: "the hand", kind: units.Count, limits: places(handNames), choices: handNames, file: "then",
		get: getHand, set: setHand,
		getPour: handOf,
		setPour: onPour(func(p *Pour, v float64) { p.Then = Hands()[int(v)] })},
	Pours: {label: "Pours after the bloom", name: "the number of pours", kind: units.Count, limits: units.Range{Lo: 1, Hi: 8}, step: 1, file: "pours",
		get: func(r Recipe) float64 { return float64(len(r.after())) },
		set: func(r Recipe, v float64) Recipe { return r.Divide(int(math.Round(v))) }},
	Rate: {label: "Pour at", name: "the pour rate", kind: units.Rate, limits: units.Range{Lo: 1, Hi: 20}, step: 1, file: "rate_g_s",
		get: first(func(p Pour) float64 { return p.Rate }), set: setRate,
		getPour: func(p Pour) float64 { return p.Rate },
		setPour: onPour(func(p *Pour, v float64) { p.Rate = v }), pour: units.Range{Lo: 0.5, Hi: 25}},
	Gap: {label: "From pour to pour", name: "the gap", kind: units.Span, limits: units.Range{Lo: 5, Hi: 140}, step: 5, file: "pours",
		get: getGap, set: setGap},
	Wait: {label: "Next pour", name: "the next pour", kind: units.Count, limits: places(waitNames), choices: waitNames, file: "when",
		get: getWait, set: setWait,
		getPour: func(p Pour) float64 { return flag(p.WhenDrained) },
		setPour: onPour(func(p *Pour, v float64) { p.WhenDrained = v > 0 })},
	PourPattern: {label: "Pour in", name: "the pattern", kind: units.Count, limits: places(patternNames), choices: patternNames, file: "pattern",
		get: first(patternOf), set: setAfter(func(p *Pour, v float64) { p.Pattern = Patterns()[int(v)] }), getPour: patternOf,
		setPour: onPour(func(p *Pour, v float64) { p.Pattern = Patterns()[int(v)] })},
	PourHeight: {label: "Pour from", name: "the height", kind: units.Count, limits: places(heightNames), choices: heightNames, file: "height",
		get: first(heightOf), set: setHeight, getPour: heightOf,
		setPour: onPour(func(p *Pour, v float64) { p.Height = Height(v) })},
	Release: {label: "Steep for", name: "the steep", kind: units.Time, limits: units.Range{Lo: 60, Hi: 600}, step: 15, file: "release_s",
		get: func(r Recipe) float64 { return float64(r.Release) }, set: setRelease},
	Rinse: {label: "Rinse the filter", name: "the rinse", kind: units.Count, limits: units.Range{Lo: 0, Hi: 1}, file: "rinse",
		get: func(r Recipe) float64 { return flag(r.Rinse) },
		set: func(r Recipe, v float64) Recipe { r.Rinse = v > 0; return r }},
	Start: {label: "Starts at", name: "the start", kind: units.Time, limits: units.Range{Lo: 0, Hi: 1200}, step: 5, file: "start_s",
		getPour: func(p Pour) float64 { return float64(p.Start) },
		setPour: func(r Recipe, i int, v float64) Recipe {
			out := r.clone()
			out.shift(i, units.Seconds(v)-r.Pours[i].Start)
			return out
		}},
}

// told is the order in which changes are told and pages list the knobs.
var told = []Knob{Dose, Ratio, Grind, Temperature, Pours, Release, Bloom, BloomTime, Gap, Rate, PourHeight, PourPattern, HandAfter, Wait, Rinse}

// Knobs lists the knobs of a whole recipe, but the water and the cup, in the order
// in which changes are told.
func Knobs() []Knob { return told }

// toldOfPour is the same for what differs in single pours.
var toldOfPour = []Knob{Water, Start, Temperature, Rate, PourHeight, PourPattern, HandAfter, Wait}

// ByClock and ByBed are the choices of Wait.
const ByClock, ByBed = "by the clock", "when the water has reached the bed"

var (
	waitNames    = []string{ByClock, ByBed}
	handNames    = names(Hands())
	patternNames = names(Patterns())
)

func names[T fmt.Stringer](all []T) []string {
	out := make([]string, len(all))
	for i, v := range all {
		out[i] = v.String()
	}
	return out
}

func (p Pattern) String() string { return string(p) }

func places(choices []string) units.Range { return units.Range{Hi: float64(len(choices) - 1)} }

func flag(b bool) float64 {
	if b {
		return 1
	}
	return 0
}

// Label is what stands over the knob on a page.
func (k Knob) Label() string { return table[k].label }

// Name is the knob in a sentence, such as "the bloom time".
func (k Knob) Name() string { return table[k].name }

// Kind is the quantity of its value.
func (k Knob) Kind() units.Kind { return table[k].kind }

// Range is what the knob may be for a whole recipe, canonical.
func (k Knob) Range() units.Range { return table[k].limits }

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

// Has says whether there is anything at the address on this recipe: a bloom, a
// valve, a second pour, such a pour.
func (r Recipe) Has(a Address) bool {
	row := table[a.Knob]
	if a.Pour > 0 {
		return a.Pour <= len(r.Pours) && row.getPour != nil
	}
	steeps := r.Release > 0
	switch a.Knob {
	case Release:
		return steeps
	case Bloom, BloomTime:
		return !steeps && r.Style.Style().Bloom > 0 || r.blooms() > 0
	case Pours, Wait:
		return !steeps
	case Gap:
		return !steeps && len(r.after()) > 1
	case HandAfter:
		return !steeps
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

// first reads the first pour after the bloom.
func first(get func(Pour) float64) func(Recipe) float64 {
	return func(r Recipe) float64 {
		if after := r.after(); len(after) > 0 {
			return get(after[0])
		}
		return 0
	}
}

// A hand, a height or a pattern that is not known, from an old yard, counts as the first.
func handOf(p Pour) float64   { return float64(max(0, slices.Index(Hands(), p.Then))) }
func heightOf(p Pour) float64 { return places(heightNames).Clamp(float64(p.Height)) }
func patternOf(p Pour) float64 { return float64(max(0, slices.Index(Patterns(), p.Pattern))) }

// onPour sets something of one pour.
func onPour(set func(*Pour, float64)) func(Recipe, int, float64) Recipe {
	return func(r Recipe, i int, v float64) Recipe {
		out := r.clone()
		set(&out.Pours[i], v)
		return out
	}
}

// setAfter sets something of all pours after the bloom.
func setAfter(set func(*Pour, float64)) func(Recipe, float64) Recipe {
	return func(r Recipe, v float64) Recipe {
		out := r.clone()
		for i := range out.after() {
			set(&out.after()[i], v)
		}
		return out
	}
}

// setTemperature moves every pour by as much as the first.
func setTemperature(r Recipe, v float64) Recipe {
	out, by := r.clone(), units.Celsius(v)-r.Temperature()
	for i := range out.Pours {
		out.Pours[i].Temperature += by
	}
	return out
}

func getBloom(r Recipe) float64 {
	if r.blooms() == 0 || r.Dose <= 0 {
		return 0
	}
	return float64(r.Pours[0].Water / r.Dose)
}

func getBloomTime(r Recipe) float64 {
	if r.blooms() == 0 || len(r.after()) == 0 {
		return 0
	}
	return float64(r.after()[0].Start)
}

// setBloomTime moves all that comes after the bloom.
func setBloomTime(r Recipe, v float64) Recipe {
	if r.blooms() == 0 || len(r.after()) == 0 {
		return r
	}
	out := r.clone()
	out.shift(1, units.Seconds(v)-r.after()[0].Start)
	return out
}

// getHand is what the hand does after the bloom, or after the last pour where there is none.
func getHand(r Recipe) float64 {
	p := r.Pours[len(r.Pours)-1]
	if r.blooms() > 0 {
		p = r.Pours[0]
	}
	return handOf(p)
}

// setHand sets what the hand does after the bloom and after the last pour.
func setHand(r Recipe, v float64) Recipe {
	out := r.clone()
	for _, i := range []int{r.blooms() - 1, len(r.Pours) - 1} {
		if i >= 0 {
			out.Pours[i].Then = Hands()[int(v)]
		}
	}
	return out
}

// setRate sets the rate of the pours after the bloom. The bloom is poured gently,
// and no faster than they are.
func setRate(r Recipe, v float64) Recipe {
	out := setAfter(func(p *Pour, v float64) { p.Rate = v })(r, v)
	if out.blooms() > 0 {
		out.Pours[0].Rate = min(gentle, v)
	}
	return out
}

func getGap(r Recipe) float64 {
	after := r.after()
	if len(after) < 2 {
		return 0
	}
	return float64(after[1].Start - after[0].Start)
}

// setGap spaces the pours after the bloom evenly.
func setGap(r Recipe, v float64) Recipe {
	out := r.clone()
	after := out.after()
	for i := range after {
		after[i].Start = after[0].Start + units.Seconds(i)*units.Seconds(v)
	}
	return out
}

func getWait(r Recipe) float64 {
	after := r.after()
	return flag(len(after) > 1 && after[1].WhenDrained)
}

// setWait sets how the pours after the first one begin; that one waits for the bloom's time.
func setWait(r Recipe, v float64) Recipe {
	out := r.clone()
	for i := range out.after() {
		out.after()[i].WhenDrained = i > 0 && v > 0
	}
	return out
}

// setHeight changes the height of every pour that has the height of the first after the bloom.
func setHeight(r Recipe, v float64) Recipe {
	out := r.clone()
	if len(r.after()) == 0 {
		return out
	}
	was := r.after()[0].Height
	for i := range out.Pours {
		if out.Pours[i].Height == was {
			out.Pours[i].Height = Height(v)
		}
	}
	return out
}

// setRelease moves the valve, with it the crust and the aim.
func setRelease(r Recipe, v float64) Recipe {
	out := r.clone()
	out.shift(len(out.Pours), units.Seconds(v)-r.Release)
	return out
}

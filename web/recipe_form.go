package web

import (
	"encoding/json"
	"errors"
	"math"
	"slices"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// amountFields are the four amounts in the order in which they stand on the page.
var amountFields = []recipe.Field{recipe.Dose, recipe.Water, recipe.Ratio, recipe.Cup}

var ratioUnit = units.Unit{Scale: 1, Decimals: 1, Step: 0.5, Fine: 0.1}

// An amount is one of the four: how it is named, shown and read.
var amountNames = map[recipe.Field]struct {
	label string
	kind  units.Kind
	get   func(*recipe.Amounts) *float64
}{
	recipe.Dose:  {"Dose", units.Dose, func(a *recipe.Amounts) *float64 { return (*float64)(&a.Dose) }},
	recipe.Water: {"Water", units.Water, func(a *recipe.Amounts) *float64 { return (*float64)(&a.Water) }},
	recipe.Ratio: {"Ratio", 0, func(a *recipe.Amounts) *float64 { return &a.Ratio }},
	recipe.Cup:   {"In the cup", units.Cup, func(a *recipe.Amounts) *float64 { return (*float64)(&a.Cup) }},
}

func amountUnit(f recipe.Field, prefs units.Prefs) units.Unit {
	if f == recipe.Ratio {
		return ratioUnit
	}
	return prefs.Unit(amountNames[f].kind)
}

// A knobField is a knob of the recipe on the page, with its unit and its words.
type knobField struct {
	name, label string
	knob        recipe.Knob
	unit        func(units.Prefs) units.Unit
	clock       bool // shown as m:ss
	part        part // of the page
	when        func(brew.Brew) bool
}

// part is where on the page a knob stands.
type part int

const (
	finer part = iota // among the finer points
	heat              // beside the grind
)

var (
	seconds = units.Unit{Symbol: "s", Scale: 1, Step: 5, Fine: 1}
	perDose = units.Unit{Symbol: "× dose", Scale: 1, Decimals: 1, Step: 0.5, Fine: 0.1}
	perSec  = units.Unit{Symbol: "g/s", Scale: 1, Decimals: 1, Step: 1, Fine: 0.5}
)

func fixed(u units.Unit) func(units.Prefs) units.Unit {
	return func(units.Prefs) units.Unit { return u }
}

func immersion(b brew.Brew) bool   { return b.Gear.Brewer.Kind.Form().Immersion }
func percolation(b brew.Brew) bool { return !immersion(b) }
func blooms(b brew.Brew) bool      { return b.Recipe.Style.Style().Bloom > 0 }

// again says that there is more than one pour after the bloom.
func again(b brew.Brew) bool { return percolation(b) && b.Recipe.PourCount() > 1 }

var knobFields = []knobField{
	{name: "temperature", label: "Water at", knob: recipe.KnobTemperature, part: heat, unit: func(p units.Prefs) units.Unit { return p.Unit(units.Temperature) }},
	{name: "pours", label: "Pours after the bloom", knob: recipe.KnobPours, part: heat, unit: fixed(whole), when: percolation},
	{name: "steep", label: "Steep for", knob: recipe.KnobSteep, part: heat, clock: true, unit: fixed(seconds), when: immersion},
	{name: "bloom", label: "Bloom", knob: recipe.KnobBloom, unit: fixed(perDose), when: blooms},
	{name: "bloom_time", label: "Bloom for", knob: recipe.KnobBloomTime, unit: fixed(seconds), when: blooms},
	{name: "gap", label: "From pour to pour", knob: recipe.KnobGap, unit: fixed(seconds), when: again},
	{name: "rate", label: "Pour at", knob: recipe.KnobRate, unit: fixed(perSec)},
}

func (k knobField) fits(b brew.Brew) bool { return k.when == nil || k.when(b) }

func (k knobField) show(v float64, prefs units.Prefs) string {
	if k.clock {
		return units.Seconds(v).String()
	}
	return k.unit(prefs).Number(v)
}

// fillRecipe puts a brew's recipe into its form. What was typed and cannot be
// brewed stands as it was typed.
func fillRecipe(b brew.Brew, prefs units.Prefs) *form {
	f := newForm()
	a := b.Recipe.Amounts(b.Gear.Brewer.Retained)
	a.Ratio = b.Ratio()
	for _, name := range amountFields {
		f.Values[string(name)] = amountUnit(name, prefs).Number(*amountNames[name].get(&a))
	}
	for _, k := range knobFields {
		f.Values[k.name] = k.show(b.Recipe.Value(k.knob), prefs)
	}
	f.Values["grind"] = prefs.Unit(units.Grind).Number(float64(b.Recipe.Grind))
	f.Values["setting"] = units.Trim(b.Gear.Grinder.Reading(b.Recipe.Grind), 2)
	f.Values["pattern"] = string(b.Recipe.PourPattern())
	f.Values["height"], f.Values["hand"], f.Values["next"] = b.Recipe.Height.String(), b.Recipe.Hand.String(), nextPour(b.Recipe.WhenDrained)
	f.Values["style"] = string(b.Recipe.Style)
	f.Values["brewer"], f.Values["grinder"], f.Values["kettle"] = itoa(b.Gear.Brewer.ID), itoa(b.Gear.Grinder.ID), itoa(b.Gear.Kettle.ID)
	for name, typed := range b.Draft.Typed {
		f.Values[name] = typed
	}
	return f
}

// reread says again what is wrong with a draft that was left with errors.
func reread(f *form, b brew.Brew, prefs units.Prefs) {
	if len(b.Draft.Typed) > 0 {
		readKnobs(f, &b, prefs, func(string) bool { return true })
		readAmounts(f, &b, prefs, func(name string) bool { _, bad := b.Draft.Typed[name]; return bad })
	}
}

// showing is what a page shows, for it to send back: against it, and not against
// what has happened since, the server tells what a hand touched.
func showing(f *form) string {
	b, _ := json.Marshal(f.Values) // strings can always be marshalled
	return string(b)
}

// touchedSince says which fields of a posted form differ from what its page
// showed. A form that does not say what was shown counts as touched all over.
func touchedSince(f *form) func(name string) bool {
	var shown map[string]string
	if err := json.Unmarshal([]byte(f.Values["shown"]), &shown); err != nil {
		shown = nil
	}
	return func(name string) bool {
		typed, posted := f.Values[name]
		was, known := shown[name]
		return posted && (!known || typed != was)
	}
}

// turn applies a posted form to a brew: only what was touched since it was
// shown counts, so that a rounded figure on the screen never overwrites the
// exact one behind it, nor an old page what a quicker request has changed. What
// cannot be read stays in the draft as typed.
func turn(b *brew.Brew, f *form, g brew.Gear, prefs units.Prefs, now time.Time) {
	since, unread := touchedSince(f), b.Draft.Typed
	touched := func(name string) bool {
		_, again := unread[name] // what could not be read before is read again
		_, posted := f.Values[name]
		return since(name) || again && posted
	}
	oldBrewer := b.Gear.Brewer
	g.Boiling = b.Gear.Boiling
	b.Gear = g
	style := b.Recipe.Style
	if since("style") {
		style = recipe.StyleID(f.Values["style"])
	}
	if style != b.Recipe.Style || g.Brewer.Kind != oldBrewer.Kind {
		b.Recipe, b.Draft = recipe.Restyle(b.Recipe, style, situation(b.Bag, g, now)), brew.Draft{Held: startHeld}
		return // the rest of the form speaks of the old style
	}
	b.Draft.Typed = nil
	readKnobs(f, b, prefs, touched)
	readGrind(f, b, prefs, touched)
	readAmounts(f, b, prefs, touched)
	if f.Values["finer"] != "" { // a tick box that is not ticked is not posted: the group says it is there
		b.Recipe.Rinse = f.flag("rinse")
	}
	readChoices(f, b)
	for name := range f.Errors {
		if b.Draft.Typed == nil {
			b.Draft.Typed = map[string]string{}
		}
		b.Draft.Typed[name] = f.Values[name]
	}
}

// byClock and byBed are the two ways in which the next pour begins.
const byClock, byBed = "by the clock", "when the water has reached the bed"

func nextPour(whenDrained bool) string {
	if whenDrained {
		return byBed
	}
	return byClock
}

// readChoices reads the lists; what is not in one leaves the recipe as it is.
func readChoices(f *form, b *brew.Brew) {
	if h, ok := recipe.ParseHeight(f.Values["height"]); ok {
		b.Recipe.Height = h
	}
	for _, h := range recipe.Hands() {
		if f.Values["hand"] == h.String() {
			b.Recipe.Hand = h
		}
	}
	if p := recipe.Pattern(f.Values["pattern"]); slices.Contains(recipe.Patterns(), p) && p != b.Recipe.PourPattern() {
		b.Recipe.Pattern = p
	}
	if next := f.Values["next"]; next == byClock || next == byBed {
		b.Recipe.WhenDrained = next == byBed
	}
}

func readKnobs(f *form, b *brew.Brew, prefs units.Prefs, touched func(string) bool) {
	for _, k := range knobFields {
		if !touched(k.name) || !k.fits(*b) {
			continue
		}
		var v float64
		if k.clock {
			v = float64(f.clock(k.name, "The "+string(k.knob), k.knob.Range(), true))
		} else {
			v = f.quantity(k.name, "The "+string(k.knob), k.unit(prefs), k.knob.Range(), true)
		}
		if f.Errors[k.name] == "" {
			b.Recipe = b.Recipe.With(k.knob, v)
		}
	}
}

// readGrind reads the size or the setting, whichever was touched, and leaves
// the grind at what the grinder can be set to.
func readGrind(f *form, b *brew.Brew, prefs units.Prefs, touched func(string) bool) {
	r := recipe.KnobGrind.Range()
	size := float64(b.Recipe.Grind)
	switch {
	case touched("grind"):
		size = f.quantity("grind", "The grind", prefs.Unit(units.Grind), r, true)
	case touched("setting"):
		reading, err := units.ParseNumber(f.Values["setting"], "")
		if err != nil {
			f.fail("setting", "%s", err)
			return
		}
		size = float64(b.Gear.Grinder.FromReading(reading))
		if r.Check("", size, units.Unit{Scale: 1}) != nil {
			f.fail("setting", "That setting would be %.0f µm; coffee is ground at %.0f to %.0f µm.", size, r.Lo, r.Hi)
			return
		}
	}
	if f.Errors["grind"] == "" {
		b.Recipe.Grind = b.Gear.Grinder.Snap(units.Micrometres(size))
	}
}

// readAmounts reads the amounts that were touched and works the others out.
func readAmounts(f *form, b *brew.Brew, prefs units.Prefs, touched func(string) bool) {
	a := b.Recipe.Amounts(b.Gear.Brewer.Retained)
	a.Ratio, a.Cup = units.Round(b.Ratio(), 1), units.Grams(math.Round(float64(a.Cup))) // what is shown is what is held
	held, any := b.Draft.Held, false
	if held[0] == "" {
		held = startHeld
	}
	for _, name := range amountFields {
		if !touched(string(name)) {
			continue
		}
		u := amountUnit(name, prefs)
		v, err := units.ParseNumber(f.Values[string(name)], u.Symbol)
		if name == recipe.Ratio {
			v, err = units.ParseRatio(f.Values[string(name)])
		}
		if err != nil {
			f.fail(string(name), "%s", err)
			continue
		}
		*amountNames[name].get(&a) = u.Canonical(v)
		held, any = recipe.Hold(held, name), true
	}
	for _, name := range amountFields {
		if f.Errors[string(name)] != "" {
			return
		}
	}
	if !any {
		return
	}
	if f.Values["keep"] == string(recipe.Ratio) { // a fix: the ratio counts as set last
		held = recipe.Hold(held, recipe.Ratio)
	}
	solved, err := recipe.Solve(a, held, b.Gear.Brewer.Retained)
	if err != nil {
		var fe *recipe.FieldError
		if errors.As(err, &fe) {
			at := fe.Field
			if !touched(string(at)) { // it does not work out: say so where the hand is
				at = held[0]
			}
			f.fail(string(at), "%s", fe.Sentence)
		}
		return
	}
	b.Draft.Held, b.Draft.Ratio = held, solved.Ratio
	b.Recipe = b.Recipe.Weigh(solved.Dose, solved.Water)
}

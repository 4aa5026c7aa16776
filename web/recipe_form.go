package web

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/web/form"
	"yardbloom/web/words"
)

// setting is the name of the grind in the grinder's own terms, beside the size at recipe.Grind.
const setting = "setting"

// fillRecipe puts a recipe into its form: every knob under its address. What was
// typed and cannot be brewed stands as it was typed.
func fillRecipe(sc *scene) *form.Form {
	f := form.New()
	a := sc.Recipe.Amounts(sc.Gear.Brewer.Retained)
	a.Ratio = sc.ratio()
	for _, k := range recipe.FourAmounts() {
		f.Values[string(k)] = sc.prefs.Unit(k.Kind()).Number(a.Get(k))
	}
	for _, k := range recipe.Knobs() {
		if at := recipe.Of(k); sc.Recipe.Has(at) && !slices.Contains(recipe.FourAmounts(), k) {
			f.Values[at.String()] = shown(at, sc.Recipe.Value(at), sc.prefs)
		}
	}
	f.Values[setting] = units.Trim(sc.Gear.Grinder.Reading(sc.Recipe.Grind), 2)
	f.Values["style"] = string(sc.Recipe.Style)
	f.Values["brewer"], f.Values["grinder"], f.Values["kettle"] = sc.Gear.Brewer.ID, sc.Gear.Grinder.ID, sc.Gear.Kettle.ID
	f.Values["of_water"] = sc.Gear.Water.ID
	if sc.draft != nil {
		for name, typed := range sc.draft.Typed {
			f.Values[name] = typed
		}
	}
	return f
}

// shown is a value as its entry shows it: a figure in its unit, or one of the choices.
func shown(at recipe.Address, v float64, prefs units.Prefs) string {
	if choices := at.Knob.Choices(); choices != nil {
		return choices[int(v)]
	}
	return prefs.Unit(at.Knob.Kind()).Number(v)
}

// reread says again what is wrong with a recipe that was left with errors.
func reread(f *form.Form, sc *scene) {
	if sc.draft.Ready() {
		return
	}
	d := *sc.draft
	unread := func(name string) bool { _, bad := d.Typed[name]; return bad }
	readKnobs(f, &d, sc.prefs, unread)
	readGrind(f, &d, sc.prefs, unread)
	readAmounts(f, &d, sc.prefs, unread)
}

// showing is what a page shows, for it to send back: against it, and not against
// what has happened since, the server tells what a hand touched.
func showing(f *form.Form) string {
	b, _ := json.Marshal(f.Values) // strings can always be marshalled
	return string(b)
}

// touchedSince says which entries of a posted form differ from what its page
// showed. A form that does not say what was shown counts as touched all over.
func touchedSince(f *form.Form) func(name string) bool {
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

// turn applies a posted form to a recipe in the making: only what was touched
// since it was shown counts, so that a rounded figure on the screen never
// overwrites the exact one behind it, nor an old page what a quicker request has
// changed. What cannot be read stays in the draft as typed.
func turn(d *brew.Draft, f *form.Form, g gear.Set, prefs units.Prefs, now time.Time) {
	since, unread := touchedSince(f), d.Typed
	touched := func(name string) bool {
		_, before := unread[name] // what could not be read before is read again
		_, posted := f.Values[name]
		return since(name) || before && posted
	}
	oldKind := d.Gear.Brewer.Kind
	d.Gear = g
	style := d.Recipe.Style
	if g.Brewer.Kind != oldKind && style.Style().Steeps() != g.Brewer.Kind.Form().Immersion {
		style = "" // a steeper steeps, until somebody leaves its valve open
	}
	if since("style") {
		style = recipe.StyleID(f.Values["style"])
	}
	if style != d.Recipe.Style || g.Brewer.Kind != oldKind {
		d.Recipe = forecast.Restyle(d.Question(now), style)
		d.Held, d.SetRatio, d.Typed = brew.StartHeld, 0, nil
		return // the rest of the form belongs to the old style
	}
	d.Typed = nil
	readKnobs(f, d, prefs, touched)
	readGrind(f, d, prefs, touched)
	readAmounts(f, d, prefs, touched)
	if f.Values["finer"] != "" { // a tick box that is not ticked is not posted: the group says it is there
		d.Recipe.Rinse = f.Flag(string(recipe.Rinse))
	}
	for name := range f.Errors {
		if d.Typed == nil {
			d.Typed = map[string]string{}
		}
		d.Typed[name] = f.Values[name]
	}
	readEdit(d, f)
}

// readKnobs turns every knob that was touched, by the address that is its name.
func readKnobs(f *form.Form, d *brew.Draft, prefs units.Prefs, touched func(string) bool) {
	for _, at := range addresses(f) {
		name := at.String()
		if !touched(name) || !d.Recipe.Has(at) || at.Pour == 0 && !plainKnob(at.Knob) {
			continue
		}
		label := words.Label(at)
		if choices := at.Knob.Choices(); choices != nil {
			if i := slices.Index(choices, f.Values[name]); i >= 0 {
				d.Recipe = d.Recipe.With(at, float64(i))
			} else {
				f.Fail(name, "Choose one for %s.", at.Knob.Name())
			}
			continue
		}
		v := f.Quantity(name, label, prefs.Unit(at.Knob.Kind()), d.Recipe.Allows(at), true)
		if f.Errors[name] == "" {
			d.Recipe = d.Recipe.With(at, v)
		}
	}
}

// addresses are the addresses among the names of a form, in the order in which
// the knobs stand on the page.
func addresses(f *form.Form) []recipe.Address {
	var out []recipe.Address
	for name := range f.Values {
		if at, ok := recipe.ParseAddress(name); ok {
			out = append(out, at)
		}
	}
	order := recipe.Knobs()
	slices.SortFunc(out, func(a, b recipe.Address) int {
		if a.Pour != b.Pour {
			return a.Pour - b.Pour
		}
		return slices.Index(order, a.Knob) - slices.Index(order, b.Knob)
	})
	return out
}

// plainKnob says that a knob stands for itself: the amounts and the grind have
// readers of their own, the rinse is a tick box.
func plainKnob(k recipe.Knob) bool {
	return k != recipe.Grind && k != recipe.Rinse && !slices.Contains(recipe.FourAmounts(), k)
}

// readGrind reads the size or the setting, whichever was touched, and leaves
// the grind at what the grinder can be set to.
func readGrind(f *form.Form, d *brew.Draft, prefs units.Prefs, touched func(string) bool) {
	r, size := recipe.Grind.Range(), float64(d.Recipe.Grind)
	name := string(recipe.Grind)
	switch {
	case touched(name):
		size = f.Quantity(name, "The grind", prefs.Unit(units.Grind), r, true)
	case touched(setting):
		bare := units.Unit{Scale: 1}
		reading, err := bare.Parse(f.Values[setting])
		if err != nil {
			f.Fail(setting, "%s", words.Wrong(err, "The setting", bare))
			return
		}
		if size = float64(d.Gear.Grinder.FromReading(reading)); !r.Holds(size) {
			f.Fail(setting, "That setting would be %.0f µm; coffee is ground at %.0f to %.0f µm.", size, r.Lo, r.Hi)
			return
		}
	}
	if f.Errors[name] == "" {
		d.Recipe.Grind = d.Gear.Grinder.Snap(units.Micrometres(size))
	}
}

// readAmounts reads the amounts that were touched and works the others out.
func readAmounts(f *form.Form, d *brew.Draft, prefs units.Prefs, touched func(string) bool) {
	a := d.Recipe.Amounts(d.Gear.Brewer.Retained)
	a.Ratio, a.Cup = units.Round(d.Ratio(), 1), units.Grams(math.Round(float64(a.Cup))) // what is shown is what is held
	held, any, wrong := d.Held, false, false
	for _, k := range recipe.FourAmounts() {
		name := string(k)
		if !touched(name) {
			continue
		}
		u := prefs.Unit(k.Kind())
		v, err := u.Parse(f.Values[name])
		if err != nil && k == recipe.Cup { // as people say it: two mugs of 250 ml
			if ml, said := units.ParseVolume(f.Values[name]); said == nil {
				v, err = ml, nil
			}
		}
		if err != nil {
			f.Fail(name, "%s", words.Wrong(err, amountLabel(k), u))
			wrong = true
			continue
		}
		if u.Number(v) == u.Number(a.Get(k)) {
			continue // a request that was queued before this one has set it
		}
		a = a.Set(k, v)
		held, any = recipe.Hold(held, k), true
	}
	if wrong || !any {
		return
	}
	if f.Values["keep"] == string(recipe.Ratio) { // a fix: the ratio counts as set last
		held = recipe.Hold(held, recipe.Ratio)
	}
	solved, err := recipe.Solve(a, held, d.Gear.Brewer.Retained)
	if err != nil {
		failAmount(f, err, held, prefs, touched)
		return
	}
	d.Held, d.SetRatio = held, solved.Ratio
	d.Recipe = d.Recipe.Weigh(solved.Dose, solved.Water)
}

// failAmount reports an amount that is out of range: beside its own entry where it was
// typed, else beside the one that was typed.
func failAmount(f *form.Form, err error, held [2]recipe.Knob, prefs units.Prefs, touched func(string) bool) {
	var wrong *units.ValueError
	at, known := recipe.Address{}, errors.As(err, &wrong)
	if known {
		at, known = wrong.At.(recipe.Address)
	}
	if !known {
		f.Fail(string(held[0]), "%s", words.Sentence(err))
		return
	}
	k := at.Knob
	sentence := words.Wrong(err, amountLabel(k), amountUnit(k, prefs))
	if k != held[0] && k != held[1] {
		sentence = fmt.Sprintf("With this %s and %s it does not work out. %s", held[0], held[1], sentence)
	}
	if !touched(at.String()) {
		k = held[0]
	}
	f.Fail(string(k), "%s", sentence)
}

func amountLabel(k recipe.Knob) string {
	if k == recipe.Ratio {
		return "The ratio’s second figure"
	}
	return "The " + string(k)
}

// amountUnit is the unit in which a sentence says an amount: of a ratio its second figure alone.
func amountUnit(k recipe.Knob, prefs units.Prefs) units.Unit {
	u := prefs.Unit(k.Kind())
	u.Notation = units.Decimal
	return u
}

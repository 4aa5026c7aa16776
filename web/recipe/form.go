package recipe

import (
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/web/form"
	"yardbloom/web/station"
	"yardbloom/web/words"
)

// setting is the field of the grind on the grinder's dial, beside the size at recipe.Grind.
const setting = "setting"

// fillRecipe returns the form of a recipe, with every knob under its address. Invalid input is shown as
// typed.
func fillRecipe(sc *station.Scene) *form.Form {
	f := form.New()
	a := sc.Recipe.Amounts(sc.Gear.Brewer.Retained)
	a.Ratio = sc.Ratio()
	for _, k := range recipe.FourAmounts() {
		f.Values[string(k)] = sc.Prefs.Unit(k.Kind()).Number(a.Get(k))
	}
	for _, k := range recipe.Knobs() {
		if at := recipe.AddressOf(k); sc.Recipe.Has(at) && !slices.Contains(recipe.FourAmounts(), k) {
			f.Values[at.String()] = fieldText(at, sc.Recipe.Value(at), sc.Prefs)
		}
	}
	f.Values[setting] = units.Trim(sc.Gear.Grinder.Number(sc.Recipe.Grind), 2)
	f.Values["style"] = string(sc.Recipe.Style)
	f.Values["brewer"], f.Values["grinder"], f.Values["kettle"] = sc.Gear.Brewer.ID, sc.Gear.Grinder.ID, sc.Gear.Kettle.ID
	f.Values["of_water"], f.Values["second"] = sc.Gear.Water.ID, cmp.Or(sc.Gear.Second.ID, noSecond)
	if sc.Draft != nil {
		for name, typed := range sc.Draft.Typed {
			f.Values[name] = typed
		}
	}
	return f
}

// fieldText formats a value for its field: a number in its unit, or a choice.
func fieldText(at recipe.Address, v float64, prefs units.Prefs) string {
	if choices := at.Knob.Choices(); choices != nil {
		return choices[int(v)]
	}
	return prefs.Unit(at.Knob.Kind()).Number(v)
}

// restoreErrors adds the errors of a saved draft with invalid input.
func restoreErrors(f *form.Form, sc *station.Scene) {
	if sc.Draft.Ready() {
		return
	}
	d := *sc.Draft
	d.Typed = maps.Clone(d.Typed)
	unread := func(name string) bool { _, bad := d.Typed[name]; return bad }
	readKnobs(f, &d, sc.Prefs, unread)
	readGrind(f, &d, sc.Prefs, unread)
	readAmounts(f, &d, sc.Prefs, unread)
	readLevels(f, &d, sc.Prefs, unread, sc.Now)
}

// shownValues returns the values that a page shows, which the page sends back. Comparing with them tells which
// fields the person changed, independent of later changes.
func shownValues(f *form.Form) string {
	b, _ := json.Marshal(f.Values) // strings always marshal
	return string(b)
}

// touchedSince returns a function that reports whether a person changed a field. With scripts,
// the request lists the changed fields in "changed". A plain form is compared with the values
// that its page showed; without those, every field counts as changed.
func touchedSince(f *form.Form) func(name string) bool {
	if names, scripted := changedNames(f); scripted {
		return func(name string) bool {
			_, posted := f.Values[name]
			return posted && slices.Contains(names, name)
		}
	}
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

// changedNames returns the fields that a script reports as changed, oldest change first. It
// returns false for a plain form.
func changedNames(f *form.Form) (names []string, scripted bool) {
	list, scripted := f.Values["changed"]
	return strings.Fields(list), scripted
}

// applyForm applies a posted form to a draft. Only fields changed since the page was rendered count, so
// that a rounded number never overwrites the exact one, nor an old page the change of a faster request.
// Invalid input stays in the draft as typed.
//
// to is the sheet with the chosen gear and its beliefs. For another grinder or brewer the grind is
// recalculated, unless it was typed too; reground reports whether it was.
func applyForm(d *brew.Draft, f *form.Form, to brew.Sheet, prefs units.Prefs, now time.Time) (reground bool) {
	since, unread := touchedSince(f), d.Typed
	touched := func(name string) bool {
		_, before := unread[name] // parse invalid input again
		_, posted := f.Values[name]
		return since(name) || before && posted
	}
	g, old := to.Gear, d.Gear
	oldKind, was := old.Brewer.Kind, d.Question(now)
	d.Gear, d.Beliefs = g, to.Beliefs
	style := d.Recipe.Style
	if g.Brewer.Kind != oldKind && style.Style().Steeps() != g.Brewer.Kind.Form().Immersion {
		style = "" // a steeper steeps unless a person chooses an open valve
	}
	if since("style") {
		style = recipe.StyleID(f.Values["style"])
	}
	if style != d.Recipe.Style || g.Brewer.Kind != oldKind {
		d.Recipe = forecast.Restyle(d.Question(now), style)
		if d.Aimed != nil {
			*d = d.AimAt(*d.Aimed, now)
		}
		d.Held, d.SetRatio, d.Typed = brew.DefaultHeld, 0, nil
		return false // the rest of the form belongs to the old style
	}
	other := g.Grinder.ID != old.Grinder.ID || g.Brewer.ID != old.Brewer.ID
	if other && !since(setting) && !since(string(recipe.Grind)) {
		d.Recipe, reground = forecast.Regrind(was, d.Question(now)), true
	}
	d.Typed = nil
	readKnobs(f, d, prefs, touched)
	readGrind(f, d, prefs, touched)
	readAmounts(f, d, prefs, touched)
	readLevels(f, d, prefs, touched, now)
	names, scripted := changedNames(f)
	if f.Values["finer"] != "" && (!scripted || slices.Contains(names,
		string(recipe.Rinse))) { // an unticked box is not posted; its group tells that it was shown
		d.Recipe.Rinse = f.Flag(string(recipe.Rinse))
	}
	for name := range f.Errors {
		if d.Typed == nil {
			d.Typed = map[string]string{}
		}
		d.Typed[name] = f.Values[name]
	}
	if !readPart(d, f, now) {
		readEdit(d, f)
	}
	return reground
}

// readKnobs sets every changed knob, by the address in its field name.
func readKnobs(f *form.Form, d *brew.Draft, prefs units.Prefs, touched func(string) bool) {
	for _, at := range addresses(f) {
		name := at.String()
		if !touched(name) || !d.Recipe.Has(at) || at.Pour == 0 && !plainKnob(at.Knob) || at.Knob == recipe.Level {
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
		v := f.Quantity(name, label, prefs.Unit(at.Knob.Kind()), d.Recipe.RangeAt(at), true)
		if f.Errors[name] == "" {
			d.Recipe = d.Recipe.With(at, v)
		}
	}
}

// readLevels sets every changed level of a pour, with the water that the model finds for it. 0 and an empty field pour by weight.
func readLevels(f *form.Form, d *brew.Draft, prefs units.Prefs, touched func(string) bool, now time.Time) {
	for _, at := range addresses(f) {
		name := at.String()
		if at.Knob != recipe.Level || !touched(name) || !d.Recipe.Has(at) {
			continue
		}
		share := f.Quantity(name, "The level", prefs.Unit(at.Knob.Kind()), at.Range(), false)
		if f.Errors[name] != "" {
			continue
		}
		if share == 0 {
			d.Recipe = d.Recipe.With(at, 0)
			continue
		}
		r, err := forecast.ToLevel(d.Question(now), at.Pour-1, share)
		var short *forecast.LevelError
		switch {
		case errors.As(err, &short):
			f.Fail(name, "%s", short)
		case err != nil:
			f.Fail(name, "The model cannot run this recipe: correct the other figures first.")
		default:
			d.Recipe = r
		}
	}
}

// addresses returns the addresses among the field names of a form, in page order.
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

// plainKnob reports whether a knob is parsed by readKnobs. The amounts and the grind have their own
// parsers, and the rinse is a tick box.
func plainKnob(k recipe.Knob) bool {
	return k != recipe.Grind && k != recipe.Rinse && !slices.Contains(recipe.FourAmounts(), k)
}

// readGrind parses the size or the setting, whichever changed, and snaps it to the dial.
func readGrind(f *form.Form, d *brew.Draft, prefs units.Prefs, touched func(string) bool) {
	r, size := recipe.Grind.Range(), d.Recipe.Grind
	dial, name, label, unit := d.Gear.Grinder.Dial, string(recipe.Grind), "The grind", prefs.Unit(units.Grind)
	switch {
	case touched(name):
		dial.Kind = gear.Words // a bare number is a size
		if _, err := unit.Parse(f.Values[name]); err != nil {
			dial = d.Gear.Grinder.Dial
		}
	case touched(setting):
		name, label, unit = setting, "The setting", units.Unit{Scale: 1, Decimals: 2}
	default:
		d.Recipe.Grind = d.Gear.Grinder.Snap(size)
		return
	}
	size, err := dial.ParseGrind(f.Values[name])
	if err != nil {
		f.Fail(name, "%s", words.InvalidValue(err, label, unit))
		return
	}
	if err := r.Check(recipe.AddressOf(recipe.Grind), float64(size)); err != nil && name == setting {
		f.Fail(name, "That setting would be %.0f µm; grinds range from %.0f to %.0f µm.", size, r.Lo, r.Hi)
		return
	} else if err != nil {
		f.Fail(name, "%s", words.InvalidValue(err, label, unit))
		return
	}
	d.Recipe.Grind = d.Gear.Grinder.Snap(size)
}

// readAmounts parses the changed amounts, holds the two changed last and solves for the others.
// If there is no solution, the typed text stays in the draft.
func readAmounts(f *form.Form, d *brew.Draft, prefs units.Prefs, touched func(string) bool) {
	a := d.Recipe.Amounts(d.Gear.Brewer.Retained)
	a.Ratio, a.Cup = units.Round(d.Ratio(), 1), units.Grams(math.Round(float64(a.Cup))) // held amounts keep the shown value
	held := d.Held
	_, scripted := changedNames(f)
	var read []recipe.Knob
	for _, k := range changedAmounts(f, touched) {
		v, err := parseAmount(k, f.Values[string(k)], *d, prefs)
		if err != nil {
			f.Fail(string(k), "%s", words.InvalidValue(err, amountLabel(k), prefs.Unit(k.Kind())))
			continue
		}
		same := sameAmount(k, v, a.Get(k), prefs)
		if same && !scripted {
			continue // set by a request that was queued before this one
		}
		if !same { // keep the exact value behind the rounded one
			a = a.Set(k, v)
		}
		held, read = recipe.Hold(held, k), append(read, k)
	}
	if len(read) == 0 {
		return
	}
	if f.Values["keep"] == string(recipe.Ratio) { // a fix: the ratio counts as set last
		held = recipe.Hold(held, recipe.Ratio)
	}
	solved, err := recipe.Solve(a, held, d.Gear.Brewer.Retained)
	switch {
	case err != nil:
		failAmount(f, err, held, prefs, touched)
	case !scripted:
		failContradiction(f, read, a, solved, prefs)
	}
	if err != nil || f.Errors[string(read[len(read)-1])] != "" {
		d.Typed = map[string]string{}
		for _, k := range read {
			d.Typed[string(k)] = f.Values[string(k)]
		}
		return
	}
	weighed := solved.Weighable(held, d.Gear.Brewer.Retained)
	d.Held, d.SetRatio = held, solved.Ratio
	d.Recipe = d.Recipe.Resize(weighed.Dose, weighed.Water)
}

// changedAmounts returns the changed amounts, oldest first; the last two are held. Amounts that
// could not be parsed before are parsed again and count as oldest. In a plain form, which has no
// order, two filled amounts determine the emptied ones.
func changedAmounts(f *form.Form, touched func(string) bool) []recipe.Knob {
	names, scripted := changedNames(f)
	var old, last, filled []recipe.Knob
	for _, k := range recipe.FourAmounts() {
		if touched(string(k)) && !slices.Contains(names, string(k)) {
			old = append(old, k)
		}
	}
	for _, name := range names {
		if k := recipe.Knob(name); isAmount(k) && touched(name) {
			last = append(last, k)
		}
	}
	all := append(old, last...)
	for _, k := range all {
		if strings.TrimSpace(f.Values[string(k)]) != "" {
			filled = append(filled, k)
		}
	}
	if !scripted && len(filled) == 2 {
		return filled
	}
	return all
}

// parseAmount parses one of the four amounts. The weight of a tablespoon depends on the roast and
// the grind.
func parseAmount(k recipe.Knob, typed string, d brew.Draft, prefs units.Prefs) (float64, error) {
	u := prefs.Unit(k.Kind())
	if prefs.Spoon == 0 {
		u.Spoon = recipe.Spoonful(d.Bag.Roast, d.Recipe.Grind)
	}
	return u.ParseIn(typed, k.Range())
}

// sameAmount reports whether two values of an amount are displayed alike.
func sameAmount(k recipe.Knob, a, b float64, prefs units.Prefs) bool {
	u := prefs.Unit(k.Kind())
	return u.Number(a) == u.Number(b)
}

// failContradiction reports three or more amounts of a plain form that do not agree.
func failContradiction(f *form.Form, read []recipe.Knob, typed, solved recipe.Amounts, prefs units.Prefs) {
	agree := func(k recipe.Knob) bool { return sameAmount(k, typed.Get(k), solved.Get(k), prefs) }
	if len(read) < 3 || !slices.ContainsFunc(read, func(k recipe.Knob) bool { return !agree(k) }) {
		return
	}
	for _, k := range read {
		f.Fail(string(k), "The amounts contradict each other: any two of them determine the others. Clear the ones to calculate.")
	}
}

// failAmount reports an amount that is out of range: beside its own field if it was typed, otherwise beside
// the one that was typed.
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
	sentence := words.InvalidValue(err, amountLabel(k), amountUnit(k, prefs))
	if k != held[0] && k != held[1] {
		sentence = fmt.Sprintf("This %s and %s do not fit together. %s", held[0], held[1], sentence)
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

// amountUnit returns the unit for an amount in a sentence; for a ratio only its second number.
func amountUnit(k recipe.Knob, prefs units.Prefs) units.Unit {
	u := prefs.Unit(k.Kind())
	u.Notation = units.Decimal
	return u
}

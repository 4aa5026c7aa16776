package web

import (
	"fmt"
	"slices"
	"strings"

	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/web/form"
	"yardbloom/web/words"
)

// A knobView is the entry of a knob with what is shown of it: what one step would
// change, and what is changed already.
type knobView struct {
	form.Field
	Warned bool // something said above concerns it
	Steps  []effect
	Held   bool   // set by hand, where the others follow
	Marked string // against the brew before
}

// A warning is a sentence with the smallest fix, where there is one: an entry to
// be set to a value, and an amount to be kept while it is.
type warning struct {
	Text                     string
	For, Value, Keep, Button string
}

// A decorator dresses the entries of a recipe with reasons, warnings and predictions.
type decorator struct {
	form    *form.Form
	sc      *scene
	reasons map[recipe.Address]string
	warned  []warning
	wrong   map[recipe.Address]bool // what a warning concerns
	steps   map[recipe.Address][]effect
	marked  map[recipe.Address]string
}

func newDecorator(f *form.Form, sc *scene, marked map[recipe.Address]string, foreseen forecastView) decorator {
	d := decorator{f, sc, map[recipe.Address]string{}, nil, map[recipe.Address]bool{}, foreseen.Steps, marked}
	if !sc.editable() {
		return d
	}
	for _, why := range forecast.Reasons(sc.Question(sc.now), sc.prefs) {
		d.reasons[why.At] = why.Text
	}
	for _, w := range append(recipe.Check(sc.Recipe, sc.Gear, sc.prefs), foreseen.Warnings...) {
		d.warned, d.wrong[w.At] = append(d.warned, d.offer(w)), true
	}
	if !sc.Gear.Grinder.Repeatable() {
		d.warned = append(d.warned, warning{Text: "A blade cannot repeat a grind: take every figure here with a wide margin."})
	}
	return d
}

// offer turns a warning's fix into a button that types it.
func (d decorator) offer(w recipe.Warning) warning {
	out := warning{Text: w.Text}
	if w.Fix == nil {
		return out
	}
	at := w.Fix.Address
	out.For, out.Value, out.Button = at.String(), shown(at, w.Fix.Value, d.sc.prefs), "Use"
	switch at.Knob {
	case recipe.Grind:
		out.Button = "Set " + d.sc.Gear.Grinder.Setting(units.Micrometres(w.Fix.Value))
		return out
	case recipe.Dose, recipe.Water, recipe.Ratio, recipe.Cup:
		out.Keep = string(recipe.Ratio)
	default:
		out.Button = at.Knob.Label() + ":"
	}
	out.Button += " " + strings.TrimPrefix(d.sc.prefs.Unit(at.Knob.Kind()).Format(w.Fix.Value), "1 : ")
	return out
}

// knob is the dressed entry of a knob.
func (d decorator) knob(k recipe.Knob) knobView {
	at := recipe.Of(k)
	var e form.Field
	if choices := k.Choices(); choices != nil {
		e = form.Select(d.form, at.String(), k.Label(), choices, form.Plain)
	} else {
		e = d.form.Stepper(at.String(), k.Label(), d.sc.prefs.Unit(k.Kind()))
	}
	return d.dress(e, at)
}

func (d decorator) dress(e form.Field, at recipe.Address) knobView {
	e.Hint = d.reasons[at]
	return knobView{Field: e, Warned: d.wrong[at], Steps: d.steps[at], Marked: d.marked[at]}
}

// finerKnobs fold away, in this order, where the recipe has them and the main row has not.
var finerKnobs = []recipe.Knob{recipe.Water, recipe.Cup, recipe.IceFrom, recipe.CarafeOf, recipe.DiluteBy, recipe.First, recipe.CrustAt, recipe.Bloom, recipe.BloomTime, recipe.Gap, recipe.Rate,
	recipe.PourHeight, recipe.PourPattern, recipe.HandAfter, recipe.Wait}

// mainKnobs are what a brew is in two seconds: six, whatever kind of brew it is.
func mainKnobs(r recipe.Recipe) []recipe.Knob {
	out := []recipe.Knob{recipe.Dose, recipe.Ratio}
	switch r.Serving() {
	case recipe.OverIce:
		out = append(out, recipe.IcePart)
	case recipe.Diluted:
		out = append(out, recipe.Dilute)
	default:
		if !r.Has(recipe.Of(recipe.Balance)) {
			out = append(out, recipe.Cup)
		}
	}
	out = append(out, recipe.Grind, recipe.Temperature)
	for _, k := range []recipe.Knob{recipe.Pours, recipe.Balance, recipe.LastPours, recipe.Release} {
		if r.Has(recipe.Of(k)) {
			out = append(out, k)
		}
	}
	return out
}

// hints are what is said of a knob besides where it starts.
var hints = map[recipe.Knob]string{
	recipe.HandAfter: "After the bloom and after the last pour.",
	recipe.Balance:   "Less in the first pour is sweeter, more is brighter.",
	recipe.LastPours: "More pours are stronger, fewer are lighter.",
	recipe.CrustAt:   "0:00 leaves it alone: a cleaner cup, and less of it taken along.",
	recipe.First:     "Water first wets gently and takes a stir; coffee first is the usual way.",
	recipe.Dilute:    "Poured that much shorter, and added to the cup: the same yield, a clearer cup.",
}

func (d decorator) fields(body *recipeBody) {
	r := d.sc.Recipe
	main := mainKnobs(r)
	for _, k := range main {
		if k == recipe.Grind {
			own, size := d.grind()
			body.Main = append(body.Main, own)
			body.Finer = append(body.Finer, size...)
			continue
		}
		body.Main = append(body.Main, d.view(k))
	}
	for _, k := range finerKnobs {
		if !slices.Contains(main, k) && (isAmount(k) || r.Has(recipe.Of(k))) {
			body.Finer = append(body.Finer, d.view(k))
		}
	}
	body.RinseMarked = d.marked[recipe.Of(recipe.Rinse)]
	body.FinerOpen = body.RinseMarked != ""
	for _, e := range body.Finer {
		body.FinerOpen = body.FinerOpen || e.Error != "" || e.Marked != ""
	}
	for _, e := range body.Gear {
		body.GearOpen = body.GearOpen || e.Error != ""
	}
	body.Warnings = d.warned
	for at, say := range d.marked {
		if at.Pour > 0 {
			body.PourMarks = append(body.PourMarks, say)
		}
	}
	slices.Sort(body.PourMarks)
}

func isAmount(k recipe.Knob) bool { return slices.Contains(recipe.FourAmounts(), k) }

// view is the dressed entry of a knob, with what it is held by and what is said of it.
func (d decorator) view(k recipe.Knob) knobView {
	e := d.knob(k)
	if draft := d.sc.draft; draft != nil && isAmount(k) {
		e.Held = k == draft.Held[0] || k == draft.Held[1]
	}
	if say := hints[k]; say != "" {
		e.Hint = say
	}
	g, water := d.sc.Gear, d.sc.prefs.Unit(units.Water)
	switch k {
	case recipe.Dose:
		dose := d.sc.prefs.Unit(units.Dose)
		e.Hint = strings.TrimSpace(fmt.Sprintf("%s keeps %s: weigh out %s. %s", g.Grinder.Name, dose.Format(float64(g.Grinder.Loss)), dose.Format(float64(d.sc.Uses())), e.Hint))
	case recipe.Ratio:
		e.Hint = strings.TrimSpace(words.Concentration(d.sc.ratio(), d.sc.prefs) + ". " + e.Hint)
	case recipe.Cup:
		e.Hint = fmt.Sprintf("The grounds keep %s times their weight in water.", units.Trim(g.Brewer.Retained, 2))
	case recipe.Water:
		if d.sc.Recipe.Serving() != recipe.Hot {
			e.Hint = "All of it: what is poured, the ice, and what goes into the cup."
		}
	case recipe.IcePart:
		e.Hint = fmt.Sprintf("%s of ice in the carafe, %s poured.", water.Format(float64(d.sc.Recipe.Ice.Mass)), water.Format(float64(d.sc.Recipe.Water())))
	}
	return e
}

// grind is the entry in the grinder's own terms, and, where that is a dial, the size apart.
func (d decorator) grind() (own knobView, size []knobView) {
	g, at := d.sc.Gear.Grinder, recipe.Of(recipe.Grind)
	micrometres := d.form.Stepper(at.String(), "Grind", d.sc.prefs.Unit(units.Grind))
	texture := "Median size, " + gear.Texture(d.sc.Recipe.Grind) + "."
	if g.Kind == gear.Words || g.Step == 0 {
		own = d.dress(micrometres, at)
		own.Hint = strings.TrimSpace(texture + " " + own.Hint)
		return own, nil
	}
	micrometres.Label, micrometres.Hint = "Grind size", texture
	step := max(g.Step, -g.Step)
	micrometres.Step, micrometres.Fine = units.Trim(float64(step), 0), units.Trim(float64(step), 0)
	own = d.dress(d.form.Stepper(setting, "On "+g.Name, units.Unit{Scale: 1, Decimals: 2}), at)
	own.Step = units.Trim(g.Stride(), 3)
	own.Fine = own.Step
	own.Unit = map[gear.DialKind]string{gear.Numbered: "", gear.Clicks: "clicks", gear.Turns: "clicks"}[g.Kind]
	if g.Kind == gear.Turns {
		own.Hint = g.Setting(d.sc.Recipe.Grind) + ". " + own.Hint
	}
	return own, []knobView{{Field: micrometres}}
}

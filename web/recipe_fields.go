package web

import (
	"fmt"
	"strings"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/web/form"
)

// A knobView is the entry of a knob with what is shown beside it: what would go wrong,
// what one step would change, and what is changed already.
type knobView struct {
	form.Field
	Warnings []warning
	Steps    []effect
	Held     bool   // set by hand, where the others follow
	Marked   string // against the brew before
}

// A warning is a sentence with the smallest fix, where there is one: an entry to
// be set to a value, and an amount to be kept while it is.
type warning struct {
	Text                     string
	For, Value, Keep, Button string
}

// A decorator dresses the entries of a recipe with reasons, warnings and predictions.
type decorator struct {
	form     *form.Form
	sc       *scene
	reasons  map[recipe.Address]string
	warnings map[recipe.Address][]warning
	steps    map[recipe.Address][]effect
	marked   map[recipe.Address]string
}

func newDecorator(f *form.Form, sc *scene, marked map[recipe.Address]string, foreseen forecastView) decorator {
	d := decorator{f, sc, map[recipe.Address]string{}, map[recipe.Address][]warning{}, foreseen.Steps, marked}
	if !sc.editable() {
		return d
	}
	for _, why := range recipe.Reasons(sc.Recipe, sc.Situation(sc.now), sc.prefs) {
		d.reasons[why.At] = why.Text
	}
	for _, w := range append(recipe.Check(sc.Recipe, sc.Gear, sc.prefs), foreseen.Warnings...) {
		d.warnings[w.At] = append(d.warnings[w.At], d.offer(w))
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
	return knobView{Field: e, Warnings: d.warnings[at], Steps: d.steps[at], Marked: d.marked[at]}
}

// Where on the page the knobs stand, beside the amounts and the grind.
var (
	heatKnobs  = []recipe.Knob{recipe.Temperature, recipe.Pours, recipe.Release}
	finerKnobs = []recipe.Knob{recipe.Bloom, recipe.BloomTime, recipe.Gap, recipe.Rate, recipe.PourHeight, recipe.PourPattern, recipe.HandAfter, recipe.Wait}
)

func (d decorator) fields(body *recipeBody) {
	d.amounts(body)
	body.Grind = d.grind()
	for _, k := range heatKnobs {
		if d.sc.Recipe.Has(recipe.Of(k)) {
			body.Heat = append(body.Heat, d.knob(k))
		}
	}
	for _, k := range finerKnobs {
		if d.sc.Recipe.Has(recipe.Of(k)) {
			e := d.knob(k)
			if k == recipe.HandAfter {
				e.Hint = "After the bloom and after the last pour."
			}
			body.Finer = append(body.Finer, e)
		}
	}
	body.RinseMarked = d.marked[recipe.Of(recipe.Rinse)]
	body.FinerOpen = body.RinseMarked != ""
	for _, e := range body.Finer {
		body.FinerOpen = body.FinerOpen || e.Error != "" || e.Marked != "" || len(e.Warnings) > 0
	}
}

// amounts are the four, of which any two give the rest.
func (d decorator) amounts(body *recipeBody) {
	for _, k := range recipe.FourAmounts() {
		e := d.knob(k)
		if draft := d.sc.draft; draft != nil {
			e.Held = k == draft.Held[0] || k == draft.Held[1]
		}
		body.Amounts = append(body.Amounts, e)
	}
	g, dose := d.sc.Gear, d.sc.prefs.Unit(units.Dose)
	body.Amounts[0].Hint = fmt.Sprintf("%s loses %s: weigh out %s.", g.Grinder.Name, dose.Format(float64(g.Grinder.Loss)), dose.Format(float64(d.sc.Uses())))
	body.Amounts[3].Hint = fmt.Sprintf("The grounds keep %s g of water per gram.", units.Trim(g.Brewer.Retained, 2))
}

// grind is the size and, where the grinder has a dial, its setting before it.
func (d decorator) grind() []knobView {
	g, at := d.sc.Gear.Grinder, recipe.Of(recipe.Grind)
	size := d.form.Stepper(at.String(), "Grind", d.sc.prefs.Unit(units.Grind))
	texture := "Median size, " + gear.Texture(d.sc.Recipe.Grind) + "."
	if g.Kind == gear.Words || g.Step == 0 {
		return []knobView{d.dress(size, at)}
	}
	size.Hint = texture
	step := max(g.Step, -g.Step)
	size.Step, size.Fine = units.Trim(float64(step), 0), units.Trim(float64(step), 0)
	own := d.dress(d.form.Stepper(setting, "On "+g.Name, units.Unit{Scale: 1, Decimals: 2}), at)
	own.Step = units.Trim(g.Stride(), 3)
	own.Fine = own.Step
	own.Unit = map[gear.DialKind]string{gear.Numbered: "on the dial", gear.Clicks: "clicks", gear.Turns: "clicks"}[g.Kind]
	if g.Kind == gear.Turns {
		own.Hint = g.Setting(d.sc.Recipe.Grind) + ". " + own.Hint
	}
	if !g.Repeatable() {
		own.Warnings = append(own.Warnings, warning{Text: "A blade cannot repeat a grind: take every figure here with a wide margin."})
	}
	return []knobView{own, {Field: size}}
}

package recipe

import (
	"fmt"
	"slices"
	"strings"

	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/web/form"
	"yardbloom/web/station"
	"yardbloom/web/words"
)

// A knobView is the field of a knob with its additional display: the effect of one step, and the change
// from the previous brew.
type knobView struct {
	form.Field
	Warned bool // a warning above concerns it
	Steps  []effect
	Held   bool   // set by the person; the others follow
	Marked string // the change from the previous brew
}

// A warning is a sentence with an optional fix: a field to set, and an amount to keep meanwhile.
type warning struct {
	Text                     string
	For, Value, Keep, Button string
}

// A decorator adds reasons, warnings and predictions to the fields of a recipe.
type decorator struct {
	form    *form.Form
	sc      *station.Scene
	reasons map[recipe.Address]string
	warned  []warning
	wrong   map[recipe.Address]bool // addresses with warnings
	steps   map[recipe.Address][]effect
	marked  map[recipe.Address]string
}

func newDecorator(f *form.Form, sc *station.Scene, marked map[recipe.Address]string, foreseen forecastView) decorator {
	d := decorator{f, sc, map[recipe.Address]string{}, nil, map[recipe.Address]bool{}, foreseen.Steps, marked}
	if !sc.Editable() {
		return d
	}
	for _, why := range forecast.Reasons(sc.Question(sc.Now), sc.Prefs) {
		d.reasons[why.At] = why.Text
	}
	if to := sc.Draft.Aimed; to != nil {
		why := to.Reason(sc.Beliefs)
		for _, k := range []recipe.Knob{recipe.Ratio, recipe.Grind, recipe.Temperature} {
			d.reasons[recipe.AddressOf(k)] = why
		}
	}
	for _, w := range append(recipe.Check(sc.Recipe, sc.Gear, sc.Prefs), foreseen.Warnings...) {
		d.warned, d.wrong[w.At] = append(d.warned, d.offer(w)), true
	}
	if !sc.Gear.Grinder.Repeatable() {
		d.warned = append(d.warned, warning{Text: "A blade cannot repeat a grind: every figure here has a large error."})
	}
	return d
}

// offer converts a warning's fix to a button that sets the field.
func (d decorator) offer(w recipe.Warning) warning {
	out := warning{Text: w.Text}
	if w.Fix == nil {
		return out
	}
	at := w.Fix.Address
	out.For, out.Value, out.Button = at.String(), fieldText(at, w.Fix.Value, d.sc.Prefs), "Use"
	switch at.Knob {
	case recipe.Grind:
		out.Button = "Set " + d.sc.Gear.Grinder.Setting(units.Micrometres(w.Fix.Value))
		return out
	case recipe.Dose, recipe.Water, recipe.Ratio, recipe.Cup:
		out.Keep = string(recipe.Ratio)
	default:
		out.Button = at.Knob.Label() + ":"
	}
	out.Button += " " + strings.TrimPrefix(d.sc.Prefs.Unit(at.Knob.Kind()).Format(w.Fix.Value), "1 : ")
	return out
}

// knob returns the decorated field of a knob.
func (d decorator) knob(k recipe.Knob) knobView {
	at := recipe.AddressOf(k)
	var e form.Field
	if choices := k.Choices(); choices != nil {
		e = form.Select(d.form, at.String(), k.Label(), choices, form.Plain)
	} else {
		e = d.form.Stepper(at.String(), k.Label(), d.sc.Prefs.Unit(k.Kind()))
	}
	return d.dress(e, at)
}

func (d decorator) dress(e form.Field, at recipe.Address) knobView {
	e.Hint = d.reasons[at]
	return knobView{Field: e, Warned: d.wrong[at], Steps: d.steps[at], Marked: d.marked[at]}
}

// finerKnobs are shown folded, in this order, if the recipe has them and they are not in the main row.
var finerKnobs = []recipe.Knob{recipe.Water, recipe.Cup, recipe.IceFrom, recipe.IceAt, recipe.GlassIce, recipe.CarafeOf, recipe.DiluteBy,
	recipe.First, recipe.CrustAt, recipe.Bloom, recipe.BloomTime, recipe.Gap, recipe.Rate,
	recipe.PourHeight, recipe.PourPattern, recipe.Screen, recipe.HandAfter, recipe.Wait, recipe.Between, recipe.Discard, recipe.CutAt}

// mainKnobs are the six most important knobs of a brew.
func mainKnobs(r recipe.Recipe) []recipe.Knob {
	out := []recipe.Knob{recipe.Dose, recipe.Ratio}
	switch r.Serving() {
	case recipe.OverIce:
		out = append(out, recipe.IcePart)
	case recipe.Diluted:
		out = append(out, recipe.Dilute)
	default:
		if !r.Has(recipe.AddressOf(recipe.Balance)) {
			out = append(out, recipe.Cup)
		}
	}
	out = append(out, recipe.Grind, recipe.Temperature)
	for _, k := range []recipe.Knob{recipe.Pours, recipe.Balance, recipe.LastPours, recipe.Release} {
		if r.Has(recipe.AddressOf(k)) {
			out = append(out, k)
		}
	}
	return out
}

// hints holds additional hints for knobs.
var hints = map[recipe.Knob]string{
	recipe.HandAfter: "After the bloom and after the last pour.",
	recipe.Balance:   "Less in the first pour is sweeter, more is brighter.",
	recipe.LastPours: "More pours are stronger, fewer are lighter.",
	recipe.CrustAt:   "0:00 leaves it unbroken: a cleaner cup with less extraction.",
	recipe.GlassIce:  "Small ice chills in the carafe; one large piece in the glass melts slowly. 0: fresh ice as it comes.",
	recipe.Between:   "On the heat every pour begins at its own temperature; turn it off before you pour.",
	recipe.First:     "Water first wets gently and needs a stir; coffee first is usual.",
	recipe.Screen:    "Spreads the stream and takes its force: an even bed, less stirred.",
	recipe.Discard:   "The first drops are the strongest. Of a very dark roast some people leave them out.",
	recipe.CutAt:     "Lift the brewer off when the carafe holds this much; 0 lets it drain. The last part is weak and the most bitter.",
	recipe.Dilute:    "This part of the water is added to the cup instead of poured: the same yield, a clearer cup.",
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
		if k == recipe.Between && d.sc.Gear.Kettle.Thermostat {
			continue
		}
		if !slices.Contains(main, k) && (isAmount(k) || r.Has(recipe.AddressOf(k))) {
			body.Finer = append(body.Finer, d.view(k))
		}
	}
	body.RinseMarked = d.marked[recipe.AddressOf(recipe.Rinse)]
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

// view returns the decorated field at an address.
func (d decorator) view(k recipe.Knob) knobView {
	e := d.knob(k)
	if draft := d.sc.Draft; draft != nil && isAmount(k) {
		e.Held = k == draft.Held[0] || k == draft.Held[1]
	}
	if say := hints[k]; say != "" {
		e.Hint = say
	}
	g, water := d.sc.Gear, d.sc.Prefs.Unit(units.Water)
	switch k {
	case recipe.Dose:
		dose := d.sc.Prefs.Unit(units.Dose)
		if d.sc.Prefs.Spoon > 0 {
			e.Hint = "Half tablespoons, so that it can be measured level."
			break
		}
		e.Hint = strings.TrimSpace(fmt.Sprintf("%s retains %s: weigh out %s. %s", g.Grinder.Name, dose.Format(float64(g.Grinder.Loss)),
			dose.Format(float64(d.sc.Uses())), e.Hint))
	case recipe.Ratio:
		e.Hint = strings.TrimSpace(words.Concentration(d.sc.Ratio(), d.sc.Prefs) + ". " + e.Hint)
	case recipe.Cup:
		e.Hint = fmt.Sprintf("The grounds retain %s times their weight in water.", units.Trim(g.Brewer.Retained, 2))
	case recipe.Water:
		if d.sc.Recipe.Serving() != recipe.Hot {
			e.Hint = "Total: poured water, ice and dilution."
		}
	case recipe.IcePart:
		e.Hint = fmt.Sprintf("%s of ice in the carafe, %s poured.", water.Format(float64(d.sc.Recipe.Ice.Mass)),
			water.Format(float64(d.sc.Recipe.Water())))
	}
	return e
}

// grind returns the field in the grinder's own terms and, for a grinder with a dial, the size separately.
func (d decorator) grind() (own knobView, size []knobView) {
	g, at := d.sc.Gear.Grinder, recipe.AddressOf(recipe.Grind)
	micrometres := d.form.Stepper(at.String(), "Grind", d.sc.Prefs.Unit(units.Grind))
	texture := "Median size, " + gear.Texture(d.sc.Recipe.Grind) + "."
	if g.Kind == gear.Words || g.Step == 0 {
		if !g.Adjustable() {
			micrometres.Label = "Grind (as bought)"
		}
		own = d.dress(micrometres, at)
		own.Hint = strings.TrimSpace(texture + " " + own.Hint)
		return own, nil
	}
	micrometres.Label, micrometres.Hint = "Grind size", texture
	step := max(g.Step, -g.Step)
	micrometres.Step, micrometres.Fine = units.Trim(float64(step), 0), units.Trim(float64(step), 0)
	own = d.dress(d.form.Stepper(setting, "Grind ("+g.Name+")", units.Unit{Scale: 1, Decimals: 2}), at)
	own.Step = units.Trim(g.Stride(), 3)
	own.Fine = own.Step
	own.Unit = map[gear.DialKind]string{gear.Numbered: "", gear.Clicks: "clicks", gear.Turns: "clicks", gear.Collar: "turns"}[g.Kind]
	if g.Kind == gear.Turns {
		own.Hint = g.Setting(d.sc.Recipe.Grind) + ". " + own.Hint
	}
	return own, []knobView{{Field: micrometres}}
}

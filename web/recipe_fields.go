package web

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

func itoa(n int64) string { return strconv.FormatInt(n, 10) }

// A decorator dresses the fields of a recipe with reasons and warnings.
type decorator struct {
	form     *form
	brew     brew.Brew
	prefs    units.Prefs
	reasons  map[recipe.Field]string
	warnings map[recipe.Field][]warning
	marked   map[recipe.Knob]string // what is changed against the brew before
	steps    map[recipe.Knob][]effect
}

func newDecorator(f *form, b brew.Brew, marked map[recipe.Knob]string, prefs units.Prefs, now time.Time) decorator {
	d := decorator{f, b, prefs, map[recipe.Field]string{}, map[recipe.Field][]warning{}, marked, nil}
	if !b.Editable() {
		return d
	}
	for _, why := range recipe.Reasons(b.Recipe, situation(b.Bag, b.Gear, now), prefs) {
		d.reasons[why.Field] = why.Text
	}
	for _, w := range recipe.Check(b.Recipe, b.Gear.Brewer, b.Gear.Kettle, b.Gear.Boiling, prefs) {
		d.warnings[w.Field] = append(d.warnings[w.Field], d.offer(w))
	}
	return d
}

// offer turns a warning's fix into a button that types it.
func (d decorator) offer(w recipe.Warning) warning {
	out := warning{Text: w.Text}
	if w.Fix.Field == "" {
		return out
	}
	if w.Fix.Field == recipe.Grind {
		size := units.Micrometres(w.Fix.Value)
		out.For, out.Value, out.Button = "grind", d.prefs.Unit(units.Grind).Number(w.Fix.Value), "Set "+d.brew.Gear.Grinder.Setting(size)
		return out
	}
	u := units.Unit{Scale: 1}
	if _, amount := amountNames[w.Fix.Field]; amount {
		u, out.Keep = amountUnit(w.Fix.Field, d.prefs), string(recipe.Ratio)
	}
	out.Button = "Use"
	for _, k := range knobFields {
		if k.name == string(w.Fix.Field) {
			u = k.unit(d.prefs)
			out.Button = k.label + ":"
		}
	}
	out.For, out.Value = string(w.Fix.Field), u.Number(w.Fix.Value)
	out.Button += " " + strings.TrimSpace(u.Format(w.Fix.Value))
	return out
}

func (d decorator) dress(e field, f recipe.Field) field {
	e.Hint, e.Warnings, e.Steps = d.reasons[f], d.warnings[f], d.steps[f.Knob()]
	return e
}

// foreseen adds what the model expects to the fields it speaks of.
func (d *decorator) foreseen(v forecastView) {
	d.steps = v.Steps
	for _, w := range v.Warnings {
		d.warnings[w.Field] = append(d.warnings[w.Field], d.offer(w))
	}
}

func (d decorator) recipeFields(body *recipeBody) {
	held := d.brew.Draft.Held
	for _, name := range amountFields {
		e := d.dress(d.form.stepper(string(name), amountNames[name].label, amountUnit(name, d.prefs)), name)
		e.Held = name == held[0] || name == held[1]
		if name == recipe.Ratio {
			e.Prefix, e.Marked = "1 :", d.marked[recipe.KnobRatio]
		}
		body.Amounts = append(body.Amounts, e)
	}
	body.Amounts[0].Hint = fmt.Sprintf("%s loses %s: weigh out %s.", d.brew.Gear.Grinder.Name,
		d.prefs.Unit(units.Dose).Format(float64(d.brew.Gear.Grinder.Loss)), d.prefs.Unit(units.Dose).Format(float64(d.brew.Uses())))
	body.Amounts[3].Hint = fmt.Sprintf("The grounds keep %s g of water per gram.", units.Trim(d.brew.Gear.Brewer.Retained, 2))
	body.Grind = d.grindFields()
	for _, k := range knobFields {
		if !k.fits(d.brew) {
			continue
		}
		e := d.form.stepper(k.name, k.label, k.unit(d.prefs))
		if k.clock {
			e = d.form.clockEntry(k.name, k.label)
		}
		e = d.dress(e, recipe.Field(k.name))
		e.Marked = d.marked[k.knob]
		if k.part == heat {
			body.Heat = append(body.Heat, e)
		} else {
			body.Finer = append(body.Finer, e)
		}
	}
	body.Finer = append(body.Finer, d.lists()...)
	body.RinseMarked = d.marked[recipe.KnobRinse]
	body.FinerOpen = body.RinseMarked != ""
	for _, e := range body.Finer {
		body.FinerOpen = body.FinerOpen || e.Error != "" || e.Marked != "" || len(e.Warnings) > 0
	}
}

// lists are the finer points that are chosen from a list.
func (d decorator) lists() []field {
	height := selectOf(d.form, "height", "Pour from", recipe.Heights(), func(h recipe.Height) (string, string) { return h.String(), h.String() })
	height.Marked = d.marked[recipe.KnobHeight]
	pattern := selectOf(d.form, "pattern", "Pour in", recipe.Patterns(), plain)
	pattern.Marked = d.marked[recipe.KnobPattern]
	out := []field{height, pattern}
	if blooms(d.brew) {
		hand := selectOf(d.form, "hand", "Then the hand", recipe.Hands(), func(h recipe.Hand) (string, string) { return h.String(), h.String() })
		hand.Marked, hand.Hint = d.marked[recipe.KnobSwirl], "After the bloom and after the last pour."
		out = append(out, hand)
	}
	if percolation(d.brew) {
		next := selectOf(d.form, "next", "Next pour", []string{byClock, byBed}, plain)
		next.Marked = d.marked[recipe.KnobDrained]
		out = append(out, next)
	}
	return out
}

// grindFields are the size and, where the grinder has a dial, its setting.
func (d decorator) grindFields() []field {
	g := d.brew.Gear.Grinder
	size := d.form.stepper("grind", "Grind", d.prefs.Unit(units.Grind))
	size.Hint = recipeTexture(d.brew.Recipe.Grind)
	if g.Kind == gear.Words || g.Step == 0 {
		size = d.dress(size, recipe.Grind)
		return []field{size}
	}
	setting := d.dress(d.form.stepper("setting", "On "+g.Name, units.Unit{Scale: 1, Decimals: 2}), recipe.Grind)
	setting.Marked = d.marked[recipe.KnobGrind]
	setting.Step = units.Trim(g.Stride(), 3)
	setting.Fine = setting.Step
	setting.Unit = map[gear.DialKind]string{gear.Numbered: "on the dial", gear.Clicks: "clicks", gear.Turns: "clicks"}[g.Kind]
	if g.Kind == gear.Turns {
		setting.Hint = g.Setting(d.brew.Recipe.Grind) + ". " + setting.Hint
	}
	if !g.Repeatable() {
		setting.Warnings = append(setting.Warnings, warning{Text: "A blade cannot repeat a grind: take every figure here with a wide margin."})
	}
	step := g.Step
	if step < 0 {
		step = -step
	}
	size.Step, size.Fine = units.Trim(float64(step), 0), units.Trim(float64(step), 0)
	return []field{setting, size}
}

func recipeTexture(size units.Micrometres) string {
	return "Median size, " + gear.Texture(size) + "."
}

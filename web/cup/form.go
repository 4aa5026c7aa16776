package cup

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/web/form"
	"yardbloom/web/words"
)

// Parsing and filling of the Cup station's form.

// maxReadings is the maximum number of TDS readings.
const maxReadings = 12

// readCup parses the cup of a brew with a recipe, ground on a grinder.
func readCup(f *form.Form, r recipe.Recipe, g gear.Grinder, prefs units.Prefs) cup.Cup {
	water := prefs.Unit(units.Water)
	c := cup.Cup{
		Dose:     units.Grams(f.Quantity("dose", "The dose", prefs.Unit(units.Dose), recipe.Dose.Range(), false)),
		Water:    units.Grams(f.Quantity("water", "The water", water, recipe.Water.Range(), false)),
		Carafe:   units.Grams(f.Quantity("carafe", "The carafe", water, gear.CarafeRange, false)),
		Drawdown: units.Seconds(f.Quantity("drawdown", "The drawdown", form.Clock, cup.TimeRange, false)),
		Taste:    cup.Taste{Faults: map[cup.Fault]bool{}, Notes: f.Text("notes", "The notes", 1000, false)},
		ServedTo: f.Text("served_to", "The name", 60, false),
	}
	if prefs.Unit(units.Dose).Number(float64(c.Dose)) == prefs.Unit(units.Dose).Number(float64(r.Dose)) {
		c.Dose = 0 // as in the recipe
	}
	if water.Number(float64(c.Water)) == water.Number(float64(r.Water())) {
		c.Water = 0
	}
	c.Grind = readGrind(f, r, g, prefs)
	c.Beverage = readBeverage(f, r, c, water)
	c.Readings, c.TDS = readTDS(f)
	c.Spots = map[cup.Place]cup.Look{}
	for _, p := range cup.Places() {
		if look := cup.Look(f.Values["spot."+string(p)]); slices.Contains(cup.Looks(), look) {
			c.Spots[p] = look
		}
	}
	switch shape := cup.ShapeOf(c.Spots); {
	case shape != "":
		c.Bed = shape
	case f.Values["bed"] != "":
		c.Bed = form.Choice(f, "bed", "the spent bed", cup.Beds())
	}
	c.Sights = map[cup.Sight]bool{}
	for _, s := range cup.Sights() {
		if slices.Contains(f.All["seen"], string(s)) {
			c.Sights[s] = true
		}
	}
	readTaste(f, &c.Taste)
	return c
}

// readGrind returns the size that the grinder was really set to, or 0 for that of the recipe.
func readGrind(f *form.Form, r recipe.Recipe, g gear.Grinder, prefs units.Prefs) units.Micrometres {
	typed := strings.TrimSpace(f.Values["grind"])
	if typed == "" || typed == g.Setting(r.Grind) {
		return 0
	}
	size, err := g.ParseGrind(typed)
	if err == nil {
		err = recipe.Grind.Range().Check(recipe.AddressOf(recipe.Grind), float64(size))
	}
	if err != nil {
		f.Fail("grind", "%s", words.InvalidValue(err, "The grind", prefs.Unit(units.Grind)))
		return 0
	}
	if size = g.Snap(size); g.Step != 0 && g.Steps(size) == g.Steps(r.Grind) {
		return 0
	}
	return size
}

// readBeverage returns the scale reading minus the carafe.
func readBeverage(f *form.Form, r recipe.Recipe, c cup.Cup, water units.Unit) units.Grams {
	limits := cup.BeverageRange
	limits.Lo, limits.Hi = limits.Lo+float64(c.Carafe), limits.Hi+float64(c.Carafe)
	shown := units.Grams(f.Quantity("beverage", "The beverage", water, limits, false))
	if shown == 0 {
		return 0
	}
	net := shown - c.Carafe
	poured := r.Total()
	if c.Water > 0 {
		poured += c.Water - r.Water()
	}
	if net > poured+5 {
		f.Fail("beverage", "%s is more than the %s that was poured. If the carafe was on the scale, enter its empty weight.",
			water.Format(float64(net)), water.Format(float64(poured)))
	}
	return net
}

// splitReadings splits typed TDS readings at spaces, semicolons and slashes, and at commas that
// are not decimal signs.
func splitReadings(typed string) []string {
	var out []string
	for _, one := range strings.FieldsFunc(typed, func(r rune) bool { return unicode.IsSpace(r) || r == ';' || r == '/' }) {
		parts := []string{one}
		if strings.Contains(one, ".") { // the decimal sign is a point, so commas separate
			parts = strings.Split(one, ",")
		}
		for _, p := range parts {
			if p = strings.Trim(p, ","); p != "" {
				out = append(out, p)
			}
		}
	}
	return out
}

// finishedReadings drops the last reading while it is being typed, that is, while it is shorter
// than the one before.
func finishedReadings(typed string) string {
	all := splitReadings(typed)
	if n := len(all); n > 1 && len(all[n-1]) < len(all[n-2]) {
		all = all[:n-1]
	}
	return strings.Join(all, " ")
}

// readTDS parses one or several readings of a refractometer, and returns them with their mean.
func readTDS(f *form.Form) (readings []float64, mean float64) {
	typed := splitReadings(f.Values["tds"])
	if len(typed) > maxReadings {
		f.Fail("tds", "Up to %d readings are averaged.", maxReadings)
		return nil, 0
	}
	for _, one := range typed {
		v, err := form.Strength.Parse(one)
		if err == nil {
			err = cup.TDSRange.Check(units.Place{Name: "tds"}, v)
		}
		if err != nil {
			sentence := words.InvalidValue(err, "The TDS", form.Strength)
			if tenth := v / 10; v > cup.TDSRange.Hi && cup.TDSRange.Contains(tenth) {
				sentence += fmt.Sprintf(" Did you mean %s?", units.Trim(tenth, 2))
			}
			f.Fail("tds", "%s", sentence)
			return nil, 0
		}
		readings = append(readings, v)
	}
	mean, _ = cup.Average(readings)
	if len(readings) < 2 {
		readings = nil
	}
	return readings, mean
}

func readTaste(f *form.Form, t *cup.Taste) {
	t.Sips = map[cup.Stage]cup.Sip{}
	for _, stage := range cup.Stages() {
		sip := cup.Sip{Steps: map[cup.Sense]int{}, Likes: map[cup.Sense]cup.Like{}}
		for _, sc := range cup.Scales() {
			name := tasteName(stage, sc.Sense)
			step, ok := parseStep(f.Values[name])
			if !ok {
				f.Fail(name, "Choose one of the five words for %s.", sc.Sense)
				continue
			}
			if step == 0 {
				continue
			}
			sip.Steps[sc.Sense] = step
			if said := f.All[name+".like"]; len(said) > 0 && likes[said[0]] != 0 {
				sip.Likes[sc.Sense] = likes[said[0]]
			}
		}
		if len(sip.Likes) == 0 {
			sip.Likes = nil
		}
		sip.Flavours = readFlavours(f, string(stage)+".flavours", nil)
		if len(sip.Steps) > 0 || len(sip.Flavours) > 0 {
			t.Sips[stage] = sip
		}
	}
	t.Steps, t.Likes = cup.Combine(t.Sips)
	for _, known := range cup.Faults() {
		if slices.Contains(f.All["fault"], string(known)) {
			t.Faults[known] = true
		}
	}
	t.Flavours = readFlavours(f, "own_flavours", f.All["flavour"])
	for _, stage := range cup.Stages() {
		for _, flavour := range t.Sips[stage].Flavours {
			if !slices.Contains(t.Flavours, flavour) {
				t.Flavours = append(t.Flavours, flavour)
			}
		}
	}
	if f.Values["better"] != "" {
		t.Better = form.Choice(f, "better", "how it compares", cup.Thans())
	}
	t.Overall = int(f.Quantity("overall", "The mark", form.Count, units.Range{Lo: 1, Hi: 10}, false))
	if v := f.Values["serve"]; v == "yes" || v == "no" {
		t.Serve = v
	}
}

// likes maps the values of the two boxes beside a sense.
var likes = map[string]cup.Like{"yes": cup.Liked, "no": cup.Disliked}

func tasteName(stage cup.Stage, sense cup.Sense) string { return string(stage) + "." + string(sense) }

// parseStep parses a step; 0 for none.
func parseStep(typed string) (step int, ok bool) {
	if typed == "" {
		return 0, true
	}
	n, err := strconv.Atoi(typed)
	return n, err == nil && n >= 1 && n <= 5
}

// readFlavours returns the ticked flavours and the ones typed in a field.
func readFlavours(f *form.Form, field string, ticked []string) []string {
	const most, letters = 24, 40
	var out []string
	for _, typed := range append(slices.Clone(ticked), strings.Split(f.Values[field], ",")...) {
		v := strings.ToLower(strings.Join(strings.Fields(typed), " "))
		switch {
		case v == "" || slices.Contains(out, v):
		case len(v) > letters:
			f.Fail(field, "A note can have up to %d letters.", letters)
		case len(out) == most:
			f.Fail(field, "Up to %d notes can be kept for one cup.", most)
		default:
			out = append(out, v)
		}
	}
	return out
}

// fillCup returns a saved cup as a form.
func fillCup(b brew.Brew, prefs units.Prefs) *form.Form {
	f := form.New()
	c := b.Cup
	water := prefs.Unit(units.Water)
	number := func(name string, u units.Unit, v units.Grams) {
		if v > 0 {
			f.Values[name] = u.Number(float64(v))
		}
	}
	dose, poured := b.Recipe.Dose, b.Recipe.Water()
	if c.Dose > 0 {
		dose = c.Dose
	}
	if c.Water > 0 {
		poured = c.Water
	}
	number("dose", prefs.Unit(units.Dose), dose)
	number("water", water, poured)
	f.Values["grind"] = b.Gear.Grinder.Setting(cmp.Or(c.Grind, b.Recipe.Grind))
	number("carafe", water, c.Carafe)
	if c.Beverage > 0 {
		number("beverage", water, c.Beverage+c.Carafe)
	}
	switch {
	case len(c.Readings) > 0:
		var all []string
		for _, r := range c.Readings {
			all = append(all, fmt.Sprintf("%.2f", r))
		}
		f.Values["tds"] = strings.Join(all, " ")
	case c.TDS > 0:
		f.Values["tds"] = fmt.Sprintf("%.2f", c.TDS)
	}
	if c.Simulated { // keep the mark until the readings are replaced
		f.Values["simulated"] = f.Values["tds"]
	}
	if cup.TimeRange.Contains(float64(c.Drawdown)) { // a brew that was forgotten is not timed
		f.Values["drawdown"] = c.Drawdown.String()
	}
	if c.Overall > 0 {
		f.Values["overall"] = strconv.Itoa(c.Overall)
	}
	f.Values["serve"], f.Values["notes"], f.Values["better"], f.Values["served_to"] = c.Serve, c.Notes, string(c.Better), c.ServedTo
	if len(c.Spots) == 0 { // otherwise it follows from the picture
		f.Values["bed"] = string(c.Bed)
	}
	for place, look := range c.Spots {
		f.Values["spot."+string(place)] = string(look)
	}
	sips := c.Sips
	if len(sips) == 0 && len(c.Steps) > 0 { // saved before cups were tasted by stages
		sips = map[cup.Stage]cup.Sip{cup.Warm: {Steps: c.Steps, Likes: c.Likes}}
	}
	for stage, sip := range sips {
		f.Values[string(stage)+".flavours"] = strings.Join(sip.Flavours, ", ")
		for sense, step := range sip.Steps {
			f.Values[tasteName(stage, sense)] = strconv.Itoa(step)
		}
		for sense, like := range sip.Likes {
			for value, l := range likes {
				if l == like {
					f.All[tasteName(stage, sense)+".like"] = []string{value}
				}
			}
		}
	}
	for fault := range c.Faults {
		f.All["fault"] = append(f.All["fault"], string(fault))
	}
	for seen := range c.Sights {
		f.All["seen"] = append(f.All["seen"], string(seen))
	}
	for _, flavour := range c.Flavours { // those of a stage are in its own field
		if !slices.ContainsFunc(cup.Stages(), func(s cup.Stage) bool { return slices.Contains(c.Sips[s].Flavours, flavour) }) {
			f.All["flavour"] = append(f.All["flavour"], flavour)
		}
	}
	return f
}

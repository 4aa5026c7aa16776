package brew

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"yardbloom/core/cup"
	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// A Correction is a value of a finished brew that was replaced. The brew holds the new one.
type Correction struct {
	What   string // a name of Corrected
	Was    string // the former value in its canonical unit, or a word; empty: none
	Taster string // of a taste: whose; empty: the yard
	By     string // id of the person who corrected it; empty: the yard
	At     time.Time
}

// A corrected is a value that can be corrected: its name, its quantity, and the value of a cup.
type corrected struct {
	what   string
	kind   units.Kind // of a number; see number
	number bool
	taste  bool // of a taster, not shared
	read   func(cup.Cup) string
}

func number(v float64) string {
	if v == 0 {
		return ""
	}
	return strconv.FormatFloat(v, 'f', -1, 64)
}

// correctable lists the values that are entered by hand on a finished brew.
var correctable = append([]corrected{
	{"dose", units.Dose, true, false, func(c cup.Cup) string { return number(float64(c.Dose)) }},
	{"water", units.Water, true, false, func(c cup.Cup) string { return number(float64(c.Water)) }},
	{"grind", units.Grind, true, false, func(c cup.Cup) string { return number(float64(c.Grind)) }},
	{"beverage", units.Water, true, false, func(c cup.Cup) string { return number(float64(c.Beverage)) }},
	{"TDS", 0, true, false, func(c cup.Cup) string { return number(c.TDS) }},
	{"drawdown", units.Time, true, false, func(c cup.Cup) string { return number(float64(c.Drawdown)) }},
	{"spent bed", 0, false, false, func(c cup.Cup) string { return string(c.Bed) }},
	{"served to", 0, false, false, func(c cup.Cup) string { return c.ServedTo }},
	{"mark", units.Count, true, true, func(c cup.Cup) string { return number(float64(c.Overall)) }},
	{"would serve it", 0, false, true, func(c cup.Cup) string { return c.Serve }},
	{"against the last one", 0, false, true, func(c cup.Cup) string { return string(c.Better) }},
	{"flavours", 0, false, true, func(c cup.Cup) string { return strings.Join(c.Flavours, ", ") }},
	{"faults", 0, false, true, func(c cup.Cup) string {
		var out []string
		for _, f := range cup.Faults() {
			if c.Faults[f] {
				out = append(out, string(f))
			}
		}
		return strings.Join(out, ", ")
	}},
	{"notes", 0, false, true, func(c cup.Cup) string { return c.Notes }},
}, senses()...)

func senses() (out []corrected) {
	for _, sc := range cup.Scales() {
		out = append(out, corrected{string(sc.Sense), 0, false, true, func(c cup.Cup) string { return cup.Word(sc.Sense, c.Steps[sc.Sense]) }})
	}
	return out
}

// Corrections returns the values that a change of a finished brew replaces, as its taster sees it: those of the measurements, and of
// the taste of each person who had tasted it. A brew that was not finished has none.
func Corrections(was, is Brew, at time.Time) []Correction {
	if was.Status != Done {
		return nil
	}
	var out []Correction
	compare := func(taste bool, taster, by string, before, after cup.Cup) {
		for _, c := range correctable {
			if old := c.read(before); c.taste == taste && old != c.read(after) {
				out = append(out, Correction{c.what, old, taster, by, at})
			}
		}
	}
	compare(false, "", is.MeasuredBy, was.Cup, is.Cup)
	for _, t := range was.Tastings {
		if now, ok := is.TastingBy(t.Taster); ok {
			compare(true, t.Taster, t.Taster, t.Cup, now.Cup)
		}
	}
	return out
}

// Sentence describes a correction of a brew on a grinder in the person's units, such as "TDS was 1.42 %".
func (c Correction) Sentence(g gear.Grinder, prefs units.Prefs) string {
	name := strings.ToUpper(c.What[:1]) + c.What[1:]
	if c.Was == "" {
		return name + " was empty"
	}
	for _, k := range correctable {
		if v, err := strconv.ParseFloat(c.Was, 64); k.what == c.What && k.number && err == nil {
			return fmt.Sprintf("%s was %s", name, k.format(v, g, prefs))
		}
	}
	return fmt.Sprintf("%s: was “%s”", name, c.Was)
}

func (k corrected) format(v float64, g gear.Grinder, prefs units.Prefs) string {
	switch k.what {
	case "TDS":
		return fmt.Sprintf("%.2f %%", v)
	case "grind":
		return g.Setting(units.Micrometres(v))
	case "mark":
		return fmt.Sprintf("%.0f of 10", v)
	}
	return prefs.Unit(k.kind).Format(v)
}

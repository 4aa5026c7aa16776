package recipe

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"yardbloom/core/brew"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/web/form"
	"yardbloom/web/station"
	"yardbloom/web/words"
)

// A pourRow is a line of the schedule: a pour, with fields under their addresses, or another action.
type pourRow struct {
	N      int // number of the pour, from 1; 0: another action
	Name   string
	At     string // time of another action
	Detail string
	Total  string
	Cells  []form.Field
	Pinned bool
	Notes  []string     // below the name
	Menu   []form.Field // its rarer fields
	Open   bool         // the menu, which has an error
	Last   bool         // the last pour
	Only   bool
}

// pourKnobs lists the knobs of a single pour, in table order.
var pourKnobs = []struct {
	knob  recipe.Knob
	label string // column head
}{
	{recipe.Start, "Start"}, {recipe.Water, "Amount"}, {recipe.Lasts, "Duration"}, {recipe.Rate, "Rate"}, {recipe.Temperature, "Temperature"},
	{recipe.PourHeight, "Height"}, {recipe.PourPattern, "Pattern"}, {recipe.HandAfter, "After"}, {recipe.Wait, "Starts"},
}

// pourColumns returns the column heads of the table.
func pourColumns() []string {
	var out []string
	for _, k := range pourKnobs {
		out = append(out, k.label)
	}
	return out
}

// narrow holds short forms of some choices for narrow columns.
var narrow = map[string]string{recipe.ByClock: "by clock", recipe.ByBed: "by bed", recipe.ByDrips: "by drips", string(recipe.Circles): "circles"}

// fillPours adds each pour to the form as planned: whole grams that add up, and whole seconds. Invalid
// input stays.
func fillPours(f *form.Form, r recipe.Recipe, plan recipe.Plan, prefs units.Prefs) {
	pour := 0
	for _, st := range plan.Steps {
		if st.Act != recipe.PourWater {
			continue
		}
		pour++
		at := func(k recipe.Knob) recipe.Address { return recipe.Address{Knob: k, Pour: pour} }
		asPoured := map[recipe.Knob]float64{recipe.Water: float64(st.Water), recipe.Start: float64(st.Start),
			recipe.Lasts: float64(st.Lasts)}
		for _, k := range pourKnobs {
			name, v := at(k.knob).String(), r.Value(at(k.knob))
			if exact, ok := asPoured[k.knob]; ok {
				v = exact
			}
			if _, typed := f.Values[name]; !typed {
				f.Values[name] = fieldText(at(k.knob), v, prefs)
			}
		}
		for _, k := range []recipe.Knob{recipe.Level, recipe.Source} {
			if name := at(k).String(); f.Values[name] == "" {
				f.Values[name] = fieldText(at(k), r.Value(at(k)), prefs)
			}
		}
	}
}

// pourRows returns the lines of the schedule.
func pourRows(f *form.Form, sc *station.Scene, plan recipe.Plan) []pourRow {
	var out []pourRow
	u, heat := sc.Prefs.Unit(units.Water), sc.Prefs.Unit(units.Temperature)
	all := len(sc.Recipe.Pours)
	pour := 0
	for _, st := range plan.Steps {
		switch st.Act {
		case recipe.BreakCrust:
			out = append(out, pourRow{Name: "Crust", At: st.Start.String(), Detail: "Break the crust, a few slow strokes."})
			continue
		case recipe.OpenValve:
			out = append(out, pourRow{Name: "Valve", At: st.Start.String(), Detail: "Open the valve onto the carafe."})
			continue
		}
		pour++
		row := pourRow{N: pour, Name: fmt.Sprintf("Pour %d", pour), Total: u.Format(float64(st.Total)),
			Pinned: sc.Recipe.Pours[pour-1].Pinned, Last: pour == all, Only: all == 1}
		if st.Bloom {
			row.Name = "Bloom"
		}
		for _, k := range pourKnobs {
			row.Cells = append(row.Cells, pourCell(f, sc, recipe.Address{Knob: k.knob, Pour: pour}, k.label, st, heat))
		}
		level := recipe.Address{Knob: recipe.Level, Pour: pour}
		row.Menu = append(row.Menu, f.Stepper(level.String(), "Pour to a level: share of the height from outlet to rim", sc.Prefs.Unit(units.Share)))
		row.Open = row.Menu[0].Error != ""
		if st.Level > 0 {
			row.Notes = append(row.Notes, "to "+words.Level(st.Level))
		}
		if sc.Gear.Second.ID != "" {
			at := recipe.Address{Knob: recipe.Source, Pour: pour}
			row.Menu = append(row.Menu, form.Select(f, at.String(), recipe.Source.Label(), recipe.Source.Choices(),
				func(c string) (string, string) { return c, kettleName(sc.Gear, c) }))
			if st.Second {
				row.Notes = append(row.Notes, "from "+sc.Gear.Second.Name)
			}
		}
		out = append(out, row)
	}
	return append(out, pourRow{Name: "The end", At: plan.Finish.String(), Detail: "Last steady stream: the aim."})
}

// pourCell returns a field of a pour. A fixed value is shown as text: the start of the first pour, and the
// temperature of a kettle that cools.
func pourCell(f *form.Form, sc *station.Scene, at recipe.Address, label string, st recipe.Step, heat units.Unit) form.Field {
	fixed := func(value string) form.Field { return form.Field{Label: label, Value: value, Kind: "fixed"} }
	switch {
	case at.Pour == 1 && at.Knob == recipe.Start:
		return fixed("0:00")
	case at.Pour == 1 && at.Knob == recipe.Wait:
		return fixed("at once")
	case at.Knob == recipe.Temperature && cools(sc, at.Pour):
		return fixed("≈ " + heat.Format(float64(st.Temperature)))
	}
	name := at.String()
	if choices := at.Knob.Choices(); choices != nil {
		return form.Select(f, name, label, choices, func(c string) (string, string) {
			if short := narrow[c]; short != "" {
				return c, short
			}
			return c, c
		})
	}
	e := f.Stepper(name, label, sc.Prefs.Unit(at.Knob.Kind()))
	if at.Knob == recipe.Start && st.Cue.ByEye() {
		e.Prefix = "≈"
	}
	if e.Unit == units.ClockSymbol {
		e.Unit = ""
	}
	return e
}

// kettleName returns the name of the kettle of a choice.
func kettleName(g gear.Set, choice string) string { return g.Of(choice == recipe.SecondKettle).Name }

// cools reports whether the temperature of a pour follows from a kettle that cools since an earlier pour.
func cools(sc *station.Scene, pour int) bool {
	p := sc.Recipe.Pours[pour-1]
	earlier := slices.ContainsFunc(sc.Recipe.Pours[:pour-1], func(o recipe.Pour) bool { return o.Second == p.Second })
	reheated := sc.Recipe.Reheat && !p.Second
	return earlier && !reheated && !sc.Gear.Of(p.Second).Thermostat
}

// readEdit performs the action of a button beside a pour, such as "pours.2.split".
func readEdit(d *brew.Draft, f *form.Form) {
	where, what, one := strings.Cut(strings.TrimPrefix(f.Values["edit"], "pours."), ".")
	n, err := strconv.Atoi(where)
	if !one || err != nil {
		return
	}
	r, err := d.Recipe.Edit(recipe.Edit(what), n)
	if err != nil {
		f.Fail("edit", "Pour %d: %s.", n, err)
		return
	}
	d.Recipe, d.Typed = r, nil
}

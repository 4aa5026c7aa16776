package web

import (
	"fmt"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/setup"
	"yardbloom/core/units"
)

// A station is one of the six of the line, as the navigation shows it.
type station struct {
	Name, Href string
	Fact       string // what the station already knows
	State      string // here, passed, open or ahead
}

var stationNames = [...]string{"Coffee", "Recipe", "Set-up", "Brew", "Cup", "Next"}

// emptyLine is the line before there is a brew: only the shelf can be reached.
func emptyLine(here string) []station {
	out := make([]station, len(stationNames))
	for i, name := range stationNames {
		out[i] = station{Name: name, State: "ahead"}
	}
	out[0].Href, out[0].State = "/", "open"
	return mark(out, here)
}

// lineOf is the line of one brew: what each station knows of it, and which can be reached.
func lineOf(sc *scene, here string) []station {
	at := func(what string) string { return fmt.Sprintf("/brews/%s/%s", sc.ID, what) }
	out := []station{
		{Name: "Coffee", Href: "/bags/" + sc.BagID, Fact: units.Shorten(sc.Bag.Name)},
		{Name: "Recipe", Href: at("recipe"), Fact: fmt.Sprintf("%s · %s", sc.prefs.Unit(units.Dose).Format(float64(sc.Recipe.Dose)), sc.prefs.Unit(units.Ratio).Format(sc.ratio()))},
		{Name: "Set-up", Href: at("setup"), Fact: "done"},
		{Name: "Brew", Href: at("brew"), Fact: pourFact(sc)},
		{Name: "Cup", Href: at("cup")},
		{Name: "Next", Href: at("next")},
	}
	passed, reached := 1, 4 // how many stations lie behind, and how many can be opened
	switch {
	case sc.brew != nil:
		behind := progress[sc.brew.Status]
		passed, reached = behind.passed, behind.reached
	case sc.editable():
		n := len(setup.Checklist(sc.job()))
		out[2].Fact = fmt.Sprintf("%d of %d", min(len(sc.draft.Checked), n), n)
	default: // a kept recipe
		passed, reached, out[2].Fact = 1, 2, ""
	}
	if sc.brew != nil && sc.brew.Advice != nil {
		out[4].Fact = "tasted"
		if y, ok := sc.brew.Yield(); ok {
			out[4].Fact = "EY " + y.String()
		}
		out[5].Fact = nextFact(*sc.brew.Advice)
	}
	for i := range out {
		switch {
		case i < passed:
			out[i].State = "passed"
		case i < reached:
			out[i].State = "open"
		default:
			out[i].State, out[i].Href = "ahead", ""
		}
	}
	return mark(out, here)
}

// progress is, by status, how many stations lie behind a brew and can be opened.
var progress = map[brew.Status]struct{ passed, reached int }{
	brew.Running: {3, 4}, brew.Abandoned: {4, 4}, brew.Poured: {4, 5}, brew.Done: {6, 6},
}

// mark marks the station that is shown.
func mark(line []station, here string) []station {
	for i := range line {
		if line[i].Name == here {
			line[i].State = "here"
		}
	}
	return line
}

func pourFact(sc *scene) string {
	switch {
	case sc.brew == nil:
		return "aim " + sc.plan().Finish.String()
	case sc.brew.Status == brew.Running:
		return "pouring"
	case sc.brew.Status == brew.Abandoned:
		return "stopped"
	default:
		return sc.brew.Cup.Drawdown.String()
	}
}

func nextFact(a coach.Advice) string {
	if a.First == nil {
		return units.Shorten(a.Instead)
	}
	return a.First.Say
}

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
func lineOf(b brew.Brew, prefs units.Prefs, here string) []station {
	at := func(what string) string { return fmt.Sprintf("/brews/%d/%s", b.ID, what) }
	out := []station{
		{Name: "Coffee", Href: fmt.Sprintf("/bags/%d", b.BagID), Fact: units.Shorten(b.Bag.Name)},
		{Name: "Recipe", Href: at("recipe"), Fact: fmt.Sprintf("%s · 1 : %s", prefs.Unit(units.Dose).Format(float64(b.Recipe.Dose)), units.Trim(b.Ratio(), 1))},
		{Name: "Set-up", Href: at("setup"), Fact: setupFact(b, prefs)},
		{Name: "Brew", Href: at("brew"), Fact: pourFact(b)},
		{Name: "Cup", Href: at("cup")},
		{Name: "Next", Href: at("next")},
	}
	// passed and reached are, by status, how many stations lie behind and can be opened.
	progress := map[brew.Status]struct{ passed, reached int }{
		brew.Planned: {1, 4}, brew.Running: {3, 4}, brew.Abandoned: {4, 4}, brew.Poured: {4, 5}, brew.Done: {6, 6},
	}[b.Status]
	if b.Status == brew.Done {
		c := coach.Of(b, prefs)
		out[4].Fact = "tasted"
		if y, ok := c.Yield(); ok {
			out[4].Fact = "EY " + y.String()
		}
		out[5].Fact = nextFact(coach.Advise(c))
	}
	for i := range out {
		switch {
		case i < progress.passed:
			out[i].State = "passed"
		case i < progress.reached:
			out[i].State = "open"
		default:
			out[i].State, out[i].Href = "ahead", ""
		}
	}
	return mark(out, here)
}

func mark(line []station, here string) []station {
	for i := range line {
		if line[i].Name == here {
			line[i].State = "here"
		}
	}
	return line
}

func setupFact(b brew.Brew, prefs units.Prefs) string {
	if b.Status != brew.Planned {
		return "done"
	}
	n := len(setup.Checklist(b.Recipe, b.Gear, prefs))
	return fmt.Sprintf("%d of %d", min(len(b.Checked), n), n)
}

func pourFact(b brew.Brew) string {
	switch b.Status {
	case brew.Running:
		return "pouring"
	case brew.Abandoned:
		return "stopped"
	case brew.Planned:
		return "aim " + b.Schedule().Finish.String()
	default:
		return b.Cup.Drawdown.String()
	}
}

func nextFact(a coach.Advice) string {
	if a.First == nil {
		return units.Shorten(a.Instead)
	}
	return a.First.Say
}

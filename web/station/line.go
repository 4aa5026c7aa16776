package station

import (
	"fmt"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/units"
	"yardbloom/web/page"
)

// Line returns the line of one brew: what each station knows, and which can be opened. here is the station
// that is shown; empty for none.
func Line(sc *Scene, here string) []page.Stop {
	at := func(what string) string { return fmt.Sprintf("/brews/%s/%s", sc.ID, what) }
	out := []page.Stop{
		{Name: "Coffee", Href: "/bags/" + sc.BagID, Fact: units.Shorten(sc.Bag.Name)},
		{Name: "Recipe", Href: at("recipe"), Fact: fmt.Sprintf("%s · %s", sc.Prefs.Unit(units.Dose).Format(float64(sc.Recipe.Dose)),
			sc.Prefs.Unit(units.Ratio).Format(sc.Ratio()))},
		{Name: "Set-up", Href: at("setup"), Fact: "done"},
		{Name: "Brew", Href: at("brew"), Fact: pourFact(sc)},
		{Name: "Cup", Href: at("cup")},
		{Name: "Next", Href: at("next")},
	}
	passed, reached := 1, 4 // number of completed stations, and of those that can be opened
	switch {
	case sc.Brew != nil:
		behind := progress[sc.Brew.Status]
		passed, reached = behind.passed, behind.reached
	case sc.Editable():
		n := len(sc.Setup().Checklist())
		out[2].Fact = fmt.Sprintf("%d of %d", min(len(sc.Draft.Checked), n), n)
	default: // a kept recipe
		passed, reached, out[2].Fact = 1, 2, ""
	}
	if sc.Brew != nil && sc.Brew.Advice != nil {
		out[4].Fact = "tasted"
		if y, ok := sc.Brew.Yield(); ok {
			out[4].Fact = "EY " + y.String()
		}
		out[5].Fact = nextFact(*sc.Brew.Advice)
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
	return page.MarkHere(out, here)
}

// progress holds, by status, the number of completed stations and of those that can be opened.
var progress = map[brew.Status]struct{ passed, reached int }{
	brew.Running: {3, 4}, brew.Abandoned: {4, 4}, brew.Poured: {4, 5}, brew.Done: {6, 6},
}

func pourFact(sc *Scene) string {
	switch {
	case sc.Brew == nil:
		return "aim " + sc.Plan().Finish.String()
	case sc.Brew.Status == brew.Running:
		return "pouring"
	case sc.Brew.Status == brew.Abandoned:
		return "stopped"
	default:
		return sc.Brew.Cup.Drawdown.String()
	}
}

func nextFact(a coach.Advice) string {
	if a.First == nil {
		return units.Shorten(a.Instead)
	}
	return a.First.Say
}

package recipe

import (
	"fmt"
	"strings"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/forecast"
	"yardbloom/core/units"
	"yardbloom/web/form"
	"yardbloom/web/station"
)

// partsView shows what runs out of the brewer in which part of the brew, and what leaving a part out would do.
type partsView struct {
	Thirds []thirdView
	Taste  string // how to taste them apart
	Edits  []partEdit
}

type thirdView struct{ Name, Mass, TDS, Bright, Sweet, Bitter string }

type partEdit struct{ Value, Say, Then, Why string }

// partPrefix begins the value of a button that applies a part's edit.
const partPrefix = "part."

var partTexts = map[forecast.PartEdit]struct{ say, why string }{
	forecast.CutLast:    {"Leave out the last %s", "Weak and the most bitter part: a stronger, cleaner, smaller cup."},
	forecast.DiluteLast: {"Add %s of hot water instead of the last pour", "The same cup with less extraction."},
	forecast.DiscardFirst: {"Discard the first %s",
		"The strongest part of a dark roast, which some find harsh: a lighter cup."},
}

func partsOf(sc *station.Scene, q forecast.Question, f forecast.Forecast) *partsView {
	water := sc.Prefs.Unit(units.Water)
	v := &partsView{}
	names := [...]string{"First third", "Middle third", "Last third"}
	share := func(part float64) string { return fmt.Sprintf("%.0f\u00a0%%", 100*part) }
	for i, p := range f.Thirds() {
		v.Thirds = append(v.Thirds, thirdView{names[i], water.Format(float64(p.Mass)), fmt.Sprintf("%.2f\u00a0%%", p.TDS),
			share(p.Balance.Bright), share(p.Balance.Sweet), share(p.Balance.Bitter)})
	}
	third := float64(f.Ran()) / 3
	v.Taste = fmt.Sprintf("To taste them apart, change the glass at %s and again at %s.", water.Format(third), water.Format(2*third))
	if !sc.Editable() {
		return v
	}
	for _, p := range forecast.Parts(q, f) {
		text := partTexts[p.Edit]
		v.Edits = append(v.Edits, partEdit{Value: partPrefix + string(p.Edit), Say: fmt.Sprintf(text.say, water.Format(float64(p.Amount))),
			Then: fmt.Sprintf("EY %s, TDS %s, %s", units.Points(p.Effect.Yield, 1), units.Points(p.Effect.Strength, 2), tilts[p.Effect.Tilt()]),
			Why:  text.why})
	}
	return v
}

var tilts = map[string]string{"same": "the same balance", "brighter": "brighter", "bitterer": "more bitter"}

// readPart applies the edit of a pressed button of partsView; false if another button was pressed.
func readPart(d *brew.Draft, f *form.Form, now time.Time) bool {
	edit, pressed := strings.CutPrefix(f.Values["edit"], partPrefix)
	if !pressed {
		return false
	}
	q := d.Question(now)
	var predicted forecast.Forecast
	if predicted.Run(q) != nil {
		return true
	}
	for _, p := range forecast.Parts(q, predicted) {
		if string(p.Edit) == edit {
			d.Recipe, d.Typed = p.Recipe, nil
		}
	}
	return true
}

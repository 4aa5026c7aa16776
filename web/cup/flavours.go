package cup

import (
	"fmt"
	"net/http"
	"strings"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/units"
	"yardbloom/web/page"
	"yardbloom/web/station"
)

// flavourCard is a card for judges or a shelf: the coffee, and its flavours while it is hot, warm and cold.
type flavourCard struct {
	ID, Back string
	Name     string
	Of       string // roaster, process, variety, altitude
	Stages   []stageCard
	Always   []string // flavours that belong to no stage
	Senses   []page.Fact
	How      string // the recipe in a line
	By       string // who tasted it
	Empty    bool
}

type stageCard struct {
	Name     string
	Flavours []string
	Says     string // the most notable senses
}

// namesOfStages holds the headings of the card.
var namesOfStages = map[cup.Stage]string{cup.Hot: "Hot", cup.Warm: "Warm", cup.Cool: "Cold"}

// flavours shows the flavour card of a brew.
func (s *Screens) flavours(w http.ResponseWriter, r *http.Request) error {
	sc := station.Of(r)
	if err := requirePoured(sc); err != nil {
		return err
	}
	if err := seeTaster(r, sc); err != nil {
		return err
	}
	b := *sc.Brew
	body := flavourCard{ID: b.ID, Back: "/brews/" + b.ID + "/cup" + sc.As(r), Name: b.Bag.Name, Of: originOf(b, sc.Prefs), How: howOf(b, sc.Prefs)}
	if by := page.BadgeOf(r, b.Taster); by != nil {
		body.By = by.Name
	}
	placed := map[string]bool{}
	for _, stage := range cup.Stages() {
		sip := b.Cup.Sips[stage]
		c := stageCard{Name: namesOfStages[stage], Flavours: sip.Flavours, Says: notable(sip)}
		for _, flavour := range sip.Flavours {
			placed[flavour] = true
		}
		body.Stages = append(body.Stages, c)
	}
	for _, flavour := range b.Cup.Flavours {
		if !placed[flavour] {
			body.Always = append(body.Always, flavour)
		}
	}
	for _, sc := range cup.Scales() {
		if word := cup.Word(sc.Sense, b.Cup.Steps[sc.Sense]); word != "" {
			body.Senses = append(body.Senses, page.Fact{Name: sc.Name, Value: word})
		}
	}
	body.Empty = len(body.Senses) == 0 && len(b.Cup.Flavours) == 0
	s.Render(w, r, http.StatusOK, "flavours", page.Page{Title: "Flavour card: " + b.Bag.Name, Station: "Cup", Line: station.Line(sc, "Cup"), Body: body})
	return nil
}

// originOf describes the coffee in a line.
func originOf(b brew.Brew, prefs units.Prefs) string {
	var out []string
	roast := b.Bag.Roast.String() + " roast"
	if b.Bag.Roast == coffee.RoastUnknown {
		roast = ""
	}
	for _, part := range []string{b.Bag.Roaster, b.Bag.Variety, string(b.Bag.Process), roast} {
		if part != "" {
			out = append(out, part)
		}
	}
	if b.Bag.Altitude > 0 {
		out = append(out, prefs.Unit(units.Altitude).Format(float64(b.Bag.Altitude)))
	}
	return strings.Join(out, " · ")
}

// howOf describes the recipe in a line.
func howOf(b brew.Brew, prefs units.Prefs) string {
	r := b.Recipe
	return fmt.Sprintf("%s, %s, %s, %s, %s", b.Gear.Brewer.Kind.Form().Name, prefs.Unit(units.Dose).Format(float64(r.Dose)),
		prefs.Unit(units.Ratio).Format(r.Ratio()), prefs.Unit(units.Temperature).Format(float64(r.Temperature())), r.Style.Style().Name)
}

// notable names the senses at a stage that are far from the middle.
func notable(s cup.Sip) string {
	var out []string
	for _, sc := range cup.Scales() {
		if step := s.Steps[sc.Sense]; step >= 4 || step == 1 {
			out = append(out, strings.ToLower(sc.Name)+" "+cup.Word(sc.Sense, step))
		}
	}
	return strings.Join(out, ", ")
}

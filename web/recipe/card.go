package recipe

import (
	_ "embed"
	"fmt"
	"html/template"
	"io"
	"net"
	"net/http"
	"strings"

	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/web/figure"
	"yardbloom/web/page"
	"yardbloom/web/station"
	"yardbloom/web/words"
)

//go:embed card.css
var cardStyle string

// cardBody is a recipe as a printed card.
type cardBody struct {
	ID     string
	Name   string
	Sub    string
	Flower template.HTML
	Big    []page.Fact
	Ribbon template.HTML
	Steps  []stepView
	Look   []page.Fact // what to watch for
	Code   string      // code of the short address; empty for a draft
	QR     template.HTML
	Packed bool   // the code carries the recipe itself
	Sorry  string // why the QR code has no address
	Four   bool
	Cards  []struct{} // one for each card on the sheet
	Style  template.CSS
}

// card shows a recipe for printing: one A6 card, or four on A4.
func (s *Screens) card(w http.ResponseWriter, r *http.Request) error {
	body := s.cardBody(r, station.Of(r))
	s.Render(w, r, http.StatusOK, "card", page.Page{Title: "Card: " +
		body.Name, Station: "Recipe", Line: station.Line(station.Of(r), "Recipe"), Body: body})
	return nil
}

// cardFile serves the card as a single self-contained file.
func (s *Screens) cardFile(w http.ResponseWriter, r *http.Request) error {
	body := s.cardBody(r, station.Of(r))
	body.Style = template.CSS(cardStyle)
	file, err := s.Block("card", "file", body)
	if err != nil {
		return err
	}
	page.Attach(w, "text/html; charset=utf-8", fmt.Sprintf("card-%s.html", body.ID))
	_, err = io.WriteString(w, file)
	return err
}

func (s *Screens) cardBody(r *http.Request, sc *station.Scene) cardBody {
	plan, prefs := sc.Plan(), sc.Prefs
	body := cardBody{ID: sc.ID, Name: sc.Bag.Name, Four: r.URL.Query().Get("sheet") == "a4",
		Flower: figure.Flower(sc.Recipe.Dose, plan.Steps, 0)}
	style := sc.Recipe.Style.Style().Name
	if sc.Draft != nil && sc.Draft.Name != "" {
		body.Name, style = sc.Draft.Name, sc.Bag.Name+" · "+style
		if sc.Draft.Number > 1 {
			style += fmt.Sprintf(" · version %d", sc.Draft.Number)
		}
	}
	g, water := sc.Gear, prefs.Unit(units.Water)
	body.Sub = strings.Join([]string{style, madeWith(sc)}, " · ")
	body.Big = []page.Fact{{Name: "Coffee", Value: prefs.Unit(units.Dose).Format(float64(sc.Recipe.Dose))},
		{Name: "Water", Value: water.Format(float64(sc.Recipe.Water()))},
		{Name: "Grind", Value: g.Grinder.Setting(sc.Recipe.Grind)},
		{Name: "Kettle", Value: prefs.Unit(units.Temperature).Format(float64(sc.Recipe.Temperature()))}}
	body.Ribbon = figure.Ribbon{Plan: plan, Prefs: prefs, Card: true, Additions: words.Additions(sc.Recipe, prefs)}.SVG()
	body.Steps = cardSteps(plan, prefs)
	body.Look = watchFor(sc, plan)
	body.Cards = make([]struct{}, 1)
	if body.Four {
		body.Cards = make([]struct{}, 4)
	}
	if sc.Draft != nil && sc.Draft.Code != "" {
		body.Code, body.QR, body.Sorry = s.shortAddress(r, sc.Draft.Code)
	}
	if body.QR == "" { // no phone could open an address
		if _, packed, err := packedQR(sc); err == nil && packed != "" {
			body.QR, body.Code, body.Packed = packed, "the recipe, for another yard", true
		}
	}
	return body
}

// cardSteps returns the schedule: the action of each step, and the scale reading after it.
func cardSteps(plan recipe.Plan, prefs units.Prefs) []stepView {
	water := prefs.Unit(units.Water)
	var out []stepView
	for _, st := range plan.Steps {
		v := stepView{At: st.Start.String(), What: "Pour", Total: water.Format(float64(st.Total))}
		switch {
		case st.Act == recipe.BreakCrust:
			v.What, v.Total = "Break the crust", ""
		case st.Act == recipe.OpenValve:
			v.What, v.Total = "Open the valve", ""
		case st.Bloom:
			v.What = "Bloom"
		}
		if st.Act == recipe.PourWater {
			v.Detail = fmt.Sprintf("%s, %s, %s", st.Pattern, prefs.Unit(units.Rate).Format(st.Rate), st.Height)
			if st.Cue.ByEye() {
				v.At, v.Detail = "≈ "+v.At, st.Cue.String()+"; "+v.Detail
			}
			if st.Then != recipe.NoHand {
				v.Detail += ", then " + st.Then.String()
			}
			if st.Level > 0 {
				v.Detail += ", to " + words.Level(st.Level)
			}
			if st.Second {
				v.Detail += ", from the second kettle"
			}
			if st.Temperature != plan.Steps[0].Temperature {
				v.Detail += ", " + prefs.Unit(units.Temperature).Format(float64(st.Temperature))
			}
		}
		out = append(out, v)
	}
	return append(out, stepView{At: plan.Finish.String(), What: "Last steady stream"})
}

// watchFor returns what to watch for, with the person's own notes on this coffee.
func watchFor(sc *station.Scene, plan recipe.Plan) []page.Fact {
	window := sc.Bag.TargetWindow(plan.Window)
	out := []page.Fact{}
	if sc.Recipe.Has(recipe.AddressOf(recipe.Bloom)) {
		out = append(out, page.Fact{Name: "Bloom", Value: "all wet, no dry spot"})
	}
	out = append(out, page.Fact{Name: "Bed", Value: "flat at the end, little on the wall"})
	if window.IsSet() {
		out = append(out, page.Fact{Name: "Drained", Value: fmt.Sprintf("%s to %s", window.From, window.To)})
	}
	if say := sc.Bag.WhenFast; say != "" {
		out = append(out, page.Fact{Name: "Too fast", Value: say})
	}
	if say := sc.Bag.WhenSlow; say != "" {
		out = append(out, page.Fact{Name: "Too slow", Value: say})
	}
	return append(out, page.Fact{Name: "Care", Value: "boiling water and steam burn"})
}

// shortAddress returns the short address of a kept recipe and its QR code, or the reason why there is none:
// an address that only this machine can open is useless on a phone.
func (s *Screens) shortAddress(r *http.Request, code string) (address string, picture template.HTML, sorry string) {
	host := r.Host
	name, _, err := net.SplitHostPort(host)
	if err != nil {
		name = host
	}
	scheme := "http"
	if r.TLS != nil || r.Header.Get("X-Forwarded-Proto") == "https" && s.proxied {
		scheme = "https"
	}
	address = fmt.Sprintf("%s/r/%s", host, code)
	if page.IsLoopback(name) {
		return address, "", "Only this machine can open this address. To open it on a phone, start the yard with --addr on your own network."
	}
	picture, err = figure.QR(scheme + "://" + address)
	if err != nil {
		return address, "", "This address is too long for a QR code."
	}
	return address, picture, ""
}

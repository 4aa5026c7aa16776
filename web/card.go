package web

import (
	"bytes"
	_ "embed"
	"fmt"
	"html/template"
	"net"
	"net/http"
	"strings"

	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/web/figure"
	"yardbloom/web/words"
)

//go:embed assets/card.css
var cardStyle string

// cardBody is a recipe on a card for the wall.
type cardBody struct {
	ID     string
	Name   string
	Sub    string
	Flower template.HTML
	Big    []fact
	Ribbon template.HTML
	Steps  []stepView
	Look   []fact // what to look for
	Code   string // the short address; empty where the recipe is not kept
	QR     template.HTML
	Sorry  string // why there is no picture of the address
	Four   bool
	Cards  []struct{} // one for each card on the sheet
	Style  template.CSS
}

// card shows a recipe as it is printed: one card of A6, or four on A4.
func (s *Server) card(w http.ResponseWriter, r *http.Request) error {
	body := s.cardBody(r, sceneOf(r))
	s.render(w, r, http.StatusOK, "card", page{Title: "Card: " + body.Name, Station: "Recipe", Line: lineOf(sceneOf(r), "Recipe"), Body: body})
	return nil
}

// cardFile hands the card out as one file that needs nothing else.
func (s *Server) cardFile(w http.ResponseWriter, r *http.Request) error {
	body := s.cardBody(r, sceneOf(r))
	body.Style = template.CSS(cardStyle)
	var b bytes.Buffer
	if err := s.pages.sets["card"].ExecuteTemplate(&b, "file", body); err != nil {
		return err
	}
	asFile(w, "text/html; charset=utf-8", fmt.Sprintf("card-%s.html", body.ID))
	_, err := w.Write(b.Bytes())
	return err
}

func (s *Server) cardBody(r *http.Request, sc *scene) cardBody {
	plan, prefs := sc.plan(), sc.prefs
	body := cardBody{ID: sc.ID, Name: sc.Bag.Name, Four: r.URL.Query().Get("sheet") == "a4", Flower: figure.Flower(sc.Recipe.Dose, plan.Steps, 0)}
	style := sc.Recipe.Style.Style().Name
	if sc.draft != nil && sc.draft.Name != "" {
		body.Name, style = sc.draft.Name, sc.Bag.Name+" · "+style
		if sc.draft.Number > 1 {
			style += fmt.Sprintf(" · version %d", sc.draft.Number)
		}
	}
	g, water := sc.Gear, prefs.Unit(units.Water)
	body.Sub = strings.Join([]string{style, made(sc)}, " · ")
	body.Big = []fact{{"Coffee", prefs.Unit(units.Dose).Format(float64(sc.Recipe.Dose))}, {"Water", water.Format(float64(sc.Recipe.Water()))},
		{"Grind", g.Grinder.Setting(sc.Recipe.Grind)}, {"Kettle", prefs.Unit(units.Temperature).Format(float64(sc.Recipe.Temperature()))}}
	body.Ribbon = figure.Ribbon{Plan: plan, Prefs: prefs, Card: true, Beside: words.Beside(sc.Recipe, prefs)}.SVG()
	body.Steps = cardSteps(plan, prefs)
	body.Look = lookFor(sc, plan)
	body.Cards = make([]struct{}, 1)
	if body.Four {
		body.Cards = make([]struct{}, 4)
	}
	if sc.draft != nil && sc.draft.Code != "" {
		body.Code, body.QR, body.Sorry = s.shortAddress(r, sc.draft.Code)
	}
	return body
}

// cardSteps are the running totals: what a hand does, and what the scale shows then.
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
			if st.WhenDrained {
				v.At, v.Detail = "≈ "+v.At, "when it has sunk in; "+v.Detail
			}
			if st.Then != recipe.NoHand {
				v.Detail += ", then " + st.Then.String()
			}
			if st.Temperature != plan.Steps[0].Temperature {
				v.Detail += ", " + prefs.Unit(units.Temperature).Format(float64(st.Temperature))
			}
		}
		out = append(out, v)
	}
	return append(out, stepView{At: plan.Finish.String(), What: "Last steady stream"})
}

// lookFor is what to look for at the wall, with the person's own words for this coffee.
func lookFor(sc *scene, plan recipe.Plan) []fact {
	window := sc.Bag.Wanted(plan.Window)
	out := []fact{}
	if sc.Recipe.Has(recipe.Of(recipe.Bloom)) {
		out = append(out, fact{"Bloom", "all of it wet, no dry spot"})
	}
	out = append(out, fact{"Bed", "flat at the end, little on the wall"})
	if window.Set() {
		out = append(out, fact{"Drained", fmt.Sprintf("%s to %s", window.From, window.To)})
	}
	if say := sc.Bag.WhenFast; say != "" {
		out = append(out, fact{"Too fast", say})
	}
	if say := sc.Bag.WhenSlow; say != "" {
		out = append(out, fact{"Too slow", say})
	}
	return append(out, fact{"Care", "boiling water and steam burn"})
}

// shortAddress is the short address of a kept recipe and its picture for a phone, or why
// there is none: an address that only this machine can open is no use on a phone.
func (s *Server) shortAddress(r *http.Request, code string) (address string, picture template.HTML, sorry string) {
	host := r.Host
	name, _, err := net.SplitHostPort(host)
	if err != nil {
		name = host
	}
	scheme := "http"
	if r.TLS != nil || r.Header.Get("X-Forwarded-Proto") == "https" && len(s.Proxies) > 0 {
		scheme = "https"
	}
	address = fmt.Sprintf("%s/r/%s", host, code)
	if IsLoopback(name) {
		return address, "", "Only this machine can open this address. To open it on a phone, start the yard with --addr on your own network."
	}
	picture, err = figure.QR(scheme + "://" + address)
	if err != nil {
		return address, "", "This address does not fit into a picture."
	}
	return address, picture, ""
}

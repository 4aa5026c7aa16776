package flight

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"net/http"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
	"yardbloom/core/flight"
	"yardbloom/store"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/words"
)

// sideBody is the list of flights with the form for a new one.
type sideBody struct {
	Name, Own form.Field
	Kind      form.Field
	Blind     bool
	Brews     []form.Option // recent brews to choose from
	Error     string
	Flights   []page.Entry
}

// flightBody is one flight.
type flightBody struct {
	flight.Flight
	Cups     []glassView // in serving order
	Heats    []heatView
	Verdict  string
	Standing []standingView
	Open     *flight.Round
	Picked   int
	Worth    string
	Error    string
	Again    bool // another round is possible
}

type glassView struct {
	Code, Label string
	Brew        string // its address, once revealed
}

type heatView struct {
	Heat     flight.Heat
	Ranking  string // codes, best first
	Comments []commentView
	Error    string
	By       *page.Badge // nil: there is no name
}

type commentView struct{ Name, Code, Value string }

type standingView struct{ Label, Places string }

// brewsOffered is the number of brews to choose from.
const brewsOffered = 8

func (s *Screens) side(w http.ResponseWriter, r *http.Request) error {
	f := form.New()
	for _, name := range []string{"name", "cups"} { // a link can name them
		const longest = 200
		if v := r.URL.Query().Get(name); len(v) <= longest {
			f.Values[name] = v
		}
	}
	return s.showSide(w, r, http.StatusOK, f, "")
}

func (s *Screens) showSide(w http.ResponseWriter, r *http.Request, status int, f *form.Form, wrong string) error {
	flights, err := s.yard.Store.Flights(r.Context())
	if err != nil {
		return err
	}
	body := sideBody{Name: f.Entry("name", "What for"), Own: f.Entry("cups", "Other cups, with commas"), Error: wrong,
		Blind: status == http.StatusOK || f.Flag("blind"),
		Kind: form.Select(f, "kind", "What to find out", []flight.Kind{flight.Ranked, flight.OddOne}, func(k flight.Kind) (string, string) {
			return string(k), map[flight.Kind]string{flight.Ranked: "which one you prefer",
				flight.OddOne: "whether two cups are distinguishable: a triangle test"}[k]
		})}
	recent, err := s.yard.Store.Log(r.Context(), store.Filter{Limit: brewsOffered})
	if err != nil {
		return err
	}
	for _, b := range recent {
		body.Brews = append(body.Brews, form.Option{Value: b.ID, Label: b.BagName + ", " +
			words.Moment(b.Started, s.yard.Now()), Selected: slices.Contains(f.All["brew"], b.ID)})
	}
	for _, d := range flights {
		v := page.Entry{Href: "/side/" + d.Value.ID, Name: d.Value.Name, When: words.Moment(d.At, s.yard.Now()),
			Says: fmt.Sprintf("%d cups", len(d.Value.Cups)), By: page.BadgeOf(r, d.Value.By)}
		switch {
		case d.Value.Kind == flight.OddOne:
			v.Says = d.Value.TestResult().Sentence()
		case d.Value.Blind && !d.Value.Revealed:
			v.Says += ", blind, not revealed yet"
		default:
			v.Says = d.Value.Verdict()
		}
		body.Flights = append(body.Flights, v)
	}
	s.Render(w, r, status, "side", page.Page{Title: "Side by side", Side: "side", Line: page.Line(""), Notice: page.RemovedNotice(r), Body: body})
	return nil
}

// addFlight creates a flight.
func (s *Screens) addFlight(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	name := f.Text("name", "The name", 80, false)
	if name == "" {
		name = "Side by side"
	}
	var cups []flight.Cup
	for _, id := range f.All["brew"] {
		b, err := s.yard.Store.Brew(r.Context(), id)
		if errors.Is(err, store.ErrNotFound) {
			continue
		}
		if err != nil {
			return err
		}
		cups = append(cups, flight.Cup{Name: b.Bag.Name + ", " + words.Moment(b.Started, s.yard.Now()), Brew: b.ID})
	}
	const letters = 60
	for own := range strings.SplitSeq(f.Values["cups"], ",") {
		own = strings.Join(strings.Fields(own), " ")
		if len(own) > letters {
			f.Fail("cups", "A cup's name can have up to %d letters.", letters)
		}
		if own != "" {
			cups = append(cups, flight.Cup{Name: own})
		}
	}
	kind := form.Choice(f, "kind", "what to find out", []flight.Kind{flight.Ranked, flight.OddOne})
	if !f.OK() {
		return s.showSide(w, r, http.StatusUnprocessableEntity, f, "")
	}
	it, err := flight.New(store.NewID(), name, kind, f.Flag("blind"), rand.Uint64()>>12, cups)
	switch {
	case errors.Is(err, flight.ErrCups):
		return s.showSide(w, r, http.StatusUnprocessableEntity, f,
			fmt.Sprintf("Two to six cups stand side by side; these are %d.", len(cups)))
	case errors.Is(err, flight.ErrTwoCups):
		return s.showSide(w, r, http.StatusUnprocessableEntity, f,
			fmt.Sprintf("A triangle test needs two cups; these are %d.", len(cups)))
	case err != nil:
		return err
	}
	it.By = page.PersonID(r)
	if err := s.yard.Store.AddFlight(r.Context(), it, s.yard.Now()); err != nil {
		return err
	}
	return page.SeeOther(w, r, "/side/%s", it.ID)
}

func (s *Screens) flight(w http.ResponseWriter, r *http.Request) error {
	it, err := s.yard.Store.Flight(r.Context(), chi.URLParam(r, "id"))
	if err != nil {
		return err
	}
	return s.showFlight(w, r, http.StatusOK, it, form.New(), "")
}

func (s *Screens) showFlight(w http.ResponseWriter, r *http.Request, status int, it flight.Flight, f *form.Form, wrong string) error {
	body := flightBody{Flight: it, Error: wrong}
	for _, i := range it.Order {
		v := glassView{Code: it.Cups[i].Code, Label: it.Label(i)}
		if !it.Blind || it.Revealed {
			v.Brew = it.Cups[i].Brew
		}
		body.Cups = append(body.Cups, v)
	}
	if it.Kind == flight.OddOne {
		worth := it.TestResult()
		body.Worth, body.Picked = worth.Sentence(), worth.Of
		if n := len(it.Rounds); n > 0 && it.Rounds[n-1].Picked == "" {
			body.Open = &it.Rounds[n-1]
		}
		body.Again = body.Open == nil && !it.Revealed && len(it.Rounds) < flight.MaxRounds
	} else {
		body.Heats = heatsOf(r, it, f)
		body.Verdict = it.Verdict()
		for _, st := range it.Standings() {
			v := standingView{Label: it.Label(st.Cup), Places: "not placed"}
			if len(st.Places) > 0 {
				v.Places = strings.Trim(fmt.Sprint(st.Places), "[]")
			}
			body.Standing = append(body.Standing, v)
		}
	}
	s.Render(w, r, status, "flight", page.Page{Title: it.Name, Side: "side", Line: page.Line(""), Body: body})
	return nil
}

// heatsOf returns the two tastings of a flight, saved or as typed.
func heatsOf(r *http.Request, it flight.Flight, f *form.Form) []heatView {
	var out []heatView
	for _, h := range flight.Heats() {
		v := heatView{Heat: h, Error: f.Errors[string(h)], By: page.BadgeOf(r, it.Tastings[h].By)}
		kept := it.Tastings[h]
		byPlace := make([]string, len(it.Cups)+1)
		for _, i := range it.Order {
			c := commentView{Name: fmt.Sprintf("%s.%d", h, i), Code: it.Label(i)}
			if i < len(kept.Comments) {
				c.Value = kept.Comments[i]
			}
			if typed, ok := f.Values[c.Name]; ok {
				c.Value = typed
			}
			v.Comments = append(v.Comments, c)
			if i < len(kept.Places) && kept.Places[i] > 0 {
				byPlace[kept.Places[i]] = it.Cups[i].Code
			}
		}
		v.Ranking = strings.Join(strings.Fields(strings.Join(byPlace, " ")), " ")
		if typed, ok := f.Values[string(h)]; ok {
			v.Ranking = typed
		}
		out = append(out, v)
	}
	return out
}

// tasteFlight stores the tasting at one heat.
func (s *Screens) tasteFlight(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	id := chi.URLParam(r, "id")
	it, err := s.yard.Store.Flight(r.Context(), id)
	if err != nil {
		return err
	}
	heat := form.Choice(f, "heat", "when it was tasted", flight.Heats())
	places, err := it.Place(strings.FieldsFunc(f.Values[string(heat)], func(r rune) bool { return r == ' ' || r == ',' || r == '>' }))
	switch {
	case errors.Is(err, flight.ErrCode):
		f.Fail(string(heat), "No cup has that code: %s. On this table stand %s.", strings.SplitN(err.Error(), ":", 2)[0], codesOf(it))
	case errors.Is(err, flight.ErrPlaces):
		f.Fail(string(heat), "A cup is named twice: %s.", strings.SplitN(err.Error(), ":", 2)[0])
	}
	const letters = 200
	comments := make([]string, len(it.Cups))
	for i := range it.Cups {
		comments[i] = strings.TrimSpace(f.Values[fmt.Sprintf("%s.%d", heat, i)])
		if len(comments[i]) > letters {
			f.Fail(string(heat), "A word on a cup can have up to %d letters.", letters)
		}
	}
	if !f.OK() {
		return s.showFlight(w, r, http.StatusUnprocessableEntity, it, f, "")
	}
	err = s.yard.Store.ChangeFlight(r.Context(), id, func(it flight.Flight) (flight.Flight, error) {
		return it.Taste(heat, flight.Tasting{By: page.PersonID(r), Places: places, Comments: comments})
	})
	if errors.Is(err, flight.ErrRevealed) {
		return page.Problem{Status: http.StatusConflict, Title: "The names are known",
			Text: "Tasting would no longer be blind. Set up another table."}
	}
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, "/side/%s", id)
}

// stepFlight advances a flight: another triangle round, a pick, or the reveal.
func (s *Screens) stepFlight(w http.ResponseWriter, r *http.Request) error {
	id, step, f := chi.URLParam(r, "id"), chi.URLParam(r, "step"), form.New()
	var err error
	if step == "pick" { // the other steps have no fields
		if f, err = form.Read(r); err != nil {
			return err
		}
	}
	err = s.yard.Store.ChangeFlight(r.Context(), id, func(it flight.Flight) (flight.Flight, error) {
		switch step {
		case "round":
			return it.Next()
		case "pick":
			return it.Pick(f.Values["code"])
		}
		return it.Reveal(), nil
	})
	if errors.Is(err, flight.ErrCode) {
		it, err := s.yard.Store.Flight(r.Context(), id)
		if err != nil {
			return err
		}
		return s.showFlight(w, r, http.StatusUnprocessableEntity, it, f, "No glass of this round has that code.")
	}
	if errors.Is(err, flight.ErrRounds) || errors.Is(err, flight.ErrRevealed) {
		return brew.ErrStatus
	}
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, "/side/%s", id)
}

func codesOf(it flight.Flight) string {
	var out []string
	for _, i := range it.Order {
		out = append(out, it.Cups[i].Code)
	}
	return strings.Join(out, ", ")
}

// pourerBody is the page for the person who pours, with the cup for each code.
type pourerBody struct {
	ID, Name string
	Glasses  []glassView
	Round    int
	Scalds   string
}

func (s *Screens) pourer(w http.ResponseWriter, r *http.Request) error {
	it, err := s.yard.Store.Flight(r.Context(), chi.URLParam(r, "id"))
	if err != nil {
		return err
	}
	body := pourerBody{ID: it.ID, Name: it.Name, Scalds: page.Prefs(r).Localize(cup.Caution)}
	if n := len(it.Rounds); it.Kind == flight.OddOne && n > 0 {
		open := it.Rounds[n-1]
		body.Round = n
		for i, code := range open.Codes {
			body.Glasses = append(body.Glasses, glassView{Code: code, Label: it.Cups[open.Cups[i]].Name})
		}
	} else {
		for _, i := range it.Order {
			body.Glasses = append(body.Glasses, glassView{Code: it.Cups[i].Code, Label: it.Cups[i].Name})
		}
	}
	s.Render(w, r, http.StatusOK, "pourer", page.Page{Title: "For the person pouring", Side: "side", Line: page.Line(""), Body: body})
	return nil
}

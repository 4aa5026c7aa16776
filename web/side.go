package web

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"net/http"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5"

	"yardbloom/core/brew"
	"yardbloom/core/flight"
	"yardbloom/store"
	"yardbloom/web/form"
	"yardbloom/web/words"
)

// sideBody is the list of flights with the form for a new one.
type sideBody struct {
	Name, Own form.Field
	Kind      form.Field
	Blind     bool
	Brews     []form.Option // the last ones, to be tasted side by side
	Error     string
	Flights   []listed
}

// listed is a flight or a trial in its list.
type listed struct{ Href, Name, Says, When string }

// flightBody is one flight.
type flightBody struct {
	flight.Flight
	Cups     []glassView // in the order in which they stand
	Heats    []heatView
	Verdict  string
	Standing []standingView
	Open     *flight.Round
	Picked   int
	Worth    string
	Error    string
	Again    bool // another round can be set up
}

type glassView struct {
	Code, Label string
	Brew        string // its address, once it is revealed
}

type heatView struct {
	Heat     flight.Heat
	Ranking  string // codes, the best first
	Comments []commentView
	Error    string
}

type commentView struct{ Name, Code, Value string }

type standingView struct{ Label, Places string }

// brewsOffered is how many brews can be chosen for a flight.
const brewsOffered = 8

func (s *Server) side(w http.ResponseWriter, r *http.Request) error {
	return s.showSide(w, r, http.StatusOK, form.New(), "")
}

func (s *Server) showSide(w http.ResponseWriter, r *http.Request, status int, f *form.Form, wrong string) error {
	flights, err := s.Store.Flights(r.Context())
	if err != nil {
		return err
	}
	body := sideBody{Name: f.Entry("name", "What for"), Own: f.Entry("cups", "Other cups, with commas"), Error: wrong, Blind: status == http.StatusOK || f.Flag("blind"),
		Kind: form.Select(f, "kind", "What to find out", []flight.Kind{flight.Ranked, flight.OddOne}, func(k flight.Kind) (string, string) {
			return string(k), map[flight.Kind]string{flight.Ranked: "which of them you like more", flight.OddOne: "whether two can be told apart: the odd one of three"}[k]
		})}
	recent, err := s.Store.Log(r.Context(), store.Filter{Limit: brewsOffered})
	if err != nil {
		return err
	}
	for _, b := range recent {
		body.Brews = append(body.Brews, form.Option{Value: b.ID, Label: b.BagName + ", " + words.Moment(b.Started, s.Now()), Selected: slices.Contains(f.All["brew"], b.ID)})
	}
	for _, d := range flights {
		v := listed{Href: "/side/" + d.It.ID, Name: d.It.Name, When: words.Moment(d.At, s.Now()), Says: fmt.Sprintf("%d cups", len(d.It.Cups))}
		switch {
		case d.It.Kind == flight.OddOne:
			v.Says = d.It.Worth().Says()
		case d.It.Blind && !d.It.Revealed:
			v.Says += ", blind, not revealed yet"
		default:
			v.Says = d.It.Verdict()
		}
		body.Flights = append(body.Flights, v)
	}
	s.render(w, r, status, "side", page{Title: "Side by side", Side: "side", Line: emptyLine(""), Body: body})
	return nil
}

// addFlight sets up cups side by side.
func (s *Server) addFlight(w http.ResponseWriter, r *http.Request) error {
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
		b, err := s.Store.Brew(r.Context(), id)
		if errors.Is(err, store.ErrNotFound) {
			continue
		}
		if err != nil {
			return err
		}
		cups = append(cups, flight.Cup{Name: b.Bag.Name + ", " + words.Moment(b.Started, s.Now()), Brew: b.ID})
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
		return s.showSide(w, r, http.StatusUnprocessableEntity, f, fmt.Sprintf("Two to six cups stand side by side; these are %d.", len(cups)))
	case errors.Is(err, flight.ErrTwoCups):
		return s.showSide(w, r, http.StatusUnprocessableEntity, f, fmt.Sprintf("The odd one of three is told of two cups; these are %d.", len(cups)))
	case err != nil:
		return err
	}
	if err := s.Store.AddFlight(r.Context(), it, s.Now()); err != nil {
		return err
	}
	return seeOther(w, r, "/side/%s", it.ID)
}

func (s *Server) flight(w http.ResponseWriter, r *http.Request) error {
	it, err := s.Store.Flight(r.Context(), chi.URLParam(r, "id"))
	if err != nil {
		return err
	}
	return s.showFlight(w, r, http.StatusOK, it, form.New(), "")
}

func (s *Server) showFlight(w http.ResponseWriter, r *http.Request, status int, it flight.Flight, f *form.Form, wrong string) error {
	body := flightBody{Flight: it, Error: wrong}
	for _, i := range it.Order {
		v := glassView{Code: it.Cups[i].Code, Label: it.Label(i)}
		if !it.Blind || it.Revealed {
			v.Brew = it.Cups[i].Brew
		}
		body.Cups = append(body.Cups, v)
	}
	if it.Kind == flight.OddOne {
		worth := it.Worth()
		body.Worth, body.Picked = worth.Says(), worth.Of
		if n := len(it.Rounds); n > 0 && it.Rounds[n-1].Picked == "" {
			body.Open = &it.Rounds[n-1]
		}
		body.Again = body.Open == nil && !it.Revealed && len(it.Rounds) < flight.MostRounds
	} else {
		body.Heats = heatsOf(it, f)
		body.Verdict = it.Verdict()
		for _, st := range it.Standings() {
			v := standingView{Label: it.Label(st.Cup), Places: "not placed"}
			if len(st.Places) > 0 {
				v.Places = strings.Trim(fmt.Sprint(st.Places), "[]")
			}
			body.Standing = append(body.Standing, v)
		}
	}
	s.render(w, r, status, "flight", page{Title: it.Name, Side: "side", Line: emptyLine(""), Body: body})
	return nil
}

// heatsOf are the two tastings of a flight as they are kept, or as they were typed.
func heatsOf(it flight.Flight, f *form.Form) []heatView {
	var out []heatView
	for _, h := range flight.Heats() {
		v := heatView{Heat: h, Error: f.Errors[string(h)]}
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

// tasteFlight keeps what was said of the cups at one heat.
func (s *Server) tasteFlight(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	id := chi.URLParam(r, "id")
	it, err := s.Store.Flight(r.Context(), id)
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
	err = s.Store.ChangeFlight(r.Context(), id, func(it flight.Flight) (flight.Flight, error) {
		return it.Taste(heat, flight.Tasting{Places: places, Comments: comments})
	})
	if errors.Is(err, flight.ErrRevealed) {
		return problem{http.StatusConflict, "The names are known", "What is tasted now is not blind any more. Set up another table."}
	}
	if err != nil {
		return err
	}
	return seeOther(w, r, "/side/%s", id)
}

// stepFlight goes on with a flight: another round of three, a pick, or the names.
func (s *Server) stepFlight(w http.ResponseWriter, r *http.Request) error {
	id, step, f := chi.URLParam(r, "id"), chi.URLParam(r, "step"), form.New()
	var err error
	if step == "pick" { // the others have nothing to fill in
		if f, err = form.Read(r); err != nil {
			return err
		}
	}
	err = s.Store.ChangeFlight(r.Context(), id, func(it flight.Flight) (flight.Flight, error) {
		switch step {
		case "round":
			return it.Next()
		case "pick":
			return it.Pick(f.Values["code"])
		}
		return it.Reveal(), nil
	})
	if errors.Is(err, flight.ErrCode) {
		it, err := s.Store.Flight(r.Context(), id)
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
	return seeOther(w, r, "/side/%s", id)
}

func codesOf(it flight.Flight) string {
	var out []string
	for _, i := range it.Order {
		out = append(out, it.Cups[i].Code)
	}
	return strings.Join(out, ", ")
}

// pourerBody is for the one who pours: what goes under which code.
type pourerBody struct {
	ID, Name string
	Glasses  []glassView
	Round    int
	Scalds   string
}

func (s *Server) pourer(w http.ResponseWriter, r *http.Request) error {
	it, err := s.Store.Flight(r.Context(), chi.URLParam(r, "id"))
	if err != nil {
		return err
	}
	body := pourerBody{ID: it.ID, Name: it.Name, Scalds: prefsOf(r).Say(scalds)}
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
	s.render(w, r, http.StatusOK, "pourer", page{Title: "For the one who pours", Side: "side", Line: emptyLine(""), Body: body})
	return nil
}

package web

import (
	"context"
	"fmt"
	"net/http"
	"strconv"

	"github.com/go-chi/chi/v5"

	"yardbloom/core/gear"
	"yardbloom/core/units"
	"yardbloom/store"
)

type gearBody struct{ Groups []gearGroup }

type gearGroup struct {
	Kind, Title, One, About string
	Items                   []gearItem
}

type gearItem struct {
	ID          int64
	Name, About string
}

type gearFormBody struct {
	Kind, One string
	ID        int64
	Fields    []field
	Errors    int
}

// A gearKind is how one kind of gear is listed, shown in a form and read from it.
type gearKind struct {
	kind, title, one, about string
	list                    func(*Server, context.Context, units.Prefs) ([]gearItem, error)
	fill                    func(*Server, context.Context, int64, units.Prefs) (*form, error)
	fields                  func(*form, units.Prefs) []field
	save                    func(*Server, context.Context, int64, *form, units.Prefs) error // keeps nothing where the form is not ok
}

var gearKinds = []gearKind{
	{"brewers", "Brewers", "brewer", "What the water runs through.", listBrewers, fillBrewer, brewerFields, saveBrewer},
	{"grinders", "Grinders", "grinder", "With the dial in its own terms, so that every recipe speaks them.", listGrinders, fillGrinder, grinderFields, saveGrinder},
	{"kettles", "Kettles", "kettle", "With a thermostat or without.", listKettles, fillKettle, kettleFields, saveKettle},
}

func kindOf(r *http.Request) (gearKind, error) {
	for _, k := range gearKinds {
		if k.kind == chi.URLParam(r, "kind") {
			return k, nil
		}
	}
	return gearKind{}, store.ErrNotFound
}

func (s *Server) gear(w http.ResponseWriter, r *http.Request) error {
	_, prefs, err := s.yard(r)
	if err != nil {
		return err
	}
	var body gearBody
	for _, k := range gearKinds {
		items, err := k.list(s, r.Context(), prefs)
		if err != nil {
			return err
		}
		body.Groups = append(body.Groups, gearGroup{k.kind, k.title, k.one, k.about, items})
	}
	p := page{Title: "Gear", Side: "gear", Line: emptyLine(""), Body: body}
	if retired := r.URL.Query().Get("retired"); retired != "" {
		var kind string
		var n int64
		if _, err := fmt.Sscanf(retired, "%d-%s", &n, &kind); err == nil {
			p.Notice = &notice{"It is out of the lists. Brews made with it keep it.", fmt.Sprintf("/gear/%s/%d/restore", kind, n)}
		}
	}
	s.render(w, r, http.StatusOK, "gear", p)
	return nil
}

// gearID is the id in the path, or nought for "new".
func gearID(r *http.Request) (int64, error) {
	if chi.URLParam(r, "id") == "new" {
		return 0, nil
	}
	return id(r)
}

func (s *Server) gearForm(w http.ResponseWriter, r *http.Request) error {
	k, n, prefs, err := s.gearRequest(r)
	if err != nil {
		return err
	}
	f, err := k.fill(s, r.Context(), n, prefs)
	if err != nil {
		return err
	}
	s.showGear(w, r, http.StatusOK, k, n, f, prefs)
	return nil
}

func (s *Server) gearRequest(r *http.Request) (gearKind, int64, units.Prefs, error) {
	k, err := kindOf(r)
	if err != nil {
		return k, 0, units.Prefs{}, err
	}
	n, err := gearID(r)
	if err != nil {
		return k, 0, units.Prefs{}, err
	}
	_, prefs, err := s.yard(r)
	return k, n, prefs, err
}

func (s *Server) saveGear(w http.ResponseWriter, r *http.Request) error {
	k, n, prefs, err := s.gearRequest(r)
	if err != nil {
		return err
	}
	f, err := readForm(r)
	if err != nil {
		return err
	}
	if err := k.save(s, r.Context(), n, f, prefs); err != nil {
		return err
	}
	if !f.ok() {
		s.showGear(w, r, http.StatusUnprocessableEntity, k, n, f, prefs)
		return nil
	}
	return seeOther(w, r, "/gear")
}

func (s *Server) showGear(w http.ResponseWriter, r *http.Request, status int, k gearKind, n int64, f *form, prefs units.Prefs) {
	title := "New " + k.one
	if n != 0 {
		title = f.Values["name"]
	}
	fields := k.fields(f, prefs)
	fields[0].Autofocus = n == 0
	s.render(w, r, status, "gearform", page{Title: title, Side: "gear", Line: emptyLine(""),
		Body: gearFormBody{k.kind, k.one, n, fields, len(f.Errors)}})
}

func (s *Server) retireGear(w http.ResponseWriter, r *http.Request) error {
	k, n, _, err := s.gearRequest(r)
	if err != nil {
		return err
	}
	retire := chi.URLParam(r, "what") == "retire"
	if err := s.Store.RetireGear(r.Context(), k.kind, n, retire, s.Now()); err != nil {
		return err
	}
	if retire {
		return seeOther(w, r, "/gear?retired=%d-%s", n, k.kind)
	}
	return seeOther(w, r, "/gear")
}

var (
	lossRange  = units.Range{Lo: 0, Hi: 5}
	dialZero   = units.Range{Lo: -500, Hi: 2500}
	dialStep   = units.Range{Lo: -300, Hi: 300}
	dialMark   = units.Range{Lo: 0.01, Hi: 10}
	perTurn    = units.Range{Lo: 1, Hi: 500}
	micrometre = units.Unit{Symbol: "µm", Scale: 1, Decimals: 1, Step: 10, Fine: 1}
	bare       = units.Unit{Scale: 1, Decimals: 2, Step: 0.5, Fine: 0.1}
	whole      = units.Unit{Scale: 1, Step: 1, Fine: 1}
)

func listBrewers(s *Server, ctx context.Context, p units.Prefs) ([]gearItem, error) {
	all, err := s.Store.Brewers(ctx)
	var out []gearItem
	for _, b := range all {
		out = append(out, gearItem{b.ID, b.Name, fmt.Sprintf("%s, %s, %s, holds %s, keeps %s g per g", b.Kind.Form().Name, b.Material, b.Filter, p.Unit(units.Water).Format(float64(b.Holds)), units.Trim(b.Retained, 2))})
	}
	return out, err
}

func fillBrewer(s *Server, ctx context.Context, n int64, p units.Prefs) (*form, error) {
	b := gear.Brewer{Kind: gear.OpenCone, Material: gear.Plastic, Filter: gear.StandardPaper, Holds: 500}
	var err error
	if n != 0 {
		b, err = s.Store.Brewer(ctx, n)
	}
	f := newForm()
	f.Values = map[string]string{"name": b.Name, "kind": string(b.Kind), "material": string(b.Material), "filter": string(b.Filter), "holds": p.Unit(units.Water).Number(float64(b.Holds))}
	return f, err
}

func brewerFields(f *form, p units.Prefs) []field {
	return []field{f.entry("name", "Name"),
		selectOf(f, "kind", "Kind", gear.BrewerForms(), func(v gear.BrewerForm) (string, string) { return string(v.Kind), v.Name }),
		selectOf(f, "material", "Made of", gear.Materials(), plain), selectOf(f, "filter", "Filter", gear.Filters(), plain),
		f.stepper("holds", "Holds, to the rim", p.Unit(units.Water))}
}

func saveBrewer(s *Server, ctx context.Context, n int64, f *form, p units.Prefs) error {
	var kinds []gear.BrewerKind
	for _, form := range gear.BrewerForms() {
		kinds = append(kinds, form.Kind)
	}
	b := gear.Brewer{ID: n, Name: f.text("name", "The name", 60, true), Kind: choice(f, "kind", "Kind", kinds), Material: choice(f, "material", "Made of", gear.Materials()),
		Filter: choice(f, "filter", "Filter", gear.Filters()), Holds: units.Grams(f.quantity("holds", "The brewer", p.Unit(units.Water), gear.HoldsRange, true))}
	if !f.ok() {
		return nil
	}
	return s.Store.SaveBrewer(ctx, b)
}

func listGrinders(s *Server, ctx context.Context, p units.Prefs) ([]gearItem, error) {
	all, err := s.Store.Grinders(ctx)
	var out []gearItem
	for _, g := range all {
		const middle = 650
		out = append(out, gearItem{g.ID, g.Name, fmt.Sprintf("%s, %d µm is %s, loses %s per grind", g.Burrs, middle, g.Setting(middle), p.Unit(units.Dose).Format(float64(g.Loss)))})
	}
	return out, err
}

func fillGrinder(s *Server, ctx context.Context, n int64, p units.Prefs) (*form, error) {
	g := gear.Grinder{Burrs: gear.HandMill, Dial: gear.Dial{Kind: gear.Clicks, Step: 25}, Loss: 0.2}
	var err error
	if n != 0 {
		g, err = s.Store.Grinder(ctx, n)
	}
	f := newForm()
	f.Values = map[string]string{"name": g.Name, "burrs": string(g.Burrs), "dial_kind": string(g.Kind), "zero": micrometre.Number(float64(g.Zero)),
		"step": micrometre.Number(float64(g.Step)), "loss": p.Unit(units.Dose).Number(float64(g.Loss))}
	if g.Mark > 0 {
		f.Values["mark"] = bare.Number(g.Mark)
	}
	if g.PerTurn > 0 {
		f.Values["per_turn"] = strconv.Itoa(g.PerTurn)
	}
	return f, err
}

func grinderFields(f *form, p units.Prefs) []field {
	zero, step := f.stepper("zero", "Size at setting nought", micrometre), f.stepper("step", "One step adds", micrometre)
	zero.Hint = "The median size that the dial would have at 0, where it may never get to."
	step.Hint = "Negative where higher numbers are finer. For words: 0."
	mark, turn := f.stepper("mark", "One step on a numbered dial is", bare), f.stepper("per_turn", "Clicks in one turn", whole)
	mark.Hint, turn.Hint = "0.5 for a dial with half marks; else 1.", "Only for turns and clicks."
	return []field{f.entry("name", "Name"), selectOf(f, "burrs", "Cuts with", gear.BurrKinds(), plain), selectOf(f, "dial_kind", "Its dial shows", gear.DialKinds(), plain),
		zero, step, mark, turn, f.stepper("loss", "Keeps for itself", p.Unit(units.Dose))}
}

func saveGrinder(s *Server, ctx context.Context, n int64, f *form, p units.Prefs) error {
	kind := choice(f, "dial_kind", "Its dial", gear.DialKinds())
	g := gear.Grinder{ID: n, Name: f.text("name", "The name", 60, true), Burrs: choice(f, "burrs", "Cuts with", gear.BurrKinds()),
		Loss: units.Grams(f.quantity("loss", "The loss", p.Unit(units.Dose), lossRange, false)),
		Dial: gear.Dial{Kind: kind, Zero: units.Micrometres(f.quantity("zero", "The size", micrometre, dialZero, kind != gear.Words)),
			Step: units.Micrometres(f.quantity("step", "The step", micrometre, dialStep, kind != gear.Words)),
			Mark: f.quantity("mark", "The mark", bare, dialMark, kind == gear.Numbered), PerTurn: int(f.quantity("per_turn", "A turn", whole, perTurn, kind == gear.Turns))}}
	if kind != gear.Words && f.Errors["step"] == "" && g.Step == 0 {
		f.fail("step", "A dial whose steps change nothing cannot be set. Type what one step adds.")
	}
	if !f.ok() {
		return nil
	}
	return s.Store.SaveGrinder(ctx, g)
}

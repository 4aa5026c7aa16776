package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5"

	"yardbloom/core/gear"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/form"
)

type gearBody struct{ Groups []gearGroup }

type gearGroup struct {
	Kind, Title, One, About string
	Empty                   string // shown if the list is empty
	Items                   []gearItem
}

type gearItem struct {
	ID          string
	Name, About string
}

type gearFormBody struct {
	Kind, One string
	ID        string
	Fields    []form.Field
	Errors    int
	Version   int64
	Theirs    string // what another window kept meanwhile
	Grinder   *grinderView
}

// A gearKind is how one kind of gear is listed, shown in a form and read from it.
type gearKind struct {
	kind, title, one, about string
	empty                   string // shown if the list is empty
	list                    func(*Server, context.Context, units.Prefs) ([]gearItem, error)
	fill                    func(*Server, context.Context, string, units.Prefs) (*form.Form, error)
	fields                  func(*form.Form, units.Prefs) []form.Field
	save                    func(*Server, context.Context, string, *form.Form, units.Prefs, int64) error // keeps nothing where the form is not ok
}

// needed is shown for an empty list of required gear.
const needed = "None yet. A recipe needs one."

var gearKinds = []gearKind{
	{"brewers", "Brewers", "brewer", "What the water runs through.", needed, listBrewers, fillBrewer, brewerFields, saveBrewer},
	{"grinders", "Grinders", "grinder", "With the dial in its own terms, so that every recipe speaks them.", needed, listGrinders, fillGrinder, grinderFields, saveGrinder},
	{"kettles", "Kettles", "kettle", "With a thermostat or without.", needed, listKettles, fillKettle, kettleFields, saveKettle},
	{"waters", "Waters", "water", "What is in it decides how much of the acids shows.", "None yet. Without one a recipe does not name its water.", listWaters, fillWater, waterFields, saveWater},
	{"devices", "Devices", "device", "A scale, a kettle or a refractometer that the yard listens to.", "None connected. Brews are timed by taps, and weights are typed.", listDevices, fillDevice, deviceFields, saveDevice},
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
	prefs := prefsOf(r)
	var body gearBody
	for _, k := range gearKinds {
		items, err := k.list(s, r.Context(), prefs)
		if err != nil {
			return err
		}
		body.Groups = append(body.Groups, gearGroup{k.kind, k.title, k.one, k.about, k.empty, items})
	}
	p := page{Title: "Gear", Side: "gear", Line: emptyLine(""), Body: body}
	if retired := r.URL.Query().Get("retired"); retired != "" {
		kind, n, _ := strings.Cut(retired, "~")
		if known := slices.ContainsFunc(gearKinds, func(k gearKind) bool { return k.kind == kind }); known && store.ValidID(n) {
			p.Notice = &notice{"It is out of the lists. Brews made with it keep it.", fmt.Sprintf("/gear/%s/%s/restore", kind, n)}
		}
	}
	s.render(w, r, http.StatusOK, "gear", p)
	return nil
}

// gearID is the id in the path, or empty for "new".
func gearID(r *http.Request) (string, error) {
	if chi.URLParam(r, "id") == "new" {
		return "", nil
	}
	return id(r)
}

func (s *Server) gearForm(w http.ResponseWriter, r *http.Request) error {
	k, n, prefs, err := s.gearRequest(r)
	if err != nil {
		return err
	}
	version, err := s.gearVersion(r, k, n)
	if err != nil {
		return err
	}
	f, err := k.fill(s, r.Context(), n, prefs)
	if err != nil {
		return err
	}
	s.showGear(w, r, http.StatusOK, k, n, f, version, nil)
	return nil
}

func (s *Server) gearRequest(r *http.Request) (gearKind, string, units.Prefs, error) {
	k, err := kindOf(r)
	if err != nil {
		return k, "", units.Prefs{}, err
	}
	n, err := gearID(r)
	return k, n, prefsOf(r), err
}

func (s *Server) saveGear(w http.ResponseWriter, r *http.Request) error {
	k, n, prefs, err := s.gearRequest(r)
	if err != nil {
		return err
	}
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	version, err := s.gearVersion(r, k, n)
	if err != nil {
		return err
	}
	var kept *form.Form
	if n != "" { // one that is there
		if kept, err = k.fill(s, r.Context(), n, prefs); err != nil {
			return err
		}
		f.Keep(kept, "")
	}
	err = k.save(s, r.Context(), n, f, prefs, f.Version())
	switch {
	case errors.Is(err, store.ErrConflict): // theirs is kept, ours is still in the form: the next save means ours
		s.showGear(w, r, http.StatusConflict, k, n, f, version, kept)
	case err != nil:
		return err
	case !f.OK():
		s.showGear(w, r, http.StatusUnprocessableEntity, k, n, f, f.VersionOr(version), nil)
	default:
		return seeOther(w, r, "/gear")
	}
	return nil
}

// gearVersion is the version of a piece of gear; 0 for a new one.
func (s *Server) gearVersion(r *http.Request, k gearKind, n string) (int64, error) {
	if n == "" {
		return 0, nil
	}
	return s.Store.GearVersion(r.Context(), k.kind, n)
}

// showGear shows the form of a piece of gear. theirs is what another window kept
// meanwhile, or nil.
func (s *Server) showGear(w http.ResponseWriter, r *http.Request, status int, k gearKind, n string, f *form.Form, version int64, theirs *form.Form) {
	title := "New " + k.one
	if n != "" {
		title = f.Values["name"]
	}
	fields := k.fields(f, prefsOf(r))
	fields[0].Autofocus = n == ""
	body := gearFormBody{Kind: k.kind, One: k.one, ID: n, Fields: fields, Errors: len(f.Errors), Version: version}
	if theirs != nil {
		body.Theirs = form.Differences(fields, theirs)
	}
	if k.kind == "grinders" && n != "" {
		view, err := s.grinderView(r, n)
		if err != nil {
			s.fail(w, r, err)
			return
		}
		body.Grinder = view
	}
	s.render(w, r, status, "gearform", page{Title: title, Side: "gear", Line: emptyLine(""),
		Body: body})
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
	if k.kind == "devices" {
		if err := s.connect(s.live.Context()); err != nil {
			return err
		}
	}
	if retire {
		return seeOther(w, r, "/gear?retired=%s~%s", k.kind, n)
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
	whole      = units.Prefs{}.Unit(units.Count)
)

func listBrewers(s *Server, ctx context.Context, p units.Prefs) ([]gearItem, error) {
	all, err := s.Store.Brewers(ctx)
	var out []gearItem
	for _, b := range all {
		out = append(out, gearItem{b.ID, b.Name, fmt.Sprintf("%s, %s, %s, holds %s, keeps %s × the dose", b.Kind.Form().Name, b.Material, b.Filter, p.Unit(units.Water).Format(float64(b.Holds)), units.Trim(b.Retained, 2))})
	}
	return out, err
}

func fillBrewer(s *Server, ctx context.Context, n string, p units.Prefs) (*form.Form, error) {
	b := gear.Brewer{Kind: gear.OpenCone, Material: gear.Plastic, Filter: gear.StandardPaper, Holds: 500}
	var err error
	if n != "" {
		b, err = s.Store.Brewer(ctx, n)
	}
	f := form.New()
	f.Values = map[string]string{"name": b.Name, "kind": string(b.Kind), "material": string(b.Material), "filter": string(b.Filter), "holds": p.Unit(units.Water).Number(float64(b.Holds))}
	return f, err
}

func brewerFields(f *form.Form, p units.Prefs) []form.Field {
	return []form.Field{f.Entry("name", "Name"),
		form.Select(f, "kind", "Kind", gear.BrewerForms(), func(v gear.BrewerForm) (string, string) { return string(v.Kind), v.Name }),
		form.Select(f, "material", "Made of", gear.Materials(), form.Plain), form.Select(f, "filter", "Filter", gear.Filters(), form.Plain),
		f.Stepper("holds", "Holds, to the rim", p.Unit(units.Water))}
}

func saveBrewer(s *Server, ctx context.Context, n string, f *form.Form, p units.Prefs, version int64) error {
	var kinds []gear.BrewerKind
	for _, known := range gear.BrewerForms() {
		kinds = append(kinds, known.Kind)
	}
	b := gear.Brewer{ID: n, Name: f.Text("name", "The name", 60, true), Kind: form.Choice(f, "kind", "Kind", kinds), Material: form.Choice(f, "material", "Made of", gear.Materials()),
		Filter: form.Choice(f, "filter", "Filter", gear.Filters()), Holds: units.Grams(f.Quantity("holds", "The brewer", p.Unit(units.Water), gear.HoldsRange, true))}
	if !f.OK() {
		return nil
	}
	return s.Store.SaveBrewer(ctx, b, version)
}

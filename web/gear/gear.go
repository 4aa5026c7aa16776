package gear

import (
	"cmp"
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
	"yardbloom/web/page"
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
	Theirs    string // saved by another window meanwhile
	Grinder   *grinderView
}

// A gearKind defines how one kind of gear is listed, shown in a form and parsed.
type gearKind struct {
	kind, title, one, about string
	empty                   string // shown if the list is empty
	list                    func(*Screens, context.Context, units.Prefs) ([]gearItem, error)
	fill                    func(*Screens, context.Context, string, units.Prefs) (*form.Form, error)
	fields                  func(*form.Form, units.Prefs) []form.Field
	save                    func(*Screens, context.Context, string, *form.Form, units.Prefs,
		int64) error // stores nothing if the form has errors
}

// needed is shown for an empty list of required gear.
const needed = "None yet. A recipe needs one."

var gearKinds = []gearKind{
	{"brewers", "Brewers", "brewer", "Drippers and steepers.", needed, listBrewers, fillBrewer, brewerFields, saveBrewer},
	{"grinders", "Grinders", "grinder", "Recipes give grind settings in the terms of each dial.", needed, listGrinders,
		fillGrinder, grinderFields, saveGrinder},
	{"kettles", "Kettles", "kettle", "With a thermostat or without.", needed, listKettles, fillKettle, kettleFields, saveKettle},
	{"waters", "Waters", "water", "Minerals affect acidity and body.",
		"None yet. Without one a recipe does not name its water.", listWaters, fillWater, waterFields, saveWater},
	{"devices", "Devices", "device", "Connected scales, kettles and refractometers.",
		"None connected. Time brews with taps and type the weights.", listDevices, fillDevice, deviceFields, saveDevice},
}

func kindOf(r *http.Request) (gearKind, error) {
	for _, k := range gearKinds {
		if k.kind == chi.URLParam(r, "kind") {
			return k, nil
		}
	}
	return gearKind{}, store.ErrNotFound
}

func (s *Screens) gear(w http.ResponseWriter, r *http.Request) error {
	prefs := page.Prefs(r)
	var body gearBody
	for _, k := range gearKinds {
		items, err := k.list(s, r.Context(), prefs)
		if err != nil {
			return err
		}
		body.Groups = append(body.Groups, gearGroup{k.kind, k.title, k.one, k.about, k.empty, items})
	}
	p := page.Page{Title: "Gear", Side: "gear", Line: page.Line(""), Body: body}
	if retired := r.URL.Query().Get("retired"); retired != "" {
		kind, n, _ := strings.Cut(retired, "~")
		if known := slices.ContainsFunc(gearKinds, func(k gearKind) bool { return k.kind == kind }); known && store.ValidID(n) {
			p.Notice = &page.Notice{Text: "It was retired. Brews made with it keep it.",
				Undo: fmt.Sprintf("/gear/%s/%s/restore", kind, n)}
		}
	}
	s.Render(w, r, http.StatusOK, "gear", p)
	return nil
}

// gearID returns the id in the path, or an empty one for "new".
func gearID(r *http.Request) (string, error) {
	if chi.URLParam(r, "id") == "new" {
		return "", nil
	}
	return page.ID(r)
}

func (s *Screens) gearForm(w http.ResponseWriter, r *http.Request) error {
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
	return s.showGear(w, r, http.StatusOK, k, n, f, version, nil)
}

func (s *Screens) gearRequest(r *http.Request) (gearKind, string, units.Prefs, error) {
	k, err := kindOf(r)
	if err != nil {
		return k, "", units.Prefs{}, err
	}
	n, err := gearID(r)
	return k, n, page.Prefs(r), err
}

func (s *Screens) saveGear(w http.ResponseWriter, r *http.Request) error {
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
	if n != "" { // existing gear
		if kept, err = k.fill(s, r.Context(), n, prefs); err != nil {
			return err
		}
		f.FillMissing(kept, "")
	}
	err = k.save(s, r.Context(), n, f, prefs, f.Version())
	switch {
	case errors.Is(err, store.ErrConflict): // the other window's values are saved, ours stay in the form; saving again overwrites
		return s.showGear(w, r, http.StatusConflict, k, n, f, version, kept)
	case err != nil:
		return err
	case !f.OK():
		return s.showGear(w, r, http.StatusUnprocessableEntity, k, n, f, f.VersionOr(version), nil)
	}
	return page.SeeOther(w, r, "/gear")
}

// gearVersion is the version of a piece of gear; 0 for a new one.
func (s *Screens) gearVersion(r *http.Request, k gearKind, n string) (int64, error) {
	if n == "" {
		return 0, nil
	}
	return s.yard.Store.GearVersion(r.Context(), k.kind, n)
}

// showGear shows the form of a piece of gear. theirs are the values saved by another window meanwhile, or
// nil.
func (s *Screens) showGear(w http.ResponseWriter, r *http.Request, status int, k gearKind, n string, f *form.Form, version int64,
	theirs *form.Form) error {
	title := "New " + k.one
	if n != "" {
		title = f.Values["name"]
	}
	fields := k.fields(f, page.Prefs(r))
	fields[0].Autofocus = n == ""
	body := gearFormBody{Kind: k.kind, One: k.one, ID: n, Fields: fields, Errors: len(f.Errors), Version: version}
	if theirs != nil {
		body.Theirs = form.Differences(fields, theirs)
	}
	if k.kind == "grinders" && n != "" {
		view, err := s.grinderView(r, n)
		if err != nil {
			return err
		}
		body.Grinder = view
	}
	s.Render(w, r, status, "gearform", page.Page{Title: title, Side: "gear", Line: page.Line(""),
		Body: body})
	return nil
}

func (s *Screens) retireGear(w http.ResponseWriter, r *http.Request) error {
	k, n, _, err := s.gearRequest(r)
	if err != nil {
		return err
	}
	retire := chi.URLParam(r, "what") == "retire"
	if err := s.yard.Store.RetireGear(r.Context(), k.kind, n, retire, s.yard.Now()); err != nil {
		return err
	}
	if k.kind == "devices" {
		if err := s.yard.Connect(s.yard.Hub.Context()); err != nil {
			return err
		}
	}
	if retire {
		return page.SeeOther(w, r, "/gear?retired=%s~%s", k.kind, n)
	}
	return page.SeeOther(w, r, "/gear")
}

var (
	lossRange  = units.Range{Lo: 0, Hi: 5}
	dialZero   = units.Range{Lo: -500, Hi: 2500}
	dialStep   = units.Range{Lo: -300, Hi: 300}
	dialMark   = units.Range{Lo: 0.01, Hi: 10}
	perTurn    = units.Range{Lo: 1, Hi: 500}
	micrometre = units.Unit{Symbol: "µm", Scale: 1, Decimals: 1, Step: 10, Fine: 1}
	bare       = units.Unit{Scale: 1, Decimals: 2, Step: 0.5, Fine: 0.1}
)

func listBrewers(s *Screens, ctx context.Context, p units.Prefs) ([]gearItem, error) {
	all, err := s.yard.Store.Brewers(ctx)
	var out []gearItem
	for _, b := range all {
		out = append(out, gearItem{b.ID, b.Name, fmt.Sprintf("%s, %s, %s, holds %s, retains %s × the dose", b.Kind.Form().Name, b.Material,
			b.Filter, p.Unit(units.Water).Format(float64(b.Holds)), units.Trim(b.Retained, 2))})
	}
	return out, err
}

func fillBrewer(s *Screens, ctx context.Context, n string, p units.Prefs) (*form.Form, error) {
	b := gear.Brewer{Kind: gear.OpenCone, Material: gear.Plastic, Filter: gear.StandardPaper, Holds: 500}
	var err error
	if n != "" {
		b, err = s.yard.Store.Brewer(ctx, n)
	}
	f := form.New()
	f.Values = map[string]string{"name": b.Name, "kind": string(b.Kind), "material": string(b.Material), "filter": string(b.Filter),
		"ribs": cmp.Or(string(b.Ribs), asUsual), "outlets": cmp.Or(string(b.Outlets), asUsual), "holds": p.Unit(units.Water).Number(float64(b.Holds))}
	return f, err
}

func brewerFields(f *form.Form, p units.Prefs) []form.Field {
	return []form.Field{f.Entry("name", "Name"),
		form.Select(f, "kind", "Kind", gear.BrewerForms(), func(v gear.BrewerForm) (string, string) { return string(v.Kind), v.Name }),
		form.Select(f, "material", "Made of", gear.Materials(), form.Plain), form.Select(f, "filter", "Filter", gear.Filters(), form.Plain),
		form.Select(f, "ribs", "Wall", gear.RibKinds(), usually), form.Select(f, "outlets", "Outlets", gear.OutletKinds(), usually),
		f.Stepper("holds", "Holds, to the rim", p.Unit(units.Water))}
}

// asUsual is the choice of what is usual for the kind of brewer.
const asUsual = "as usual for its kind"

func usually[T ~string](v T) (value, label string) {
	return cmp.Or(string(v), asUsual), cmp.Or(string(v), asUsual)
}

// chosen returns a choice of which the first one is the usual; a missing field is the usual too.
func chosen[T ~string](f *form.Form, name, label string, all []T) T {
	if v := f.Values[name]; v == "" || v == asUsual {
		return all[0]
	}
	return form.Choice(f, name, label, all)
}

func saveBrewer(s *Screens, ctx context.Context, n string, f *form.Form, p units.Prefs, version int64) error {
	var kinds []gear.BrewerKind
	for _, known := range gear.BrewerForms() {
		kinds = append(kinds, known.Kind)
	}
	b := gear.Brewer{ID: n, Name: f.Text("name", "The name", 60, true), Kind: form.Choice(f, "kind", "Kind", kinds),
		Material: form.Choice(f, "material", "Made of", gear.Materials()),
		Filter:   form.Choice(f, "filter", "Filter", gear.Filters()),
		Ribs:     chosen(f, "ribs", "Wall", gear.RibKinds()), Outlets: chosen(f, "outlets", "Outlets", gear.OutletKinds()),
		Holds: units.Grams(f.Quantity("holds", "The brewer", p.Unit(units.Water), gear.HoldsRange, true))}
	if !f.OK() {
		return nil
	}
	return s.yard.Store.SaveBrewer(ctx, b, version)
}

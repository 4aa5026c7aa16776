package web

import (
	"errors"
	"fmt"
	"math"
	"net/http"
	"strconv"
	"strings"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/units"
	"yardbloom/store"
)

// bagBody is the page of one bag, new or kept.
type bagBody struct {
	ID        int64 // 0: new
	Version   int64
	Name      string
	Fields    []field // what the bag is
	More      []field // what is rarely known
	Theirs    string  // what another window kept meanwhile
	View      *bagView
	Path      []pathView
	Errors    int
	CanDelete bool
}

func (s *Server) newBag(w http.ResponseWriter, r *http.Request) error {
	_, prefs, err := s.yard(r)
	if err != nil {
		return err
	}
	f := newForm()
	f.Values["weight"] = prefs.Unit(units.BagWeight).Number(250)
	f.Values["process"], f.Values["roast"] = string(coffee.Washed), strconv.Itoa(int(coffee.Medium))
	s.showBag(w, r, http.StatusOK, f, store.Bag{}, prefs, "")
	return nil
}

func (s *Server) addBag(w http.ResponseWriter, r *http.Request) error {
	_, prefs, err := s.yard(r)
	if err != nil {
		return err
	}
	f, err := readForm(r)
	if err != nil {
		return err
	}
	b := readBag(f, prefs)
	if !f.ok() {
		s.showBag(w, r, http.StatusUnprocessableEntity, f, store.Bag{}, prefs, "")
		return nil
	}
	id, err := s.Store.AddBag(r.Context(), b)
	if err != nil {
		return err
	}
	return seeOther(w, r, "/bags/%d", id)
}

func (s *Server) bag(w http.ResponseWriter, r *http.Request) error {
	b, prefs, err := s.loadBag(r)
	if err != nil {
		return err
	}
	s.showBag(w, r, http.StatusOK, fillBag(b.Bag, prefs), b, prefs, "")
	return nil
}

// loadBag reads the bag of the request. A deleted one is named with the way to get it back.
func (s *Server) loadBag(r *http.Request) (store.Bag, units.Prefs, error) {
	bagID, err := id(r)
	if err != nil {
		return store.Bag{}, units.Prefs{}, err
	}
	_, prefs, err := s.yard(r)
	if err != nil {
		return store.Bag{}, prefs, err
	}
	b, err := s.Store.Bag(r.Context(), bagID)
	if err == nil && b.Deleted {
		err = gone(b)
	}
	return b, prefs, err
}

// gone says that a bag was taken off the shelf.
func gone(b store.Bag) error {
	return problem{http.StatusGone, "This bag is off the shelf", fmt.Sprintf("%s was deleted. Its brews stay in the log.", b.Name)}
}

func (s *Server) saveBag(w http.ResponseWriter, r *http.Request) error {
	old, prefs, err := s.loadBag(r)
	if err != nil {
		return err
	}
	f, err := readForm(r)
	if err != nil {
		return err
	}
	changed := old
	changed.Bag = readBag(f, prefs)
	changed.ID = old.ID
	changed.Version, _ = strconv.ParseInt(f.Values["version"], 10, 64) // nought is no version: a conflict
	if !f.ok() {
		s.showBag(w, r, http.StatusUnprocessableEntity, f, old, prefs, "")
		return nil
	}
	err = s.Store.SaveBag(r.Context(), changed)
	if errors.Is(err, store.ErrConflict) {
		// Theirs is kept, ours is still in the form: the next save means ours.
		s.showBag(w, r, http.StatusConflict, f, old, prefs, differences(old.Bag, changed.Bag, prefs))
		return nil
	}
	if err != nil {
		return err
	}
	return seeOther(w, r, "/bags/%d", old.ID)
}

func (s *Server) deleteBag(w http.ResponseWriter, r *http.Request) error {
	b, _, err := s.loadBag(r)
	if err != nil {
		return err
	}
	if err := s.Store.DeleteBag(r.Context(), b.ID, s.Now()); err != nil {
		return err
	}
	return seeOther(w, r, "/?removed=%d", b.ID)
}

func (s *Server) restoreBag(w http.ResponseWriter, r *http.Request) error {
	bagID, err := id(r)
	if err != nil {
		return err
	}
	if err := s.Store.RestoreBag(r.Context(), bagID); err != nil {
		return err
	}
	return seeOther(w, r, "/bags/%d", bagID)
}

var (
	weightRange   = units.Range{Lo: 10, Hi: 20000}
	growingRange  = units.Range{Lo: 0, Hi: 3000}
	priceRange    = units.Range{Lo: 0, Hi: 9999}
	metres        = units.Unit{Symbol: "m", Scale: 1, Step: 50, Fine: 10}
	money         = units.Unit{Scale: 1, Decimals: 2}
	minorPerMajor = 100.0
)

func readBag(f *form, prefs units.Prefs) coffee.Bag {
	b := coffee.Bag{
		Name:      f.text("name", "The name", 80, true),
		Roaster:   f.text("roaster", "The roaster", 80, false),
		Process:   choice(f, "process", "Process", coffee.Processes()),
		Altitude:  int(f.quantity("altitude", "The altitude", metres, growingRange, false)),
		RoastedOn: f.day("roasted_on", "The roast date", false),
		OpenedOn:  f.day("opened_on", "The day it was opened", false),
		Weight:    units.Grams(f.quantity("weight", "The bag", prefs.Unit(units.BagWeight), weightRange, true)),
		Price:     int64(math.Round(f.quantity("price", "The price", money, priceRange, false) * minorPerMajor)),
		Currency:  f.text("currency", "The currency", 3, false),
		Notes:     f.text("notes", "The notes", 400, false),
		Window:    coffee.Window{From: f.clock("window_from", "The drawdown", cup.TimeRange, false), To: f.clock("window_to", "The drawdown", cup.TimeRange, false)},
	}
	roast, err := strconv.Atoi(f.Values["roast"])
	if b.Roast = coffee.Roast(roast); err != nil || b.Roast < coffee.Light || b.Roast > coffee.Dark {
		f.fail("roast", "Choose a roast.")
	}
	if (b.From == 0) != (b.To == 0) {
		f.fail("window_to", "A window has two ends, or none.")
	} else if b.From > b.To {
		f.fail("window_to", "The window ends before it begins.")
	}
	if b.OpenedOn != "" && b.OpenedOn < b.RoastedOn {
		f.fail("opened_on", "It was opened before it was roasted.")
	}
	return b
}

func fillBag(b coffee.Bag, prefs units.Prefs) *form {
	f := newForm()
	f.Values = map[string]string{
		"name": b.Name, "roaster": b.Roaster, "process": string(b.Process), "roast": strconv.Itoa(int(b.Roast)),
		"roasted_on": b.RoastedOn, "opened_on": b.OpenedOn, "notes": b.Notes, "currency": b.Currency,
		"weight": prefs.Unit(units.BagWeight).Number(float64(b.Weight)),
	}
	if b.Altitude > 0 {
		f.Values["altitude"] = metres.Number(float64(b.Altitude))
	}
	if b.Price > 0 {
		f.Values["price"] = fmt.Sprintf("%.2f", float64(b.Price)/minorPerMajor)
	}
	if b.Window.Set() {
		f.Values["window_from"], f.Values["window_to"] = b.From.String(), b.To.String()
	}
	return f
}

func (s *Server) showBag(w http.ResponseWriter, r *http.Request, status int, f *form, b store.Bag, prefs units.Prefs, theirs string) {
	roast := selectOf(f, "roast", "Roast", coffee.Roasts(), func(v coffee.Roast) (string, string) { return strconv.Itoa(int(v)), v.String() })
	dated := func(name, label string) field { e := f.entry(name, label); e.Kind = "date"; return e }
	notes := f.entry("notes", "Expected notes")
	notes.Kind = "area"
	altitude := f.stepper("altitude", "Grown at", metres)
	altitude.Hint = "Higher is denser and starts hotter. Leave it empty if unknown."
	windowFrom, windowTo := f.entry("window_from", "Drawdown from"), f.entry("window_to", "to")
	windowFrom.Hint = "When this coffee tastes best, such as 3:00 to 3:30. Empty: the recipe’s own aim."
	name := f.entry("name", "Name")
	name.Autofocus = b.ID == 0
	body := bagBody{ID: b.ID, Version: b.Version, Name: b.Name, Theirs: theirs, Errors: len(f.Errors), CanDelete: b.ID != 0,
		Fields: []field{name, f.entry("roaster", "Roaster"),
			selectOf(f, "process", "Process", coffee.Processes(), plain), roast,
			dated("roasted_on", "Roasted on"), f.stepper("weight", "Bag weight", prefs.Unit(units.BagWeight))},
		More: []field{dated("opened_on", "Opened on"), altitude, windowFrom, windowTo, f.entry("price", "Price"), f.entry("currency", "Currency"), notes},
	}
	title := "New bag"
	line := emptyLine("Coffee")
	if b.ID != 0 {
		title = b.Name
		view, err := s.bagView(r, b, prefs)
		if err != nil {
			s.fail(w, r, err)
			return
		}
		body.View = &view
		if body.Path, err = s.pathOf(r, b.ID, 0, prefs); err != nil {
			s.fail(w, r, err)
			return
		}
	}
	s.render(w, r, status, "bag", page{Title: title, Station: "Coffee", Line: line, Body: body})
}

// differences names what another window kept that this form would overwrite.
func differences(theirs, ours coffee.Bag, prefs units.Prefs) string {
	a, b := fillBag(theirs, prefs).Values, fillBag(ours, prefs).Values
	var out []string
	for _, f := range []struct{ name, label string }{
		{"name", "name"}, {"roaster", "roaster"}, {"process", "process"}, {"roast", "roast level"}, {"roasted_on", "roasted on"},
		{"weight", "bag weight"}, {"opened_on", "opened on"}, {"altitude", "grown at"}, {"window_from", "drawdown from"},
		{"window_to", "drawdown to"}, {"price", "price"}, {"currency", "currency"}, {"notes", "notes"},
	} {
		if a[f.name] != b[f.name] {
			out = append(out, fmt.Sprintf("%s “%s”", f.label, units.Shorten(a[f.name])))
		}
	}
	return strings.Join(out, "; ")
}

// planBrew opens the recipe for a bag: the one in the making, or a new one.
func (s *Server) planBrew(w http.ResponseWriter, r *http.Request) error {
	b, _, err := s.loadBag(r)
	if err != nil {
		return err
	}
	planned, err := s.Store.PlannedFor(r.Context(), b.ID)
	if err != nil {
		return err
	}
	if planned == 0 {
		if planned, err = s.plan(r, b); err != nil {
			return err
		}
	}
	return seeOther(w, r, "/brews/%d/recipe", planned)
}

// plan begins a new recipe for a bag: as the last brew of it was, or, for a
// coffee never brewed here, as the product would start.
func (s *Server) plan(r *http.Request, b store.Bag) (int64, error) {
	last, err := s.Store.Log(r.Context(), store.Filter{Bag: b.ID, Limit: 1, Statuses: []brew.Status{brew.Done, brew.Poured}})
	if err != nil {
		return 0, err
	}
	if len(last) > 0 {
		return s.follow(r, last[0], nil)
	}
	return s.first(r, b)
}

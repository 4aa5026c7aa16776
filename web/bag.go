package web

import (
	"errors"
	"fmt"
	"math"
	"net/http"
	"strconv"

	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/form"
)

// bagBody is the page of one bag, new or kept.
type bagBody struct {
	AskedDate string // a future roast date that needs confirmation
	ID        string // empty: new
	Version   int64
	Name      string
	Fields    []form.Field // what the bag is
	More      []form.Field // what is rarely known
	Theirs    string       // what another window kept meanwhile
	View      *bagView
	Path      []pathView
	Earlier   int // brews that the path leaves out
	Facts     []fact
	Count     form.Field // what the scale says is left
	Portion   form.Field // to be frozen
	Frozen    bool
	Recipes   []recipeView
	File      form.Field
	Errors    int
}

func (s *Server) newBag(w http.ResponseWriter, r *http.Request) error {
	f := form.New()
	f.Values["weight"] = prefsOf(r).Unit(units.BagWeight).Number(250)
	f.Values["process"], f.Values["roast"] = string(coffee.Washed), strconv.Itoa(int(coffee.Medium))
	return s.showBag(w, r, http.StatusOK, f, store.Shelved{}, "")
}

func (s *Server) addBag(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	b := readBag(f, prefsOf(r), s.Now().Format(coffee.Day))
	if !f.OK() {
		return s.showBag(w, r, http.StatusUnprocessableEntity, f, store.Shelved{}, "")
	}
	bagID, err := s.Store.AddBag(r.Context(), b)
	if err != nil {
		return err
	}
	return seeOther(w, r, "/bags/%s", bagID)
}

func (s *Server) bag(w http.ResponseWriter, r *http.Request) error {
	b, err := s.loadBag(r)
	if err != nil {
		return err
	}
	return s.showBag(w, r, http.StatusOK, fillBag(b.Bag.Bag, prefsOf(r)), b, "")
}

// loadBag reads the bag of the request. A deleted one is named with the way to get it back.
func (s *Server) loadBag(r *http.Request) (store.Shelved, error) {
	bagID, err := id(r)
	if err != nil {
		return store.Shelved{}, err
	}
	b, err := s.Store.ShelvedBag(r.Context(), bagID)
	if err == nil && b.Deleted {
		err = gone(b.Bag)
	}
	return b, err
}

// gone says that a bag was taken off the shelf.
func gone(b store.Bag) error {
	return problem{http.StatusGone, "This bag is off the shelf", fmt.Sprintf("%s was deleted. Its brews stay in the log.", b.Name)}
}

func (s *Server) saveBag(w http.ResponseWriter, r *http.Request) error {
	old, err := s.loadBag(r)
	if err != nil {
		return err
	}
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	f.Keep(fillBag(old.Bag.Bag, prefsOf(r)), "")
	changed := old.Bag
	changed.Bag = readBag(f, prefsOf(r), s.Now().Format(coffee.Day))
	changed.ID = old.ID
	changed.Version = f.Version() // none, or one that cannot be read, is a conflict
	if !f.OK() {
		return s.showBag(w, r, http.StatusUnprocessableEntity, f, old, "")
	}
	err = s.Store.SaveBag(r.Context(), changed)
	if errors.Is(err, store.ErrConflict) {
		// Theirs is kept, ours is still in the form: the next save means ours.
		what, more := bagFields(f, false, prefsOf(r))
		return s.showBag(w, r, http.StatusConflict, f, old, form.Differences(append(what, more...), fillBag(old.Bag.Bag, prefsOf(r))))
	}
	if err != nil {
		return err
	}
	return seeOther(w, r, "/bags/%s", old.ID)
}

func (s *Server) deleteBag(w http.ResponseWriter, r *http.Request) error {
	b, err := s.loadBag(r)
	if err != nil {
		return err
	}
	if err := s.Store.DeleteBag(r.Context(), b.ID, s.Now()); err != nil {
		return err
	}
	return seeOther(w, r, "/?removed=%s", b.ID)
}

func (s *Server) restoreBag(w http.ResponseWriter, r *http.Request) error {
	bagID, err := id(r)
	if err != nil {
		return err
	}
	if err := s.Store.RestoreBag(r.Context(), bagID); err != nil {
		return err
	}
	return seeOther(w, r, "/bags/%s", bagID)
}

var (
	weightRange   = units.Range{Lo: 10, Hi: 20000}
	growingRange  = units.Range{Lo: 0, Hi: 3000}
	priceRange    = units.Range{Lo: 0, Hi: 9999}
	densityRange  = units.Range{Lo: 200, Hi: 600}
	gramsPerLitre = units.Unit{Symbol: "g/l", Scale: 1, Step: 10, Fine: 5}
	money         = units.Unit{Scale: 1, Decimals: 2}
	clock         = units.Prefs{}.Unit(units.Time)
	minorPerMajor = 100.0
)

// readBag reads a bag. A future roast date needs to be confirmed by saving it again.
func readBag(f *form.Form, prefs units.Prefs, today string) coffee.Bag {
	b := coffee.Bag{
		Name:      f.Text("name", "The name", 80, true),
		Roaster:   f.Text("roaster", "The roaster", 80, false),
		Process:   form.Choice(f, "process", "Process", coffee.Processes()),
		Altitude:  int(math.Round(f.Quantity("altitude", "The altitude", prefs.Unit(units.Altitude), growingRange, false))),
		RoastedOn: f.Day("roasted_on", "The roast date", false),
		OpenedOn:  f.Day("opened_on", "The day it was opened", false),
		Weight:    units.Grams(f.Quantity("weight", "The bag", prefs.Unit(units.BagWeight), weightRange, true)),
		Price:     int64(math.Round(f.Quantity("price", "The price", money, priceRange, false) * minorPerMajor)),
		Currency:  f.Text("currency", "The currency", 3, false),
		Notes:     f.Text("notes", "The notes", 400, false),
		Variety:   f.Text("variety", "The variety", 80, false),
		Density:   f.Quantity("density", "The density", gramsPerLitre, densityRange, false),
		WhenFast:  f.Text("when_fast", "What it tastes like", 200, false),
		WhenSlow:  f.Text("when_slow", "What it tastes like", 200, false),
		Window:    coffee.Window{From: units.Seconds(f.Quantity("window_from", "The drawdown", clock, cup.TimeRange, false)), To: units.Seconds(f.Quantity("window_to", "The drawdown", clock, cup.TimeRange, false))},
	}
	roast, err := strconv.Atoi(f.Values["roast"])
	if b.Roast = coffee.Roast(roast); err != nil || b.Roast < coffee.Light || b.Roast > coffee.Dark {
		f.Fail("roast", "Choose a roast.")
	}
	if (b.From == 0) != (b.To == 0) {
		f.Fail("window_to", "A window has two ends, or none.")
	} else if b.From > b.To {
		f.Fail("window_to", "The window ends before it begins.")
	}
	if b.RoastedOn > today && f.Errors["roasted_on"] == "" && f.Values["asked_date"] != b.RoastedOn {
		f.Fail("roasted_on", "%s has not come yet. If the bag says so, save it again as it is.", b.RoastedOn)
	}
	if b.OpenedOn != "" && b.OpenedOn < b.RoastedOn {
		f.Fail("opened_on", "It was opened before it was roasted.")
	}
	return b
}

func fillBag(b coffee.Bag, prefs units.Prefs) *form.Form {
	f := form.New()
	f.Values = map[string]string{
		"name": b.Name, "roaster": b.Roaster, "process": string(b.Process), "roast": strconv.Itoa(int(b.Roast)),
		"variety": b.Variety, "when_fast": b.WhenFast, "when_slow": b.WhenSlow, "roasted_on": b.RoastedOn, "opened_on": b.OpenedOn, "notes": b.Notes, "currency": b.Currency,
		"weight": prefs.Unit(units.BagWeight).Number(float64(b.Weight)),
	}
	if b.Altitude > 0 {
		f.Values["altitude"] = prefs.Unit(units.Altitude).Number(float64(b.Altitude))
	}
	if b.Density > 0 {
		f.Values["density"] = gramsPerLitre.Number(b.Density)
	}
	if b.Price > 0 {
		f.Values["price"] = fmt.Sprintf("%.2f", float64(b.Price)/minorPerMajor)
	}
	if b.Window.Set() {
		f.Values["window_from"], f.Values["window_to"] = b.From.String(), b.To.String()
	}
	return f
}

// pathLength is how many brews of a bag its path shows.
const pathLength = 12

func (s *Server) showBag(w http.ResponseWriter, r *http.Request, status int, f *form.Form, b store.Shelved, theirs string) error {
	prefs := prefsOf(r)
	body := bagBody{ID: b.ID, Version: b.Version, Name: b.Name, Theirs: theirs, Errors: len(f.Errors)}
	if theirs == "" {
		body.Version = f.VersionOr(b.Version)
	}
	if f.Errors["roasted_on"] != "" {
		body.AskedDate = f.Values["roasted_on"]
	}
	body.Fields, body.More = bagFields(f, b.ID == "", prefs)
	body.File = f.Entry("file", "A recipe file")
	body.Count, body.Portion = f.Stepper("counted", "On the scale", prefs.Unit(units.BagWeight)), f.Stepper("portion", "Freeze", prefs.Unit(units.BagWeight))
	title := "New bag"
	if b.ID != "" {
		title = b.Name
		view := viewOfBag(b, prefs, s.Now())
		body.View = &view
		body.Facts, body.Frozen = bagFacts(b, view, prefs, s.Now()), b.FrozenOn != ""
		if body.Count.Value == "" {
			body.Count.Value = prefs.Unit(units.BagWeight).Number(math.Round(float64(b.Left())))
		}
		drafts, err := s.Store.Drafts(r.Context(), b.ID, pathLength)
		if err != nil {
			return err
		}
		if body.Recipes, err = s.recipeViews(r, drafts); err != nil {
			return err
		}
		brews, err := s.Store.Path(r.Context(), b.ID, pathLength)
		if err != nil {
			return err
		}
		body.Path = pathOf(brews, "", drafts, prefsOf(r), s.Now())
		body.Earlier = max(0, b.Brews-pathLength)
	}
	p := page{Title: title, Station: "Coffee", Line: emptyLine("Coffee"), Body: body}
	if discarded := r.URL.Query().Get("discarded"); store.ValidID(discarded) {
		p.Notice = &notice{"The recipe is put aside.", fmt.Sprintf("/recipes/%s/restore", discarded)}
	}
	s.render(w, r, status, "bag", p)
	return nil
}

// bagFields are what a bag is, and what is rarely known of it.
func bagFields(f *form.Form, isNew bool, prefs units.Prefs) (what, more []form.Field) {
	dated := func(name, label string) form.Field { e := f.Entry(name, label); e.Kind = "date"; return e }
	name := f.Entry("name", "Name")
	name.Autofocus = isNew
	what = []form.Field{name, f.Entry("roaster", "Roaster"),
		form.Select(f, "process", "Process", coffee.Processes(), form.Plain),
		form.Select(f, "roast", "Roast", coffee.Roasts(), func(v coffee.Roast) (string, string) { return strconv.Itoa(int(v)), v.String() }),
		dated("roasted_on", "Roasted on"), f.Stepper("weight", "Bag weight", prefs.Unit(units.BagWeight))}
	notes := f.Entry("notes", "Expected notes")
	notes.Kind = "area"
	altitude := f.Stepper("altitude", "Grown at", prefs.Unit(units.Altitude))
	altitude.Hint = "Higher is denser and starts hotter. Leave it empty if unknown."
	from, to := f.Entry("window_from", "Drawdown from"), f.Entry("window_to", "to")
	from.Hint = "When this coffee tastes best, such as 3:00 to 3:30. Empty: the recipe’s own aim."
	density := f.Stepper("density", "Density", gramsPerLitre)
	density.Hint = "Beans that loosely fill a measured cup. Denser starts hotter. Empty if unknown."
	fast, slow := f.Entry("when_fast", "Too fast, it tastes"), f.Entry("when_slow", "Too slow, it tastes")
	fast.Hint, slow.Hint = "In your own words: the Next station reminds you.", "The same for a drawdown past its window."
	return what, []form.Field{dated("opened_on", "Opened on"), f.Entry("variety", "Variety"), altitude, density, from, to, fast, slow, f.Entry("price", "Price"), f.Entry("currency", "Currency"), notes}
}

package shelf

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"net/http"
	"strconv"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/learn"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/station"
)

// bagBody is the page of a new or stored bag.
type bagBody struct {
	AskedDate string // a future roast date that needs confirmation
	ID        string // empty: new
	Version   int64
	Name      string
	Fields    []form.Field // main fields
	More      []form.Field // fields that are rarely known
	Theirs    string       // saved by another window meanwhile
	View      *bagView
	Path      []station.PathBrew
	Most      int // brews in a comparison
	Earlier   int // number of brews not on the path
	Charts    []page.Chart
	Best      string // recipe so far
	Facts     []page.Fact
	Count     form.Field // weighed contents
	Portion   form.Field // portion to freeze
	Frozen    bool
	Flow      string // how it flows relative to other coffees; empty if unknown
	Recipes   []recipeView
	File      form.Field
	Errors    int
}

func (s *Screens) newBag(w http.ResponseWriter, r *http.Request) error {
	f := form.New()
	f.Values["weight"] = page.Prefs(r).Unit(units.BagWeight).Number(250)
	f.Values["process"], f.Values["roast"] = string(coffee.Washed), strconv.Itoa(int(coffee.Medium))
	return s.showBag(w, r, http.StatusOK, f, store.Shelved{}, "")
}

func (s *Screens) addBag(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	b := readBag(f, page.Prefs(r), s.yard.Now().Format(coffee.Day))
	if !f.OK() {
		return s.showBag(w, r, http.StatusUnprocessableEntity, f, store.Shelved{}, "")
	}
	bagID, err := s.yard.Store.AddBag(r.Context(), b)
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, "/bags/%s", bagID)
}

func (s *Screens) bag(w http.ResponseWriter, r *http.Request) error {
	b, err := s.loadBag(r)
	if err != nil {
		return err
	}
	return s.showBag(w, r, http.StatusOK, fillBag(b.Bag.Bag, page.Prefs(r)), b, "")
}

// loadBag loads the bag of the request. For a deleted bag it returns a problem with a way to restore it.
func (s *Screens) loadBag(r *http.Request) (store.Shelved, error) {
	bagID, err := page.ID(r)
	if err != nil {
		return store.Shelved{}, err
	}
	b, err := s.yard.Store.ShelvedBag(r.Context(), bagID)
	if err == nil && b.Deleted {
		err = station.BagGoneProblem(b.Bag)
	}
	return b, err
}

func (s *Screens) saveBag(w http.ResponseWriter, r *http.Request) error {
	old, err := s.loadBag(r)
	if err != nil {
		return err
	}
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	f.FillMissing(fillBag(old.Bag.Bag, page.Prefs(r)), "")
	changed := old.Bag
	changed.Bag = readBag(f, page.Prefs(r), s.yard.Now().Format(coffee.Day))
	changed.ID = old.ID
	changed.Version = f.Version() // a missing or invalid version is a conflict
	if !f.OK() {
		return s.showBag(w, r, http.StatusUnprocessableEntity, f, old, "")
	}
	err = s.yard.Store.SaveBag(r.Context(), changed)
	if errors.Is(err, store.ErrConflict) {
		// The other window's values are saved, ours stay in the form; saving again overwrites.
		what, more := bagFields(f, false, page.Prefs(r))
		return s.showBag(w, r, http.StatusConflict, f, old, form.Differences(append(what, more...), fillBag(old.Bag.Bag, page.Prefs(r))))
	}
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, "/bags/%s", old.ID)
}

func (s *Screens) deleteBag(w http.ResponseWriter, r *http.Request) error {
	b, err := s.loadBag(r)
	if err != nil {
		return err
	}
	if err := s.yard.Store.DeleteBag(r.Context(), b.ID, s.yard.Now()); err != nil {
		return err
	}
	return page.SeeOther(w, r, "/?removed=%s", b.ID)
}

func (s *Screens) restoreBag(w http.ResponseWriter, r *http.Request) error {
	bagID, err := page.ID(r)
	if err != nil {
		return err
	}
	if err := s.yard.Store.RestoreBag(r.Context(), bagID); err != nil {
		return err
	}
	return page.SeeOther(w, r, "/bags/%s", bagID)
}

var (
	weightRange   = units.Range{Lo: 10, Hi: 20000}
	growingRange  = units.Range{Lo: 0, Hi: 3000}
	priceRange    = units.Range{Lo: 0, Hi: 9999}
	densityRange  = units.Range{Lo: 200, Hi: 600}
	gramsPerLitre = units.Unit{Symbol: "g/l", Scale: 1, Step: 10, Fine: 5}
	money         = units.Unit{Scale: 1, Decimals: 2}
)

// readBag parses a bag. A future roast date must be confirmed by saving again.
func readBag(f *form.Form, prefs units.Prefs, today string) coffee.Bag {
	b := coffee.Bag{
		Name:      f.Text("name", "The name", 80, true),
		Roaster:   f.Text("roaster", "The roaster", 80, false),
		Process:   form.Choice(f, "process", "Process", processes()),
		Altitude:  int(math.Round(f.Quantity("altitude", "The altitude", prefs.Unit(units.Altitude), growingRange, false))),
		RoastedOn: f.Day("roasted_on", "The roast date", false),
		OpenedOn:  f.Day("opened_on", "The day it was opened", false),
		Weight:    units.Grams(f.Quantity("weight", "The bag", prefs.Unit(units.BagWeight), weightRange, false)),
		Price:     int64(math.Round(f.Quantity("price", "The price", money, priceRange, false) * coffee.MinorPerMajor)),
		Currency:  f.Text("currency", "The currency", 3, false),
		Notes:     f.Text("notes", "The notes", 400, false),
		Variety:   f.Text("variety", "The variety", 80, false),
		Density:   f.Quantity("density", "The density", gramsPerLitre, densityRange, false),
		WhenFast:  f.Text("when_fast", "The taste", 200, false),
		WhenSlow:  f.Text("when_slow", "The taste", 200, false),
		Window: coffee.Window{From: units.Seconds(f.Quantity("window_from", "The drawdown", form.Clock, cup.TimeRange, false)),
			To: units.Seconds(f.Quantity("window_to", "The drawdown", form.Clock, cup.TimeRange, false))},
	}
	roast, err := strconv.Atoi(f.Values["roast"])
	if b.Roast = coffee.Roast(roast); err != nil || b.Roast < coffee.RoastUnknown || b.Roast > coffee.Dark {
		f.Fail("roast", "Choose a roast.")
	}
	if (b.From == 0) != (b.To == 0) {
		f.Fail("window_to", "Fill in both ends of the window, or none.")
	} else if b.From > b.To {
		f.Fail("window_to", "The window ends before it begins.")
	}
	if b.RoastedOn > today && f.Errors["roasted_on"] == "" && f.Values["asked_date"] != b.RoastedOn {
		f.Fail("roasted_on", "%s is in the future. If that is the date on the bag, save it again.", b.RoastedOn)
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
		"variety": b.Variety, "when_fast": b.WhenFast, "when_slow": b.WhenSlow, "roasted_on": b.RoastedOn, "opened_on": b.OpenedOn,
		"notes": b.Notes, "currency": b.Currency,
	}
	if b.Weight > 0 {
		f.Values["weight"] = prefs.Unit(units.BagWeight).Number(float64(b.Weight))
	}
	if b.Altitude > 0 {
		f.Values["altitude"] = prefs.Unit(units.Altitude).Number(float64(b.Altitude))
	}
	if b.Density > 0 {
		f.Values["density"] = gramsPerLitre.Number(b.Density)
	}
	if b.Price > 0 {
		f.Values["price"] = fmt.Sprintf("%.2f", float64(b.Price)/coffee.MinorPerMajor)
	}
	if b.Window.IsSet() {
		f.Values["window_from"], f.Values["window_to"] = b.From.String(), b.To.String()
	}
	return f
}

func (s *Screens) showBag(w http.ResponseWriter, r *http.Request, status int, f *form.Form, b store.Shelved, theirs string) error {
	prefs := page.Prefs(r)
	body := bagBody{ID: b.ID, Version: b.Version, Name: b.Name, Theirs: theirs, Errors: len(f.Errors)}
	if theirs == "" {
		body.Version = f.VersionOr(b.Version)
	}
	if f.Errors["roasted_on"] != "" {
		body.AskedDate = f.Values["roasted_on"]
	}
	body.Fields, body.More = bagFields(f, b.ID == "", prefs)
	body.File = f.Entry("file", "A recipe file")
	body.Count, body.Portion = f.Stepper("counted", "On the scale", prefs.Unit(units.BagWeight)),
		f.Stepper("portion", "Freeze", prefs.Unit(units.BagWeight))
	title := "New bag"
	if b.ID != "" {
		title = b.Name
		view := viewOfBag(b, prefs, s.yard.Now())
		body.View = &view
		body.Facts, body.Frozen = bagFacts(b, view, prefs, s.yard.Now()), b.FrozenOn != ""
		body.Flow = flowSays(s.yard.Learned().Flow(b.CoffeeID()))
		if body.Count.Value == "" {
			body.Count.Value = prefs.Unit(units.BagWeight).Number(math.Round(float64(b.Left())))
		}
		drafts, err := s.yard.Store.Drafts(r.Context(), b.ID, station.PathLength)
		if err != nil {
			return err
		}
		if body.Recipes, err = s.recipeViews(r, drafts); err != nil {
			return err
		}
		brews, err := s.yard.Store.Path(r.Context(), b.ID, station.PathLength)
		if err != nil {
			return err
		}
		if body.Path, err = station.Path(r.Context(), s.yard, brews, "", drafts, page.Prefs(r)); err != nil {
			return err
		}
		if body.Most = brew.MaxCompared; len(brews) > 1 {
			for i := range brews { // drafts follow them
				body.Path[i].Markable = true
			}
		}
		body.Earlier = max(0, b.Brews-station.PathLength)
		for i := range brews {
			brews[i] = brews[i].Preferring(page.PersonID(r))
		}
		body.Best, body.Charts = bestText(brews, prefs), courseCharts(brews, body.Path)
		use, err := s.yard.Store.BagUse(r.Context(), b.ID)
		if err != nil {
			return err
		}
		body.Facts = append(body.Facts, useFacts(b.Bag, use, prefs)...)
	}
	p := page.Page{Title: title, Station: "Coffee", Line: page.Line("Coffee"), Body: body}
	if discarded := r.URL.Query().Get("discarded"); store.ValidID(discarded) {
		p.Notice = &page.Notice{Text: "The recipe is archived.", Undo: fmt.Sprintf("/recipes/%s/restore", discarded)}
	}
	s.Render(w, r, status, "bag", p)
	return nil
}

// notKnown is the option of a list for a property that is not known.
const notKnown = "I do not know"

// processes lists the processes, the unknown one last.
func processes() []coffee.Process { return append(coffee.Processes(), coffee.ProcessUnknown) }

// bagFields returns the main fields of a bag, and those that are rarely known.
func bagFields(f *form.Form, isNew bool, prefs units.Prefs) (what, more []form.Field) {
	dated := func(name, label string) form.Field { e := f.Entry(name, label); e.Kind = "date"; return e }
	name := f.Entry("name", "Name")
	name.Autofocus = isNew
	what = []form.Field{name, f.Entry("roaster", "Roaster"),
		form.Select(f, "process", "Process", processes(), func(p coffee.Process) (string, string) { return string(p), cmp.Or(string(p), notKnown) }),
		form.Select(f, "roast", "Roast", append(coffee.Roasts(), coffee.RoastUnknown), func(v coffee.Roast) (string, string) {
			if v == coffee.RoastUnknown {
				return "0", notKnown
			}
			return strconv.Itoa(int(v)), v.String()
		}),
		dated("roasted_on", "Roasted on"), f.Stepper("weight", "Bag weight", prefs.Unit(units.BagWeight))}
	notes := f.Entry("notes", "Expected notes")
	notes.Kind = "area"
	altitude := f.Stepper("altitude", "Grown at", prefs.Unit(units.Altitude))
	altitude.Hint = "Coffee grown higher is denser and starts hotter. Leave it empty if unknown."
	from, to := f.Entry("window_from", "Drawdown from"), f.Entry("window_to", "to")
	from.Hint = "When this coffee tastes best, such as 3:00 to 3:30. Empty: the recipe’s own aim."
	density := f.Stepper("density", "Density", gramsPerLitre)
	density.Hint = "Weight of beans that loosely fill a measured cup. Denser beans start hotter. Leave it empty if unknown."
	fast, slow := f.Entry("when_fast", "Too fast, it tastes"), f.Entry("when_slow", "Too slow, it tastes")
	fast.Hint, slow.Hint = "In your own words: the Next station reminds you.", "The same for a drawdown past its window."
	return what, []form.Field{dated("opened_on", "Opened on"), f.Entry("variety", "Variety"), altitude, density, from, to, fast, slow,
		f.Entry("price", "Price"), f.Entry("currency", "Currency"), notes}
}

// flowSays describes how a coffee flows, if its brews show a difference from others.
func flowSays(f learn.Flow) string {
	const least, percent = 2, 5 // brews; the smallest difference that is mentioned
	slower := math.Round(100 * f.Slower)
	if f.Brews < least || math.Abs(f.Slower) < f.Error || math.Abs(slower) < percent {
		return ""
	}
	how := "slower"
	if slower < 0 {
		how = "faster"
	}
	return fmt.Sprintf("By %d brews it drains %.0f ± %.0f %% %s than an ordinary coffee at the same setting.", f.Brews, math.Abs(slower), 100*f.Error, how)
}

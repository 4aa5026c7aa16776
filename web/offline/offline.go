// Package offline serves the list of pages that a device stores for reading without the server, the page that replaces a missing one, and a short form
// for a cup.
package offline

import (
	"crypto/sha256"
	"embed"
	"encoding/json"
	"fmt"
	"net/http"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/page"
	"yardbloom/web/words"
	"yardbloom/yard"
)

//go:embed *.html
var templates embed.FS

// Screens serves the pages of this package.
type Screens struct {
	*page.Views
	yard  *yard.Yard
	files []string // addresses of the static files
}

// New returns the screens of a yard. files are the addresses of the static files, which a device keeps as well.
func New(site *page.Site, y *yard.Yard, files []string) *Screens {
	return &Screens{site.Views(templates), y, files}
}

// Routes registers the screens.
func (s *Screens) Routes(r page.Router) {
	r.Page("/offline", s.offline)
	r.Page("/offline/cup", s.cup)
	r.Page("/offline.json", s.list)
}

// The numbers of things that a device keeps.
const (
	keptRecipes = 20 // that can be brewed
	keptBrews   = 10 // records
	keptCards   = 20
	looked      = 100 // latest brews, among which the recipes are found
)

// A recipeView is a recipe that can be brewed without the server: of the last brew of a bag in a brewer.
type recipeView struct{ ID, Coffee, Brewer, Made, When string }

// kept holds the records that a device stores.
type kept struct {
	Recipes []recipeView
	Brews   []store.Row
	Cards   []store.KeptRecipe
	Drafts  []string
}

// madeOf describes the recipe of a brew in a few figures.
func madeOf(row store.Row, prefs units.Prefs) string {
	return fmt.Sprintf("%s, %s, %s", prefs.Unit(units.Dose).Format(float64(row.Dose)), prefs.Unit(units.Ratio).Format(float64(row.Water/row.Dose)),
		prefs.Unit(units.Temperature).Format(float64(row.Temperature)))
}

func (s *Screens) kept(r *http.Request) (k kept, err error) {
	rows, err := s.yard.Store.Log(r.Context(), store.Filter{Limit: looked, For: page.PersonID(r)})
	if err != nil {
		return k, err
	}
	prefs, seen := page.Prefs(r), map[string]bool{}
	for _, row := range rows {
		if row.Status == brew.Running || row.Status == brew.Abandoned {
			continue
		}
		if len(k.Brews) < keptBrews {
			k.Brews = append(k.Brews, row)
		}
		if key := row.BagID + " " + row.BrewerName; !seen[key] && len(k.Recipes) < keptRecipes {
			seen[key] = true
			k.Recipes = append(k.Recipes, recipeView{row.ID, row.BagName, row.BrewerName, madeOf(row, prefs), words.Day(row.Started, s.yard.Now())})
		}
	}
	shelf, err := s.yard.Store.Shelf(r.Context(), "", "", keptBrews)
	if err != nil {
		return k, err
	}
	for _, b := range shelf {
		if b.Draft != "" {
			k.Drafts = append(k.Drafts, b.Draft)
		}
	}
	book, err := s.yard.Store.Book(r.Context())
	k.Cards = book[:min(keptCards, len(book))]
	return k, err
}

// A keep is one page to keep. It is fetched again when its tag changes.
type keep struct {
	URL string `json:"url"`
	Tag string `json:"tag"`
}

// list returns the pages and files that a device keeps.
func (s *Screens) list(w http.ResponseWriter, r *http.Request) error {
	k, err := s.kept(r)
	if err != nil {
		return err
	}
	set := page.Settings(r)
	own := fmt.Sprint(set.PersonID, set.Version, set.FullRecipe, page.Theme(r))
	var pages []keep
	for _, b := range k.Brews {
		pages = append(pages, keep{"/brews/" + b.ID, tagOf(own, fmt.Sprint(b.Status, b.Taste, b.TDS))})
	}
	for _, of := range k.Recipes {
		pages = append(pages, keep{"/brews/" + of.ID + "/ready", tagOf(own, of.Made)})
	}
	for _, id := range k.Drafts {
		pages = append(pages, keep{"/brews/" + id + "/setup", tagOf(own, "")}, keep{"/brews/" + id + "/brew", tagOf(own, "")})
	}
	for _, c := range k.Cards {
		pages = append(pages, keep{"/brews/" + c.ID + "/card", tagOf(own, fmt.Sprint(c.Number))})
	}
	all, err := json.Marshal(pages)
	if err != nil {
		return err
	}
	lists := tagOf(string(all), s.yard.Now().Format(time.DateOnly)) // ages change every day
	for _, path := range []string{"/", "/log", "/book", "/glossary", "/keys", "/offline", "/offline/cup"} {
		pages = append(pages, keep{path, lists})
	}
	w.Header().Set("Content-Type", "application/json")
	w.Header().Set("Cache-Control", "no-store")
	return json.NewEncoder(w).Encode(struct {
		Pages []keep   `json:"pages"`
		Files []string `json:"files"`
	}{pages, s.files})
}

func tagOf(parts ...string) string {
	return fmt.Sprintf("%x", sha256.Sum256(fmt.Append(nil, parts)))[:12]
}

// offline serves the page that is shown in place of one that the device does not keep.
func (s *Screens) offline(w http.ResponseWriter, r *http.Request) error {
	k, err := s.kept(r)
	if err != nil {
		return err
	}
	s.Render(w, r, http.StatusOK, "offline", page.Page{Title: "Without the server", Side: "offline", Line: page.Line(""), Body: k})
	return nil
}

// cup serves a cup to fill in while the server is away. It belongs to the brew in the address under which the device shows it.
func (s *Screens) cup(w http.ResponseWriter, r *http.Request) error {
	s.Render(w, r, http.StatusOK, "cup", page.Page{Title: "The cup", Side: "offline", Line: page.Line(""), Body: cupForm(page.Prefs(r))})
	return nil
}

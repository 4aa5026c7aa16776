package book

import (
	"fmt"
	"html/template"
	"net/http"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"yardbloom/store"
	"yardbloom/web/figure"
	"yardbloom/web/page"
	"yardbloom/web/words"
)

// shelfPage is the number of bags offered for an imported recipe.
const shelfPage = 30

// bookBody is the recipe book.
type bookBody struct {
	Recipes []keptView
	Bags    []store.Thing
	Error   string // the problem of a file
	Text    string // pasted or uploaded
	Mend    bool   // its totals can be corrected
	Bag     string // the chosen one
}

type keptView struct {
	ID, Name, Coffee, What, Code string
	Number                       int
	Favourite                    bool
	Forked                       string
	Flower                       template.HTML
	Versions                     []versionView
	Here                         bool        // just added
	By                           *page.Badge // nil: there is no name
}

type versionView struct {
	Number int
	Said   string // the changes in the next version
	Until  string
	By     *page.Badge
}

func (s *Screens) book(w http.ResponseWriter, r *http.Request) error {
	return s.showBook(w, r, http.StatusOK, bookBody{})
}

func (s *Screens) showBook(w http.ResponseWriter, r *http.Request, status int, body bookBody) error {
	kept, err := s.yard.Store.Book(r.Context())
	if err != nil {
		return err
	}
	prefs := page.Prefs(r)
	for _, k := range kept {
		g, err := s.yard.Store.Gear(r.Context(), k.Gear.IDs())
		if err != nil {
			return err
		}
		v := keptView{ID: k.ID, Name: k.Name, Coffee: k.Coffee, Code: k.Code, Number: k.Number, Favourite: k.Favourite, Forked: k.Forked,
			By:     page.BadgeOf(r, k.By),
			Here:   r.URL.Query().Get("kept") == k.ID,
			Flower: figure.Flower(k.Recipe.Dose, k.Recipe.Plan().Steps, 0),
			What: k.Recipe.Style.Style().Name + " · " + words.Recipe(g.Brewer.Name, g.Grinder.Setting(k.Recipe.Grind), k.Recipe.Dose,
				k.Recipe.Total(), k.Recipe.Temperature(), prefs)}
		if k.Number > 1 {
			versions, err := s.yard.Store.Versions(r.Context(), k.ID)
			if err != nil {
				return err
			}
			for _, old := range versions {
				v.Versions = append(v.Versions, versionView{old.Number, old.Changes, words.Day(old.Until, s.yard.Now()), page.BadgeOf(r, old.By)})
			}
		}
		body.Recipes = append(body.Recipes, v)
	}
	shelf, err := s.yard.Store.Shelf(r.Context(), "", "", shelfPage)
	if err != nil {
		return err
	}
	for _, b := range shelf {
		body.Bags = append(body.Bags, store.Thing{ID: b.ID, Name: b.Name})
	}
	p := page.Page{Title: "Recipe book", Side: "book", Line: page.Line(""), Body: body}
	switch q := r.URL.Query(); {
	case store.ValidID(q.Get("archived")):
		p.Notice = &page.Notice{Text: "The recipe is archived.", Undo: fmt.Sprintf("/book/%s/restore", q.Get("archived"))}
	case q.Get("added") != "":
		added, err := strconv.Atoi(q.Get("added"))
		same, _ := strconv.Atoi(q.Get("same"))
		if err != nil || added < 0 || same < 0 {
			break
		}
		text := fmt.Sprintf("%d added.", added)
		if same > 0 {
			text += fmt.Sprintf(" %d already in the book.", same)
		}
		p.Notice = &page.Notice{Text: text}
	}
	s.Render(w, r, status, "book", p)
	return nil
}

// shelfByName maps the lower-case names of the bags on the shelf to their ids.
func (s *Screens) shelfByName(r *http.Request) (map[string]string, error) {
	shelf, err := s.yard.Store.Shelf(r.Context(), "", "", 200)
	out := map[string]string{}
	for _, b := range shelf {
		out[strings.ToLower(b.Name)] = b.ID
	}
	return out, err
}

// setFavourite makes a kept recipe the favourite of its coffee, or not.
func (s *Screens) setFavourite(w http.ResponseWriter, r *http.Request) error {
	recipeID, err := page.ID(r)
	if err == nil {
		err = s.yard.Store.SetFavourite(r.Context(), recipeID, chi.URLParam(r, "what") == "favour")
	}
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, "/book#%s", recipeID)
}

// archive archives a kept recipe, or restores it.
func (s *Screens) archive(w http.ResponseWriter, r *http.Request) error {
	recipeID, err := page.ID(r)
	away := chi.URLParam(r, "what") == "archive"
	if err == nil {
		err = s.yard.Store.DiscardDraft(r.Context(), recipeID, away, s.yard.Now())
	}
	switch {
	case err != nil:
		return err
	case away:
		return page.SeeOther(w, r, "/book?archived=%s", recipeID)
	}
	return page.SeeOther(w, r, "/book#%s", recipeID)
}

// openShort redirects a short address to its recipe.
func (s *Screens) openShort(w http.ResponseWriter, r *http.Request) error {
	recipeID, err := s.yard.Store.ByCode(r.Context(), chi.URLParam(r, "code"))
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, "/brews/%s/recipe", recipeID)
}

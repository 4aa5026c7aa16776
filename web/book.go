package web

import (
	"fmt"
	"html/template"
	"net/http"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/figure"
	"yardbloom/web/words"
)

// bookBody is the recipe book.
type bookBody struct {
	Recipes []keptView
	Bags    []store.Thing
	Error   string // what is wrong with a file
	Text    string // that was pasted or read
	Mend    bool   // its sums can be mended
	Bag     string // that was chosen
}

type keptView struct {
	ID, Name, Coffee, What, Code string
	Number                       int
	Favourite                    bool
	Forked                       string
	Flower                       template.HTML
	Versions                     []versionView
	Here                         bool // it was kept just now
}

type versionView struct {
	Number int
	Said   string // what the one after it changed
	Until  string
}

func (s *Server) book(w http.ResponseWriter, r *http.Request) error {
	return s.showBook(w, r, http.StatusOK, bookBody{})
}

func (s *Server) showBook(w http.ResponseWriter, r *http.Request, status int, body bookBody) error {
	kept, err := s.Store.Book(r.Context())
	if err != nil {
		return err
	}
	prefs := prefsOf(r)
	for _, k := range kept {
		g, err := s.Store.Gear(r.Context(), k.Gear.IDs())
		if err != nil {
			return err
		}
		v := keptView{ID: k.ID, Name: k.Name, Coffee: k.Coffee, Code: k.Code, Number: k.Number, Favourite: k.Favourite, Forked: k.Forked, Here: r.URL.Query().Get("kept") == k.ID,
			Flower: figure.Flower(k.Recipe.Dose, k.Recipe.Plan().Steps, 0),
			What:   k.Recipe.Style.Style().Name + " · " + words.Recipe(g.Brewer.Name, g.Grinder.Setting(k.Recipe.Grind), k.Recipe.Dose, k.Recipe.Total(), k.Recipe.Temperature(), prefs)}
		if k.Number > 1 {
			versions, err := s.Store.Versions(r.Context(), k.ID)
			if err != nil {
				return err
			}
			for _, old := range versions {
				v.Versions = append(v.Versions, versionView{old.Number, old.Said, words.Day(old.Until, s.Now())})
			}
		}
		body.Recipes = append(body.Recipes, v)
	}
	shelf, err := s.Store.Shelf(r.Context(), "", "", shelfPage)
	if err != nil {
		return err
	}
	for _, b := range shelf {
		body.Bags = append(body.Bags, store.Thing{ID: b.ID, Name: b.Name})
	}
	p := page{Title: "Recipe book", Side: "book", Line: emptyLine(""), Body: body}
	switch q := r.URL.Query(); {
	case store.ValidID(q.Get("archived")):
		p.Notice = &notice{"The recipe is in the archive.", fmt.Sprintf("/book/%s/restore", q.Get("archived"))}
	case q.Get("added") != "":
		if n, err := strconv.Atoi(q.Get("added")); err == nil && n > 0 {
			p.Notice = &notice{Text: fmt.Sprintf("%d added.", n)}
		}
	}
	s.render(w, r, status, "book", p)
	return nil
}

// shelfByName are the bags on the shelf by their names in small letters.
func (s *Server) shelfByName(r *http.Request) (map[string]string, error) {
	shelf, err := s.Store.Shelf(r.Context(), "", "", 200)
	out := map[string]string{}
	for _, b := range shelf {
		out[strings.ToLower(b.Name)] = b.ID
	}
	return out, err
}

// differences says in words what a recipe changes against another one, such as "2 clicks
// finer, a larger bloom"; empty where it changes nothing.
func differences(before, after brew.Draft, prefs units.Prefs) string {
	var out []string
	if before.Recipe.Style != after.Recipe.Style {
		out = append(out, after.Recipe.Style.Style().Name)
	} else {
		for _, c := range recipe.Changes(before.Recipe, after.Recipe) {
			say, _ := coach.Describe(after.Recipe, after.Gear.Grinder, c, prefs)
			out = append(out, say)
		}
		if a, b := len(before.Recipe.Pours), len(after.Recipe.Pours); a != b && !after.Recipe.Has(recipe.Of(recipe.Pours)) {
			out = append(out, fmt.Sprintf("%d pours instead of %d", b, a))
		}
	}
	for _, g := range []struct{ was, is string }{{before.Gear.Brewer.Name, after.Gear.Brewer.Name}, {before.Gear.Grinder.Name, after.Gear.Grinder.Name}, {before.Gear.Kettle.Name, after.Gear.Kettle.Name}, {before.Gear.Water.Name, after.Gear.Water.Name}} {
		if g.was != g.is && g.is != "" {
			out = append(out, "with "+g.is)
		}
	}
	return strings.Join(out, ", ")
}

// favour makes a kept recipe the favourite of its coffee, or no longer.
func (s *Server) favour(w http.ResponseWriter, r *http.Request) error {
	recipeID, err := id(r)
	if err == nil {
		err = s.Store.SetFavourite(r.Context(), recipeID, chi.URLParam(r, "what") == "favour")
	}
	if err != nil {
		return err
	}
	return seeOther(w, r, "/book#%s", recipeID)
}

// archive puts a kept recipe into the archive, or takes it back.
func (s *Server) archive(w http.ResponseWriter, r *http.Request) error {
	recipeID, err := id(r)
	away := chi.URLParam(r, "what") == "archive"
	if err == nil {
		err = s.Store.DiscardDraft(r.Context(), recipeID, away, s.Now())
	}
	switch {
	case err != nil:
		return err
	case away:
		return seeOther(w, r, "/book?archived=%s", recipeID)
	}
	return seeOther(w, r, "/book#%s", recipeID)
}

// short leads from a short address to its recipe.
func (s *Server) short(w http.ResponseWriter, r *http.Request) error {
	recipeID, err := s.Store.ByCode(r.Context(), chi.URLParam(r, "code"))
	if err != nil {
		return err
	}
	return seeOther(w, r, "/brews/%s/recipe", recipeID)
}

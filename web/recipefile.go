package web

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strings"

	"yardbloom/core/brew"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/exchange"
	"yardbloom/store"
)

// recipeFile hands a recipe out in the open format.
func (s *Server) recipeFile(w http.ResponseWriter, r *http.Request) error {
	sc := sceneOf(r)
	asFile(w, "application/json", "recipe-"+sc.ID+".json")
	doc := exchange.FromSheet(*sc.Sheet, sc.begun())
	if sc.draft != nil && sc.draft.Name != "" {
		doc.Name = sc.draft.Name
	}
	return doc.Write(w)
}

// bookFile hands the whole book out in the open format.
func (s *Server) bookFile(w http.ResponseWriter, r *http.Request) error {
	kept, err := s.Store.Book(r.Context())
	if err != nil {
		return err
	}
	var book exchange.Book
	for _, k := range kept {
		d, _, err := s.Store.Draft(r.Context(), k.ID)
		if err != nil {
			return err
		}
		doc := exchange.FromSheet(d.Sheet, s.Now())
		doc.Name = d.Name
		book.Recipes = append(book.Recipes, doc)
	}
	asFile(w, "application/json", "recipes.json")
	return book.Write(w)
}

func asFile(w http.ResponseWriter, kind, name string) {
	w.Header().Set("Content-Type", kind)
	w.Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="%s"`, name))
}

// addRecipeFile begins a recipe in the making from a file in the open format, on
// the brewer of its kind that the yard has.
func (s *Server) addRecipeFile(w http.ResponseWriter, r *http.Request) error {
	b, err := s.loadBag(r)
	if err != nil {
		return err
	}
	file, _, err := r.FormFile("file")
	if err != nil {
		return s.refuseFile(w, r, b, "Choose a recipe file first.")
	}
	defer file.Close()
	doc, err := exchange.ReadRecipe(file)
	var d brew.Draft
	if err == nil {
		d, err = s.draftOf(r, doc, b.ID)
	}
	if say := refusal(err); say != "" {
		return s.refuseFile(w, r, b, say)
	}
	if err != nil {
		return err
	}
	return s.openDraft(w, r, d)
}

// errNoBrewer is a recipe for a kind of brewer that the yard does not have.
type errNoBrewer struct{ kind string }

func (e errNoBrewer) Error() string {
	return fmt.Sprintf("This recipe is for a brewer of the kind “%s”, and the yard has none. Add one under Gear first.", e.kind)
}

// refusal is the sentence about a file that cannot be used; empty for another error, or none.
func refusal(err error) string {
	var wrong *units.ValueError
	var none errNoBrewer
	switch {
	case errors.As(err, &none):
		return none.Error()
	case errors.Is(err, exchange.ErrNotJSON) && errors.As(err, &wrong) && wrong.Typed != "":
		return fmt.Sprintf("This is not a recipe file. Recipe files are JSON and begin with “{”; this begins with “%s”.", wrong.Typed)
	case errors.As(err, &wrong):
		return "This file cannot be used. " + wrong.Error() + "."
	}
	return ""
}

// draftOf makes a recipe in the making for a bag of a document, with what the yard has
// that is most like its gear.
func (s *Server) draftOf(r *http.Request, doc exchange.Recipe, bagID string) (brew.Draft, error) {
	if err := doc.Served(); err != nil {
		return brew.Draft{}, err
	}
	sheet := doc.Sheet(s.Now())
	kind := sheet.Gear.Brewer.Kind
	g, err := s.gearLike(r, sheet.Gear)
	if err != nil {
		return brew.Draft{}, err
	}
	d := brew.Draft{Sheet: brew.Sheet{ID: store.NewID(), BagID: bagID, Recipe: sheet.Recipe, Gear: g, Created: s.Now()}, Held: brew.StartHeld}
	d.Recipe.Grind = g.Grinder.Snap(d.Recipe.Grind)
	if !d.Recipe.Style.Style().Fits(kind) {
		d.Recipe.Style = recipe.Styles(kind)[0].ID
	}
	return d, nil
}

// gearLike is the gear of this yard that is most like another set: a brewer of its kind, the
// same grinder and kettle where there is one, else those that are used.
func (s *Server) gearLike(r *http.Request, other gear.Set) (gear.Set, error) {
	g, err := s.usualGear(r)
	if err != nil {
		return g, err
	}
	brewers, err := s.Store.Brewers(r.Context())
	if err != nil {
		return g, err
	}
	best := -1
	for _, b := range append([]gear.Brewer{g.Brewer}, brewers...) {
		if like := alike(b.Filter == other.Brewer.Filter, b.Material == other.Brewer.Material, b.Holds == other.Brewer.Holds); b.Kind == other.Brewer.Kind && like > best {
			g.Brewer, best = b, like
		}
	}
	if best < 0 {
		return g, errNoBrewer{other.Brewer.Kind.Form().Name}
	}
	grinders, err := s.Store.Grinders(r.Context())
	if err != nil {
		return g, err
	}
	for _, m := range grinders {
		if m.Dial == other.Grinder.Dial && m.Burrs == other.Grinder.Burrs {
			g.Grinder = m
		}
	}
	kettles, err := s.Store.Kettles(r.Context())
	for _, k := range kettles {
		if k.Thermostat == other.Kettle.Thermostat && k.Capacity == other.Kettle.Capacity {
			g.Kettle = k
		}
	}
	return g, err
}

// alike counts what two things have in common.
func alike(same ...bool) (n int) {
	for _, s := range same {
		if s {
			n++
		}
	}
	return n
}

// refuseFile shows the bag again with what is wrong with a file.
func (s *Server) refuseFile(w http.ResponseWriter, r *http.Request, b store.Shelved, sentence string) error {
	f := fillBag(b.Bag.Bag, prefsOf(r))
	f.Errors["file"] = sentence
	return s.showBag(w, r, http.StatusUnprocessableEntity, f, b, "")
}

// importBook puts recipes from a file, or from pasted text, into the book: each with the
// coffee of its name where that is on the shelf, else with the one that was chosen.
func (s *Server) importBook(w http.ResponseWriter, r *http.Request) error {
	text := r.FormValue("text")
	if file, _, err := r.FormFile("file"); err == nil {
		defer file.Close()
		b, err := io.ReadAll(file)
		if err != nil {
			return err
		}
		text = string(b)
	}
	if strings.TrimSpace(text) == "" {
		return s.showBook(w, r, http.StatusUnprocessableEntity, bookBody{Error: "Choose a file, or paste a recipe."})
	}
	if r.FormValue("mend") != "" {
		text = string(exchange.Mend([]byte(text)))
	}
	docs, err := exchange.ReadAny(bytes.NewReader([]byte(text)))
	if say := refusal(err); say != "" {
		return s.showBook(w, r, http.StatusUnprocessableEntity, bookBody{Error: say, Text: text, Mend: errors.Is(err, exchange.ErrTotal), Bag: r.FormValue("bag")})
	}
	if err != nil {
		return err
	}
	bags, err := s.shelfByName(r)
	if err != nil {
		return err
	}
	added := 0
	for i, doc := range docs {
		bagID := cmp.Or(bags[strings.ToLower(doc.Coffee.Name)], r.FormValue("bag"))
		if !store.ValidID(bagID) {
			return s.showBook(w, r, http.StatusUnprocessableEntity, bookBody{Error: "Choose which coffee the recipe is for.", Text: text})
		}
		d, err := s.draftOf(r, doc, bagID)
		if say := refusal(err); say != "" {
			return s.showBook(w, r, http.StatusUnprocessableEntity, bookBody{Error: fmt.Sprintf("Recipe %d of %d: %s %d were added.", i+1, len(docs), say, added), Text: text, Bag: bagID})
		}
		if err != nil {
			return err
		}
		d.Name = units.Shorten(cmp.Or(strings.TrimSpace(doc.Name), "From a file"))
		if err := s.keepAs(r, d); err != nil {
			return err
		}
		added++
	}
	return seeOther(w, r, "/book?added=%d", added)
}

// keepAs puts a recipe into the book under its name, or, where that is taken by another
// recipe of the same coffee, under the name with a number.
func (s *Server) keepAs(r *http.Request, d brew.Draft) error {
	kept, err := s.Store.Book(r.Context())
	if err != nil {
		return err
	}
	taken := map[string]brew.Draft{}
	for _, k := range kept {
		if k.BagID == d.BagID {
			taken[k.Name] = k.Draft
		}
	}
	name := d.Name
	for n := 2; ; n++ {
		other, there := taken[d.Name]
		if !there {
			break
		}
		if len(recipe.Changes(other.Recipe, d.Recipe)) == 0 && other.Recipe.Style == d.Recipe.Style {
			return nil // it is in the book already
		}
		d.Name = fmt.Sprintf("%s (%d)", name, n)
	}
	_, err = s.Store.KeepRecipe(r.Context(), d, s.Now(), func(before, after brew.Draft) string { return differences(before, after, prefsOf(r)) })
	return err
}

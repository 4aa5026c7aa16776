package web

import (
	"errors"
	"html/template"
	"net/http"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/store"
	"yardbloom/web/figure"
	"yardbloom/web/form"
	"yardbloom/web/words"
)

// recipeView is a recipe of a bag, in the making or kept.
type recipeView struct {
	ID, Name, What string
	Flower         template.HTML
	Asked          string // the change that it makes
	Kept           bool
}

// recipeViews lists recipes with the gear they name.
func (s *Server) recipeViews(r *http.Request, drafts []brew.Draft) ([]recipeView, error) {
	prefs := prefsOf(r)
	var out []recipeView
	for _, d := range drafts {
		g, err := s.Store.Gear(r.Context(), d.Gear.IDs())
		if err != nil {
			return nil, err
		}
		v := recipeView{ID: d.ID, Name: d.Name, Kept: d.Name != "", Flower: figure.Flower(d.Recipe.Dose, d.Recipe.Plan().Steps, 0), What: words.Recipe(g.Brewer.Name, g.Grinder.Setting(d.Recipe.Grind), d.Recipe.Dose, d.Recipe.Total(), d.Recipe.Temperature(), prefs)}
		if v.Name == "" {
			v.Name = "In the making since " + words.Moment(d.Created, s.Now())
		}
		if d.Asked != nil {
			v.Asked, _ = coach.Describe(d.Recipe, g.Grinder, d.Asked.Change, prefs)
		}
		out = append(out, v)
	}
	return out, nil
}

// goOn opens the recipe in the making of a bag that was touched last, or begins one:
// as the last brew of the bag was or, for a coffee never brewed here, as the product
// would start.
func (s *Server) goOn(w http.ResponseWriter, r *http.Request) error {
	b, err := s.loadBag(r)
	if err != nil {
		return err
	}
	if b.Draft != "" {
		return seeOther(w, r, "/brews/%s/recipe", b.Draft)
	}
	favourite, err := s.Store.Favourite(r.Context(), b.ID)
	if err == nil {
		d, _, err := s.Store.Draft(r.Context(), favourite)
		if err != nil {
			return err
		}
		return s.openDraft(w, r, d.Copy(store.NewID(), s.Now()))
	}
	if !errors.Is(err, store.ErrNotFound) {
		return err
	}
	last, err := s.Store.LastBrew(r.Context(), b.ID)
	switch {
	case errors.Is(err, store.ErrNotFound):
		g, err := s.usualGear(r)
		if err != nil {
			return err
		}
		return s.openDraft(w, r, brew.First(store.NewID(), b.Bag.Bag, g, s.teacher.Believe(brew.Sheet{BagID: b.ID, Gear: g}), settingsOf(r).Habits(), s.Now()))
	case err != nil:
		return err
	}
	return s.openDraft(w, r, last.Next(store.NewID(), nil, s.Now()))
}

// openDraft keeps a new recipe in the making and leads to it, or to one just like it.
func (s *Server) openDraft(w http.ResponseWriter, r *http.Request, d brew.Draft) error {
	_, err := s.Store.Gear(r.Context(), d.Gear.IDs())
	if errors.Is(err, store.ErrNotFound) { // gear that this yard does not have
		d.Gear, err = s.usualGear(r)
	}
	if err == nil {
		d.ID, err = s.Store.OpenDraft(r.Context(), d, s.Now())
	}
	if err != nil {
		return err
	}
	return seeOther(w, r, "/brews/%s/recipe", d.ID)
}

// keepRecipe keeps the recipe as it stands under a name, to be brewed from again.
func (s *Server) keepRecipe(w http.ResponseWriter, r *http.Request) error {
	sc := sceneOf(r)
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	name := f.Text("name", "The name", 60, true)
	if !f.OK() {
		return s.showKeep(w, r, sc, f)
	}
	if sc.draft != nil && !sc.draft.Ready() {
		return brew.ErrUnfinished
	}
	var d brew.Draft
	if sc.draft != nil {
		d = sc.draft.Copy(store.NewID(), s.Now())
	} else {
		d = sc.brew.Next(store.NewID(), nil, s.Now())
	}
	d.Parent, d.Asked, d.Name = "", nil, name
	if d.Forked == name {
		d.Forked = ""
	}
	kept, err := s.Store.KeepRecipe(r.Context(), d, s.Now(), func(before, after brew.Draft) string { return differences(before, after, sc.prefs) })
	if err != nil {
		return err
	}
	return seeOther(w, r, "/book?kept=%s#%s", kept, kept)
}

// showKeep shows the recipe again with what is wrong with the name.
func (s *Server) showKeep(w http.ResponseWriter, r *http.Request, sc *scene, f *form.Form) error {
	shown := fillRecipe(sc)
	shown.Values["name"], shown.Errors["name"] = f.Values["name"], f.Errors["name"]
	return s.showRecipe(w, r, http.StatusUnprocessableEntity, shown, sc, "")
}

// copyRecipe begins a recipe in the making as a kept one stands.
func (s *Server) copyRecipe(w http.ResponseWriter, r *http.Request) error {
	sc := sceneOf(r)
	if sc.draft == nil {
		return brew.ErrStatus
	}
	if err := sc.onLine(); err != nil {
		return err
	}
	return s.openDraft(w, r, sc.draft.Copy(store.NewID(), s.Now()))
}

// discardRecipe puts a recipe aside. It can be taken back.
func (s *Server) discardRecipe(w http.ResponseWriter, r *http.Request) error {
	sc := sceneOf(r)
	if sc.draft == nil {
		return brew.ErrStatus
	}
	if err := s.Store.DiscardDraft(r.Context(), sc.ID, true, s.Now()); err != nil {
		return err
	}
	return seeOther(w, r, "/bags/%s?discarded=%s", sc.BagID, sc.ID)
}

// takeBack takes a recipe back that was put aside.
func (s *Server) takeBack(w http.ResponseWriter, r *http.Request) error {
	recipeID, err := id(r)
	if err == nil {
		err = s.Store.DiscardDraft(r.Context(), recipeID, false, s.Now())
	}
	if err != nil {
		return err
	}
	return seeOther(w, r, "/brews/%s/recipe", recipeID)
}

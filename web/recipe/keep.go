package recipe

import (
	"net/http"

	"yardbloom/core/brew"
	"yardbloom/store"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/station"
	"yardbloom/web/words"
)

// keepRecipe stores the recipe under a name in the book.
func (s *Screens) keepRecipe(w http.ResponseWriter, r *http.Request) error {
	sc := station.Of(r)
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	name := f.Text("name", "The name", 60, true)
	if !f.OK() {
		return s.showKeep(w, r, sc, f)
	}
	if sc.Draft != nil && !sc.Draft.Ready() {
		return brew.ErrUnfinished
	}
	var d brew.Draft
	if sc.Draft != nil {
		d = sc.Draft.Copy(store.NewID(), s.yard.Now())
	} else {
		d = sc.Brew.Next(store.NewID(), nil, s.yard.Now())
	}
	d.Parent, d.Advised, d.Name, d.By = "", nil, name, page.PersonID(r)
	if d.Forked == name {
		d.Forked = ""
	}
	kept, err := s.yard.Store.KeepRecipe(r.Context(), d, s.yard.Now(),
		func(before, after brew.Draft) string { return words.Differences(before, after, sc.Prefs) })
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, "/book?kept=%s#%s", kept, kept)
}

// showKeep shows the recipe with the error of the name.
func (s *Screens) showKeep(w http.ResponseWriter, r *http.Request, sc *station.Scene, f *form.Form) error {
	shown := fillRecipe(sc)
	shown.Values["name"], shown.Errors["name"] = f.Values["name"], f.Errors["name"]
	return s.showRecipe(w, r, http.StatusUnprocessableEntity, shown, sc, "")
}

// copyRecipe opens a draft from a kept recipe.
func (s *Screens) copyRecipe(w http.ResponseWriter, r *http.Request) error {
	sc := station.Of(r)
	if sc.Draft == nil {
		return brew.ErrStatus
	}
	if err := sc.BagGone(); err != nil {
		return err
	}
	return station.OpenDraft(s.yard, w, r, sc.Draft.Copy(store.NewID(), s.yard.Now()))
}

// discardRecipe archives a draft.
func (s *Screens) discardRecipe(w http.ResponseWriter, r *http.Request) error {
	sc := station.Of(r)
	if sc.Draft == nil {
		return brew.ErrStatus
	}
	if err := s.yard.Store.DiscardDraft(r.Context(), sc.ID, true, s.yard.Now()); err != nil {
		return err
	}
	return page.SeeOther(w, r, "/bags/%s?discarded=%s", sc.BagID, sc.ID)
}

// restoreDraft restores an archived draft.
func (s *Screens) restoreDraft(w http.ResponseWriter, r *http.Request) error {
	recipeID, err := page.ID(r)
	if err == nil {
		err = s.yard.Store.DiscardDraft(r.Context(), recipeID, false, s.yard.Now())
	}
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, "/brews/%s/recipe", recipeID)
}

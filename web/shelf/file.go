package shelf

import (
	"net/http"

	"yardbloom/core/brew"
	"yardbloom/exchange"
	"yardbloom/store"
	"yardbloom/web/page"
	"yardbloom/web/station"
	"yardbloom/web/words"
)

// addRecipeFile creates a draft from a file in the open format, with the most similar gear of the yard.
func (s *Screens) addRecipeFile(w http.ResponseWriter, r *http.Request) error {
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
		d, err = s.yard.DraftOf(r.Context(), doc, b.ID, page.Settings(r))
	}
	if say := words.RefusedFile(err); say != "" {
		return s.refuseFile(w, r, b, say)
	}
	if err != nil {
		return err
	}
	return station.OpenDraft(s.yard, w, r, d)
}

// refuseFile shows the bag with the error of a file.
func (s *Screens) refuseFile(w http.ResponseWriter, r *http.Request, b store.Shelved, sentence string) error {
	f := fillBag(b.Bag.Bag, page.Prefs(r))
	f.Errors["file"] = sentence
	return s.showBag(w, r, http.StatusUnprocessableEntity, f, b, "")
}

package recipe

import (
	"net/http"

	"yardbloom/web/page"
	"yardbloom/web/station"
)

// recipeFile serves a recipe in the open format.
func (s *Screens) recipeFile(w http.ResponseWriter, r *http.Request) error {
	sc := station.Of(r)
	page.Attach(w, "application/json", "recipe-"+sc.ID+".json")
	return documentOf(sc).Write(w)
}

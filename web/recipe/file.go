package recipe

import (
	"net/http"

	"yardbloom/exchange"
	"yardbloom/web/page"
	"yardbloom/web/station"
)

// recipeFile serves a recipe in the open format.
func (s *Screens) recipeFile(w http.ResponseWriter, r *http.Request) error {
	sc := station.Of(r)
	page.Attach(w, "application/json", "recipe-"+sc.ID+".json")
	doc := exchange.FromSheet(*sc.Sheet, sc.AgedAt())
	if sc.Draft != nil && sc.Draft.Name != "" {
		doc.Name = sc.Draft.Name
	}
	return doc.Write(w)
}

// Package recipe serves the Recipe station, with the model's predictions, and recipe cards.
package recipe

import (
	"embed"

	"yardbloom/web/page"
	"yardbloom/yard"
)

//go:embed *.html
var files embed.FS

// Screens serves the pages and forms of this package.
type Screens struct {
	*page.Views
	yard    *yard.Yard
	proxied bool // a proxy in front may add TLS
}

// New returns the screens of a yard. proxied is true if a proxy in front may add TLS.
func New(site *page.Site, y *yard.Yard, proxied bool) *Screens {
	return &Screens{site.Views(files), y, proxied}
}

// Routes registers the screens.
func (s *Screens) Routes(r page.Router) {
	r.Form("/recipes/{id}/restore", s.restoreDraft)
}

// BrewRoutes registers the screens of one brew, under /brews/{id}.
func (s *Screens) BrewRoutes(r page.Router) {
	r.Page("/recipe", s.recipe)
	r.Form("/recipe", s.saveRecipe)
	r.Page("/text", s.recipeText)
	r.Form("/text", s.readText)
	r.Page("/record", s.recordPage)
	r.Form("/record", s.record)
	r.Page("/recipe.json", s.recipeFile)
	r.Page("/card", s.card)
	r.Page("/share", s.share)
	r.Page("/card.html", s.cardFile)
	r.Form("/solve", s.solve)
	r.Form("/scale", s.scale)
	r.Form("/view", s.setView)
	r.Form("/keep", s.keepRecipe)
	r.Form("/copy", s.copyRecipe)
	r.Form("/discard", s.discardRecipe)
}

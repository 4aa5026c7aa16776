// Package shelf serves the Coffee station: the shelf, a bag, and the wish for a cup.
package shelf

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
	yard *yard.Yard
}

// New returns the screens of a yard.
func New(site *page.Site, y *yard.Yard) *Screens { return &Screens{site.Views(files), y} }

// Routes registers the screens.
func (s *Screens) Routes(r page.Router) {
	r.Page("/", s.shelf)
	r.Page("/bags/new", s.newBag)
	r.Form("/bags", s.addBag)
	r.Page("/bags/{id}", s.bag)
	r.Form("/bags/{id}", s.saveBag)
	r.Form("/bags/{id}/delete", s.deleteBag)
	r.Form("/bags/{id}/restore", s.restoreBag)
	r.Form("/bags/{id}/count", s.countBag)
	r.Form("/bags/{id}/freeze", s.freezePortion)
	r.Form("/bags/{id}/thaw", s.thawBag)
	r.Page("/bags/{id}/wish", s.wish)
	r.Form("/bags/{id}/wish", s.draftFromWish)
	r.Form("/bags/{id}/brew", s.openDraft)
	r.Form("/bags/{id}/recipes", s.addRecipeFile)
}

// Package trial serves trials: one thing changed in several brews.
package trial

import (
	"embed"

	"yardbloom/store"
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
	r.Page("/trials", s.trials)
	r.Form("/trials", s.addTrial)
	r.Page("/trials/{id}", s.trial)
	r.Form("/trials/{id}/found", s.setResult)
	r.Form("/trials/{id}/brew", s.brewTrial)
	r.Form("/trials/{id}/end", s.endTrial)
	r.Form("/trials/{id}/delete", page.Remove(s.yard.Store, s.yard.Now, store.Trials, "/trials"))
}

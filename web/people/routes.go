// Package people serves the people of a yard: who is here, their names, and what belongs to whom.
package people

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
	r.Page("/people", s.people)
	r.Form("/people", s.add)
	r.Form("/people/here", s.here)
	r.Form("/people/sound", s.sound)
	r.Page("/people/{id}", s.person)
	r.Form("/people/{id}", s.change)
	r.Form("/people/{id}/{action:archive|restore}", s.archive)
	r.Form("/people/{id}/assign", s.assign)
	r.Page("/people/{id}/remove", s.confirmRemoval)
	r.Form("/people/{id}/remove", s.remove)
	r.Page("/people/{id}/file", s.export)
}

// BrewRoutes registers the forms of one brew, under /brews/{id}.
func (s *Screens) BrewRoutes(r page.Router) {
	r.Form("/people", s.nameBrew)
}

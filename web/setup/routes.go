// Package setup serves the Set-up station: what to do before the first water.
package setup

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

// BrewRoutes registers the screens of one brew, under /brews/{id}.
func (s *Screens) BrewRoutes(r page.Router) {
	r.Page("/setup", s.setup)
	r.Form("/setup", s.saveSetup)
	r.Form("/gave", s.setGroundDose)
	r.Form("/heat", s.heat)
	r.Form("/arm", s.arm)
}

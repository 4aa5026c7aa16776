// Package gear serves the gear of the yard: brewers, grinders, kettles, waters and devices.
package gear

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
	r.Page("/gear", s.gear)
	r.Page("/gear/{kind}/{id}", s.gearForm)
	r.Form("/gear/{kind}/{id}", s.saveGear)
	r.Form("/gear/{kind}/{id}/{what:retire|restore}", s.retireGear)
	r.Form("/gear/grinders/{id}/zero", s.zeroGrinder)
	r.Page("/water", s.mixWater)
}

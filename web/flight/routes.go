// Package flight serves flights: cups side by side, blind or not.
package flight

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
	r.Page("/side", s.side)
	r.Form("/side", s.addFlight)
	r.Page("/side/{id}", s.flight)
	r.Page("/side/{id}/pourer", s.pourer)
	r.Form("/side/{id}/taste", s.tasteFlight)
	r.Form("/side/{id}/delete", page.Remove(s.yard.Store, s.yard.Now, store.Flights, "/side"))
	r.Form("/side/{id}/{step:round|pick|reveal}", s.stepFlight)
}

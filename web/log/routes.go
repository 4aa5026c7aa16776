// Package log serves the log: the list of brews and the record of one.
package log

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
	r.Page("/log", s.log)
	r.Page("/yard", s.yardPage)
	r.Page("/yard/day", s.day)
	r.Page("/log/compare", s.compare)
	r.Page("/log.csv", s.brewsFile)
	r.Page("/log/readings.csv", s.readingsFile)
	r.Form("/log/filters", s.saveFilter)
	r.Form("/log/filters/drop", s.dropFilter)
	r.Form("/removed/{id}/restore", s.restore)
	r.Page("/photos/{id}", s.photoFile(false))
	r.Page("/photos/{id}/small", s.photoFile(true))
	r.Form("/photos/{id}/{what:remove|restore}", s.removePhoto)
}

// BrewRoutes registers the screens of one brew, under /brews/{id}.
func (s *Screens) BrewRoutes(r page.Router) {
	r.Page("/", s.report)
	r.Page("/trace.csv", s.traceFile)
	r.Form("/delete", s.remove)
	r.Page("/photos", s.photos)
	r.Form("/photos", s.addPhoto)
}

// Package data serves the pages for export and import.
package data

import (
	"embed"

	"yardbloom/web/page"
	"yardbloom/yard"
)

//go:embed *.html
var files embed.FS

// MaxBytes limits uploaded files. Larger ones can be imported on the command line.
const MaxBytes = 512 << 20

// Screens serves the pages and forms of this package.
type Screens struct {
	*page.Views
	yard   *yard.Yard
	tables tables
}

// New returns the screens of a yard.
func New(site *page.Site, y *yard.Yard) *Screens { return &Screens{Views: site.Views(files), yard: y} }

// Routes registers the screens.
func (s *Screens) Routes(r page.Router) {
	r.Page("/data", s.data)
	r.Form("/data", s.read)
	r.Page("/data/yard.zip", s.yardFile)
	r.Page("/data/records/{kind}/{id}", s.record)
	r.Page("/data/table/{id}", s.table)
	r.Form("/data/table/{id}", s.readTable)
	r.Form("/data/table/{id}/drop", s.dropTable)
	r.Page("/data/import", s.waiting)
	r.Form("/data/import/{id}/apply", s.apply)
	r.Form("/data/import/{id}/drop", s.drop)
	r.Page("/data/imports/{n:[0-9]+}", s.past)
}

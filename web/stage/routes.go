// Package stage serves the stage: a presentation, written, rehearsed and given.
package stage

import (
	"embed"

	"yardbloom/store"
	"yardbloom/web/page"
	"yardbloom/web/stream"
	"yardbloom/yard"
)

//go:embed *.html
var files embed.FS

// Screens serves the pages and forms of this package.
type Screens struct {
	*page.Views
	yard    *yard.Yard
	streams *stream.Server
}

// New returns the screens of a yard.
func New(site *page.Site, y *yard.Yard, streams *stream.Server) *Screens {
	return &Screens{site.Views(files), y, streams}
}

// Routes registers the screens.
func (s *Screens) Routes(r page.Router) {
	r.Page("/stage", s.stages)
	r.Form("/stage", s.addScript)
	r.Page("/stage/{id}", s.script)
	r.Form("/stage/{id}", s.saveScript)
	r.Page("/stage/{id}/show", s.show)
	r.Page("/stage/{id}/prompt", s.show)
	r.Page("/stage/{id}/live", s.stream)
	r.Form("/stage/{id}/{step:begin|said|end}", s.showStep)
	r.Form("/stage/{id}/{action:archive|restore}", page.Archive(s.yard.Store, s.yard.Now, store.Scripts, "/stage"))
	r.Form("/stage/{id}/delete", page.Remove(s.yard.Store, s.yard.Now, store.Scripts, "/stage"))
}

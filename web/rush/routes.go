// Package rush serves the rush: several brews by one pair of hands.
package rush

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
	r.Page("/rush", s.rushes)
	r.Form("/rush", s.addRush)
	r.Page("/rush/{id}", s.rush)
	r.Page("/rush/{id}/live", s.stream)
	r.Form("/rush/{id}/start", s.startRush)
	r.Form("/rush/{id}/go/{n}", s.goRush)
	r.Form("/rush/{id}/undo/{n}", s.undoGo)
	r.Form("/rush/{id}/end", s.endRush)
	r.Form("/rush/{id}/resume", s.resumeRush)
	r.Form("/rush/{id}/filled", s.fillRush)
	r.Form("/rush/{id}/more", s.moreRush)
	r.Form("/rush/{id}/{action:archive|restore}", page.Archive(s.yard.Store, s.yard.Now, store.Rushes, "/rush"))
}

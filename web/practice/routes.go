// Package practice serves practice: pouring lessons and their scores.
package practice

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
	r.Page("/practice", s.practice)
	r.Form("/practice/tries/{id}/{action:archive|restore}", page.Archive(s.yard.Store, s.yard.Now, store.Tries, "/practice"))
	r.Page("/practice/{lesson}", s.lesson)
	r.Form("/practice/{lesson}", s.keepTry)
	r.Page("/practice/{lesson}/live", s.stream)
}

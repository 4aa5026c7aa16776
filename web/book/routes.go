// Package book serves the recipe book.
package book

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
	r.Page("/book", s.book)
	r.Form("/book", s.importBook)
	r.Page("/book.json", s.bookFile)
	r.Form("/book/{id}/{what:favour|unfavour}", s.setFavourite)
	r.Form("/book/{id}/{what:archive|restore}", s.archive)
	r.Page("/r/{code}", s.openShort)
}

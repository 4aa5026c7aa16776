// Package first serves the first run: five questions that end in a first recipe.
package first

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
	r.Page("/first", s.begin)
	for _, q := range questions {
		r.Page("/first/"+q.id, s.show)
	}
	r.Form("/first", s.finish)
	r.Form("/first/skip", s.skip)
}

// Package learned serves the yard's knowledge: predictions compared with measured brews.
package learned

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
	r.Page("/learned", s.learned)
	r.Form("/learned/{id}/{what:out|in}", s.setExcluded)
}

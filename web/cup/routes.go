// Package cup serves the Cup station, for measuring and tasting.
package cup

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

// BrewRoutes registers the screens of one brew, under /brews/{id}.
func (s *Screens) BrewRoutes(r page.Router) {
	r.Page("/cup", s.cup)
	r.Form("/cup", s.saveCup)
	r.Page("/flavours", s.flavours)
}

// Package brew serves the Brew station, where a brew is poured live.
package brew

import (
	"embed"

	"yardbloom/web/page"
	"yardbloom/web/stream"
	"yardbloom/yard"
)

//go:embed *.html
var files embed.FS

// Screens serves the pages and forms of this package.
type Screens struct {
	*page.Views
	yard        *yard.Yard
	streams     *stream.Server
	predictions predictions
}

// New returns the screens of a yard.
func New(site *page.Site, y *yard.Yard, streams *stream.Server) *Screens {
	return &Screens{Views: site.Views(files), yard: y, streams: streams}
}

// Routes registers the first water of a brew, whose draft may be archived.
func (s *Screens) Routes(r page.Router) { r.Form("/brews/{id}/start", s.start) }

// BrewRoutes registers the screens of one brew, under /brews/{id}.
func (s *Screens) BrewRoutes(r page.Router) {
	r.Page("/brew", s.pour)
	r.Page("/ready", s.readyCopy)
	r.Form("/begin", s.begin)
	r.Form("/tap", s.tap)
	r.Page("/live", s.stream)
	r.Form("/weigh", s.weigh)
	r.Form("/watch", s.simulate)
	r.Form("/undo", s.undoEnd)
	r.Form("/starts", s.settle)
	r.Form("/abandon", s.abandon)
	r.Form("/resume", s.resume)
}

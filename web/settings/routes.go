// Package settings serves the settings of the yard: units, habits and theme.
package settings

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
	r.Page("/settings", s.settings)
	r.Form("/settings", s.saveSettings)
	r.Page("/schools", s.schools)
	r.Form("/schools", s.saveHabits)
	r.Page("/schools/compare", s.compare)
	r.Form("/theme", s.theme)
	r.Page("/settings/programs", s.programs)
	r.Form("/settings/programs", s.addProgram)
	r.Form("/settings/programs/{id}/revoke", s.revokeProgram)
	r.Form("/settings/backup", s.backUp)
	r.Form("/settings/folder", s.setSecondFolder)
	r.Page("/settings/backup.db", s.downloadBackup)
}

package web

import (
	"net/http"
	"slices"

	"yardbloom/core/brew"
	"yardbloom/core/setup"
	"yardbloom/web/form"
)

type setupBody struct {
	ID       string
	Locked   bool
	Items    []itemView
	Left     int
	Cautions []string
	Blocked  bool // the recipe has something that cannot be brewed
}

type itemView struct {
	setup.Item
	Done bool
}

// setup is the Set-up station: what to do before the first water, with the cautions.
func (s *Server) setup(w http.ResponseWriter, r *http.Request) error {
	sc := sceneOf(r)
	if err := sc.onLine(); err != nil {
		return err
	}
	if sc.draft != nil && !sc.editable() {
		return seeOther(w, r, "/brews/%s/recipe", sc.ID)
	}
	s.showSetup(w, r, sc)
	return nil
}

func (s *Server) showSetup(w http.ResponseWriter, r *http.Request, sc *scene) {
	body := setupBody{ID: sc.ID, Locked: !sc.editable(), Cautions: setup.Cautions(sc.Recipe, sc.Gear), Blocked: sc.draft != nil && !sc.draft.Ready()}
	for _, it := range setup.Checklist(sc.Recipe, sc.Gear, sc.prefs) {
		done := body.Locked || slices.Contains(sc.draft.Checked, it.ID)
		body.Items = append(body.Items, itemView{it, done})
		if !done {
			body.Left++
		}
	}
	s.render(w, r, http.StatusOK, "setup", page{Title: "Set-up for " + sc.Bag.Name, Station: "Set-up", Line: lineOf(sc, "Set-up"), Body: body})
}

// saveSetup keeps which items are ticked.
func (s *Server) saveSetup(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	if _, shown := f.Values["list"]; !shown { // without its list, no tick would mean that all are cleared
		return form.ErrMalformed
	}
	sc, err := s.changeDraft(r, func(d *brew.Draft) error {
		d.Checked = nil
		for _, it := range setup.Checklist(d.Recipe, d.Gear, prefsOf(r)) {
			if slices.Contains(f.All["done"], it.ID) {
				d.Checked = append(d.Checked, it.ID)
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	if isPartial(r) {
		s.showSetup(w, r, sc)
		return nil
	}
	return seeOther(w, r, "/brews/%s/setup", sc.ID)
}

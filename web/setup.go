package web

import (
	"net/http"
	"slices"

	"yardbloom/core/brew"
	"yardbloom/core/setup"
	"yardbloom/core/units"
	"yardbloom/store"
)

type setupBody struct {
	ID       int64
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
	b, _, prefs, err := s.loadOnLine(r)
	if err != nil {
		return err
	}
	body := setupBody{ID: b.ID, Locked: !b.Editable(), Cautions: setup.Cautions(b.Recipe, b.Gear), Blocked: len(b.Draft.Typed) > 0}
	for _, it := range setup.Checklist(b.Recipe, b.Gear, prefs) {
		done := body.Locked || slices.Contains(b.Checked, it.ID)
		body.Items = append(body.Items, itemView{it, done})
		if !done {
			body.Left++
		}
	}
	s.render(w, r, http.StatusOK, "setup", page{Title: "Set-up for " + b.Bag.Name, Station: "Set-up", Line: lineOf(b, prefs, "Set-up"), Body: body})
	return nil
}

// saveSetup keeps which items are ticked.
func (s *Server) saveSetup(w http.ResponseWriter, r *http.Request) error {
	brewID, err := id(r)
	if err != nil {
		return err
	}
	f, err := readForm(r)
	if err != nil {
		return err
	}
	_, err = s.Store.ChangeBrew(r.Context(), brewID, func(b *brew.Brew) error {
		if !b.Editable() {
			return store.ErrStatus
		}
		b.Checked = nil
		for _, it := range setup.Checklist(b.Recipe, b.Gear, units.Prefs{}) {
			if slices.Contains(f.multi["done"], it.ID) {
				b.Checked = append(b.Checked, it.ID)
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	if isPartial(r) {
		return s.setup(w, r)
	}
	return seeOther(w, r, "/brews/%d/setup", brewID)
}

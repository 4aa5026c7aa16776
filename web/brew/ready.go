package brew

import (
	"cmp"
	"crypto/rand"
	"errors"
	"net/http"
	"time"

	"yardbloom/core/brew"
	"yardbloom/store"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/station"
)

// copied returns a new draft with the recipe of a scene.
func copied(sc *station.Scene, id string, at time.Time) brew.Draft {
	if sc.Brew != nil {
		return sc.Brew.Next(id, nil, at)
	}
	return sc.Draft.Copy(id, at)
}

// readyCopy serves the Brew station for a copy of a recipe that is not stored yet. A device keeps the page, so that the recipe can be brewed while
// the server is away.
func (s *Screens) readyCopy(w http.ResponseWriter, r *http.Request) error {
	sc := *station.Of(r)
	d := copied(&sc, sc.ID, sc.Now)
	s.yard.CompleteSheet(&d.Sheet, page.Settings(r))
	sc.Brew, sc.Draft, sc.Sheet = nil, &d, &d.Sheet
	body := s.pourBody(r, &sc)
	body.From, body.Watch, body.Scale = sc.ID, false, scaleView{}
	s.Render(w, r, http.StatusOK, "pour", page.Page{Title: "Brewing " + sc.Bag.Name, Station: "Brew", Line: page.Line("Brew"), Wide: true, Body: body})
	return nil
}

// begin starts a brew of a copy of the recipe. The device chose the id of the copy, so that a repeated request makes one brew. The recipe may
// have been archived and its bag removed meanwhile: the brew happened.
func (s *Screens) begin(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil && !errors.Is(err, form.ErrMalformed) {
		return err
	}
	if err != nil {
		f = form.New() // a button without a script
	}
	id, key := cmp.Or(f.Text("new", "The id", 64, false), store.NewID()), cmp.Or(f.Text("key", "The key", 64, false), rand.Text())
	ago, err := agoOf(f.Values["ago"])
	if err != nil {
		return err
	}
	if !f.OK() || !store.ValidID(id) {
		return form.ErrMalformed
	}
	at := s.yard.Now().Add(-ago)
	d := copied(station.Of(r), id, at)
	d.By = form.By(f, page.PersonID(r))
	if _, err := s.yard.StartCopy(r.Context(), d, key, at); err != nil {
		return err
	}
	return s.showBegun(w, r, id)
}

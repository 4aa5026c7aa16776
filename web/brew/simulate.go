package brew

import (
	"net/http"

	"yardbloom/core/brew"
	"yardbloom/core/units"
	"yardbloom/device"
	"yardbloom/store"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/station"
)

// speeds are the possible speeds of a simulated pour, relative to real time.
var speeds = units.Range{Lo: 1, Hi: 60}

// simulate lets a simulated hand pour a draft over a simulated scale, in the demo yard only.
func (s *Screens) simulate(w http.ResponseWriter, r *http.Request) error {
	sc := station.Of(r)
	if !s.yard.Demo {
		return store.ErrNotFound
	}
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	speed := f.Quantity("speed", "The speed", units.Unit{Scale: 1}, speeds, false)
	if !f.OK() {
		return page.Problem{Status: http.StatusUnprocessableEntity, Title: "Invalid speed", Text: f.Errors["speed"]}
	}
	manner, ok := device.Manners[f.Values["manner"]]
	if !ok {
		manner = device.Usual
	}
	if sc.Draft == nil {
		return brew.ErrStatus
	}
	if err := s.yard.Simulate(r.Context(), *sc.Draft, manner, max(1, speed)); err != nil {
		return err
	}
	return page.SeeOther(w, r, "/brews/%s/brew", sc.ID)
}

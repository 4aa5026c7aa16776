package log

import (
	"errors"
	"net/http"

	"github.com/go-chi/chi/v5"

	"yardbloom/store"
	"yardbloom/web/page"
	"yardbloom/web/station"
)

// lists holds the page to which a restored record belongs.
var lists = map[store.Kind]string{store.Flights: "/side", store.Trials: "/trials", store.Scripts: "/stage"}

// remove deletes a brew.
func (s *Screens) remove(w http.ResponseWriter, r *http.Request) error {
	id := station.Of(r).ID
	err := s.yard.Store.Remove(r.Context(), store.Brews, id, page.PersonID(r), s.yard.Now())
	if errors.Is(err, store.ErrRunning) {
		return page.Problem{Status: http.StatusConflict, Title: "It is being poured", Text: "Stop the brew first; then it can be deleted."}
	}
	if err != nil {
		return err
	}
	s.yard.Learn()
	return page.SeeOther(w, r, "/log?removed=%s", id)
}

// restore brings a deleted record back.
func (s *Screens) restore(w http.ResponseWriter, r *http.Request) error {
	id := chi.URLParam(r, "id")
	kind, err := s.yard.Store.Restore(r.Context(), id)
	if errors.Is(err, store.ErrNotFound) {
		return page.Problem{Status: http.StatusNotFound, Title: "It cannot be restored",
			Text: "It is in its place already, or was deleted more than thirty days ago."}
	}
	if err != nil {
		return err
	}
	if kind == store.Brews {
		s.yard.Learn()
		return page.SeeOther(w, r, "/brews/%s", id)
	}
	return page.SeeOther(w, r, "%s/%s", lists[kind], id)
}

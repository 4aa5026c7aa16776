package web

import (
	"net/http"

	"github.com/go-chi/chi/v5"

	"yardbloom/store"
)

// putAside puts a thing of a kind aside, or brings it back, and goes on to their list.
func (s *Server) putAside(kind store.Aside, list string) func(http.ResponseWriter, *http.Request) error {
	return func(w http.ResponseWriter, r *http.Request) error {
		id, aside := chi.URLParam(r, "id"), chi.URLParam(r, "what") == "aside"
		if err := s.Store.PutAside(r.Context(), kind, id, aside, s.Now()); err != nil {
			return err
		}
		if aside {
			return seeOther(w, r, "%s?aside=%s", list, id)
		}
		return seeOther(w, r, "%s", list)
	}
}

// asideNotice says on a list that something was put aside just now; nil where nothing was.
// things is where each of them has its address.
func asideNotice(r *http.Request, things string) *notice {
	id := r.URL.Query().Get("aside")
	if !store.ValidID(id) {
		return nil
	}
	return &notice{"It is put aside.", things + "/" + id + "/back"}
}

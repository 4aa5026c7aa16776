package page

import (
	"net/http"
	"time"

	"github.com/go-chi/chi/v5"

	"yardbloom/store"
)

// Archive returns the handler of LIST/{id}/archive and LIST/{id}/restore, which archives a document or
// restores it and redirects to its list.
func Archive(st *store.Store, now func() time.Time, kind store.Kind, list string) Handler {
	return func(w http.ResponseWriter, r *http.Request) error {
		id, archived := chi.URLParam(r, "id"), chi.URLParam(r, "action") == "archive"
		if err := st.Archive(r.Context(), kind, id, archived, now()); err != nil {
			return err
		}
		if archived {
			return SeeOther(w, r, "%s?archived=%s", list, id)
		}
		return SeeOther(w, r, "%s", list)
	}
}

// ArchiveNotice returns the notice of a list whose document was just archived, or nil. documents
// is the address under which documents have theirs.
func ArchiveNotice(r *http.Request, documents string) *Notice {
	id := r.URL.Query().Get("archived")
	if !store.ValidID(id) {
		return nil
	}
	return &Notice{"Archived.", documents + "/" + id + "/restore"}
}

// Remove returns the handler of LIST/{id}/delete, which deletes a record and redirects to its list, where it can be restored.
func Remove(st *store.Store, now func() time.Time, kind store.Kind, list string) Handler {
	return func(w http.ResponseWriter, r *http.Request) error {
		id := chi.URLParam(r, "id")
		if err := st.Remove(r.Context(), kind, id, PersonID(r), now()); err != nil {
			return err
		}
		return SeeOther(w, r, "%s?removed=%s", list, id)
	}
}

// RemovedNotice returns the notice of a list of which a record was just deleted, with its undo, or nil.
func RemovedNotice(r *http.Request) *Notice {
	id := r.URL.Query().Get("removed")
	if !store.ValidID(id) {
		return nil
	}
	return &Notice{"Deleted. It can be restored under Settings for thirty days.", "/removed/" + id + "/restore"}
}

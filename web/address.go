package web

import (
	"fmt"
	"net/http"

	"github.com/go-chi/chi/v5"

	"yardbloom/store"
)

// id reads the id in the path. One that cannot be an id names nothing.
func id(r *http.Request) (string, error) {
	if id := chi.URLParam(r, "id"); store.ValidID(id) {
		return id, nil
	}
	return "", store.ErrNotFound
}

// seeOther sends the browser on after a form was kept.
func seeOther(w http.ResponseWriter, r *http.Request, format string, args ...any) error {
	http.Redirect(w, r, fmt.Sprintf(format, args...), http.StatusSeeOther)
	return nil
}

// isPartial says that htmx asks for a part of the page.
func isPartial(r *http.Request) bool {
	return r.Header.Get("HX-Request") == "true" && r.Header.Get("HX-History-Restore-Request") != "true"
}

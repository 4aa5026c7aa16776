package web

import (
	"fmt"
	"net/http"
	"net/url"
	"strings"

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

// home returns a path of this app as it is, and "/" for any other address.
func home(path string) string {
	u, err := url.Parse(path) // refuses control characters, which a browser would leave out
	if err != nil || u.Scheme != "" || u.Host != "" || u.User != nil || !strings.HasPrefix(u.Path, "/") || strings.HasPrefix(u.Path, "//") || strings.Contains(path, `\`) {
		return "/"
	}
	return u.RequestURI()
}

// isPartial says that htmx asks for a part of the page.
func isPartial(r *http.Request) bool {
	return r.Header.Get("HX-Request") == "true" && r.Header.Get("HX-History-Restore-Request") != "true"
}

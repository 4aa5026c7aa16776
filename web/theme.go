package web

import (
	"net/http"
	"slices"

	"yardbloom/web/form"
)

// themes are the looks to choose from; auto follows the device.
var themes = []string{"auto", "day", "night"}

// themeOf is the theme of this screen. It is the screen's own, not the yard's:
// a tablet by the window and a phone in the evening want different ones.
func themeOf(r *http.Request) string {
	if c, err := r.Cookie("theme"); err == nil && slices.Contains(themes, c.Value) {
		return c.Value
	}
	return themes[0]
}

func (s *Server) theme(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	theme := form.Choice(f, "theme", "a theme", themes)
	if !f.OK() {
		return problem{http.StatusBadRequest, "There is no such theme", "Choose auto, day or night."}
	}
	http.SetCookie(w, &http.Cookie{Name: "theme", Value: theme, Path: "/", MaxAge: 400 * 24 * 3600, SameSite: http.SameSiteLaxMode, HttpOnly: true})
	return seeOther(w, r, "%s", home(f.Values["back"]))
}

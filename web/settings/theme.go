package settings

import (
	"net/http"

	"yardbloom/web/form"
	"yardbloom/web/page"
)

// theme sets the theme of the person at this screen, or else of the screen.
func (s *Screens) theme(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	theme := form.Choice(f, "theme", "a theme", page.Themes)
	if !f.OK() {
		return page.Problem{Status: http.StatusBadRequest, Title: "Unknown theme", Text: "Choose auto, day or night."}
	}
	if id := page.PersonID(r); id != "" {
		if err := s.yard.Store.SaveScreen(r.Context(), id, theme, ""); err != nil {
			return err
		}
		return page.SeeOther(w, r, "%s", page.LocalPath(f.Values["back"]))
	}
	http.SetCookie(w, &http.Cookie{Name: "theme", Value: theme, Path: "/", MaxAge: 400 * 24 * 3600, SameSite: http.SameSiteLaxMode,
		HttpOnly: true})
	return page.SeeOther(w, r, "%s", page.LocalPath(f.Values["back"]))
}

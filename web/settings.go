package web

import (
	"net/http"
	"slices"
	"strings"

	"yardbloom/core/units"
)

type settingsBody struct {
	Units    []field
	Altitude field
	Boiling  string
	Kept     bool
	Errors   int
}

var altitudeRange = units.Range{Lo: -400, Hi: 4500}

func (s *Server) settings(w http.ResponseWriter, r *http.Request) error {
	set, prefs, err := s.yard(r)
	if err != nil {
		return err
	}
	f := newForm()
	f.Values = map[string]string{"mass": pickWord(prefs.Ounces, "oz", "g"), "heat": pickWord(prefs.Fahrenheit, "°F", "°C"), "altitude": metres.Number(float64(set.Altitude))}
	s.showSettings(w, r, http.StatusOK, f, prefs.Unit(units.Temperature).Format(float64(set.Boiling())))
	return nil
}

func pickWord(b bool, yes, no string) string {
	if b {
		return yes
	}
	return no
}

func (s *Server) saveSettings(w http.ResponseWriter, r *http.Request) error {
	f, err := readForm(r)
	if err != nil {
		return err
	}
	prefs := units.Prefs{Ounces: choice(f, "mass", "weights", []string{"g", "oz"}) == "oz", Fahrenheit: choice(f, "heat", "temperatures", []string{"°C", "°F"}) == "°F"}
	altitude := int(f.quantity("altitude", "The altitude", metres, altitudeRange, false))
	if !f.ok() {
		s.showSettings(w, r, http.StatusUnprocessableEntity, f, "")
		return nil
	}
	if err := s.Store.SaveUnits(r.Context(), prefs, altitude); err != nil {
		return err
	}
	return seeOther(w, r, "/settings?kept=1")
}

func (s *Server) showSettings(w http.ResponseWriter, r *http.Request, status int, f *form, boiling string) {
	body := settingsBody{Boiling: boiling, Kept: r.URL.Query().Get("kept") != "", Errors: len(f.Errors), Units: []field{
		selectOf(f, "mass", "Weights and volumes", []string{"g", "oz"}, func(v string) (string, string) {
			return v, map[string]string{"g": "grams and millilitres", "oz": "ounces and fluid ounces"}[v]
		}),
		selectOf(f, "heat", "Temperatures", []string{"°C", "°F"}, plain),
	}, Altitude: f.stepper("altitude", "Altitude of the yard", metres)}
	body.Altitude.Hint = "Water boils cooler higher up, and no recipe can ask for more."
	s.render(w, r, status, "settings", page{Title: "Settings", Side: "settings", Line: emptyLine(""), Body: body})
}

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
	f, err := readForm(r)
	if err != nil {
		return err
	}
	theme := choice(f, "theme", "a theme", themes)
	if !f.ok() {
		return problem{http.StatusBadRequest, "There is no such theme", "Choose auto, day or night."}
	}
	http.SetCookie(w, &http.Cookie{Name: "theme", Value: theme, Path: "/", MaxAge: 400 * 24 * 3600, SameSite: http.SameSiteLaxMode, HttpOnly: true})
	back := f.Values["back"]
	if !strings.HasPrefix(back, "/") || strings.HasPrefix(back, "//") || strings.Contains(back, `\`) {
		back = "/"
	}
	http.Redirect(w, r, back, http.StatusSeeOther)
	return nil
}

func (s *Server) keys(w http.ResponseWriter, r *http.Request) error {
	s.render(w, r, http.StatusOK, "keys", page{Title: "Keys", Side: "keys", Line: emptyLine("")})
	return nil
}

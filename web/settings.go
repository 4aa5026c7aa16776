package web

import (
	"errors"
	"math"
	"net/http"

	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/form"
	"yardbloom/web/words"
)

type settingsBody struct {
	Fields    []form.Field
	Version   int64
	Theirs    string // what another window kept meanwhile
	Boiling   string
	Kept      bool
	Backup    string // the day of the yard's own last backup; empty for none
	BackupAge string
	Errors    int
}

var altitudeRange = units.Range{Lo: -400, Hi: 4500}

func (s *Server) settings(w http.ResponseWriter, r *http.Request) error {
	s.showSettings(w, r, http.StatusOK, fillSettings(r), "")
	return nil
}

func fillSettings(r *http.Request) *form.Form {
	f, prefs := form.New(), prefsOf(r)
	f.Values = map[string]string{"mass": pickWord(prefs.Ounces, "oz", "g"), "heat": pickWord(prefs.Fahrenheit, "°F", "°C"), "altitude": prefs.Unit(units.Altitude).Number(float64(settingsOf(r).Altitude))}
	return f
}

func pickWord(b bool, yes, no string) string {
	if b {
		return yes
	}
	return no
}

func (s *Server) saveSettings(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	f.Keep(fillSettings(r), "")
	prefs := units.Prefs{Ounces: form.Choice(f, "mass", "weights", []string{"g", "oz"}) == "oz", Fahrenheit: form.Choice(f, "heat", "temperatures", []string{"°C", "°F"}) == "°F"}
	altitude := int(math.Round(f.Quantity("altitude", "The altitude", prefsOf(r).Unit(units.Altitude), altitudeRange, false)))
	if !f.OK() {
		s.showSettings(w, r, http.StatusUnprocessableEntity, f, "")
		return nil
	}
	switch err := s.Store.SaveUnits(r.Context(), prefs, altitude, f.Version()); {
	case errors.Is(err, store.ErrConflict):
		if r, err = s.reread(r); err != nil {
			return err
		}
		s.showSettings(w, r, http.StatusConflict, f, form.Differences(settingsFields(f, prefsOf(r)), fillSettings(r)))
		return nil
	case err != nil:
		return err
	}
	return seeOther(w, r, "/settings?kept=1")
}

// settingsFields are the entries of the page.
func settingsFields(f *form.Form, prefs units.Prefs) []form.Field {
	altitude := f.Stepper("altitude", "Altitude of the yard", prefs.Unit(units.Altitude))
	altitude.Hint = "Water boils cooler higher up, and no recipe can ask for more."
	return []form.Field{
		form.Select(f, "mass", "Weights and volumes", []string{"g", "oz"}, func(v string) (string, string) {
			return v, map[string]string{"g": "grams and millilitres", "oz": "ounces and fluid ounces"}[v]
		}),
		form.Select(f, "heat", "Temperatures", []string{"°C", "°F"}, form.Plain),
		altitude,
	}
}

// showSettings shows the settings; theirs is what another window kept meanwhile.
func (s *Server) showSettings(w http.ResponseWriter, r *http.Request, status int, f *form.Form, theirs string) {
	set := settingsOf(r)
	body := settingsBody{Kept: r.URL.Query().Get("kept") != "", Errors: len(f.Errors), Fields: settingsFields(f, prefsOf(r)), Version: set.Version, Theirs: theirs}
	if theirs == "" {
		body.Version = f.VersionOr(set.Version)
	}
	if f.OK() && theirs == "" {
		body.Boiling = prefsOf(r).Unit(units.Temperature).Format(float64(set.Boiling()))
	}
	if day := s.Store.LastBackup(); !day.IsZero() {
		body.Backup, body.BackupAge = words.Day(day, s.Now()), words.DaysAgo(int(s.Now().Sub(day).Hours()/24))
	}
	s.render(w, r, status, "settings", page{Title: "Settings", Side: "settings", Line: emptyLine(""), Body: body})
}

package settings

import (
	"errors"
	"math"
	"net/http"

	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/words"
)

type settingsBody struct {
	Fields    []form.Field
	Version   int64
	Theirs    string // saved by another window meanwhile
	Boiling   string
	Kept      bool
	Copied    bool   // a backup was just made
	Backup    string // day of the last daily backup; empty for none
	BackupAge string
	Folder    form.Field // of copies of the backups
	Copy      string     // day of the last copy
	NoCopy    bool       // there is a folder, and no copy of today
	Future    int        // daily backups that are dated in the future
	Removed   []removedView
	Errors    int
	PersonID  string // whose settings these are; empty: the yard's
	For       string // their name or "the yard"; empty in a yard of one person
}

// removedView is a deleted record that can be restored.
type removedView struct{ ID, Kind, Name, When, By string }

// kindNames holds the names of the kinds of records.
var kindNames = map[store.Kind]string{store.Brews: "a brew", store.Flights: "a comparison", store.Trials: "a trial", store.Scripts: "a stage script"}

// measures are the ways in which a yard measures coffee and water.
var measures = []string{"on a scale", "with spoons and a mug"}

var altitudeRange = units.Range{Lo: -400, Hi: 4500}

func (s *Screens) settings(w http.ResponseWriter, r *http.Request) error {
	s.showSettings(w, r, http.StatusOK, fillSettings(r), "")
	return nil
}

func fillSettings(r *http.Request) *form.Form {
	f, prefs := form.New(), page.Prefs(r)
	f.Values = map[string]string{"mass": pickWord(prefs.Ounces, "oz", "g"), "heat": pickWord(prefs.Fahrenheit, "°F", "°C"),
		"scale": pickWord(page.Settings(r).Spoons, measures[1], measures[0]), "altitude": prefs.Unit(units.Altitude).Number(float64(page.Settings(r).Altitude))}
	return f
}

func pickWord(b bool, yes, no string) string {
	if b {
		return yes
	}
	return no
}

func (s *Screens) saveSettings(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	f.FillMissing(fillSettings(r), "")
	prefs := units.Prefs{Ounces: form.Choice(f, "mass", "weights", []string{"g", "oz"}) == "oz",
		Fahrenheit: form.Choice(f, "heat", "temperatures", []string{"°C", "°F"}) == "°F"}
	altitude := int(math.Round(f.Quantity("altitude", "The altitude", page.Prefs(r).Unit(units.Altitude), altitudeRange, false)))
	spoons := form.Choice(f, "scale", "how to measure", measures) == measures[1]
	if !f.OK() {
		s.showSettings(w, r, http.StatusUnprocessableEntity, f, "")
		return nil
	}
	if err := page.SamePerson(r, f.Values); err != nil {
		return err
	}
	switch err := s.yard.Store.SaveUnits(r.Context(), page.PersonID(r), prefs, altitude, f.Version()); {
	case errors.Is(err, store.ErrConflict):
		set, err := s.yard.Store.Settings(r.Context(), page.PersonID(r))
		if err != nil {
			return err
		}
		r = page.WithSettings(r, set)
		s.showSettings(w, r, http.StatusConflict, f, form.Differences(settingsFields(f, page.Prefs(r)), fillSettings(r)))
		return nil
	case err != nil:
		return err
	}
	if err := s.yard.Store.SaveSpoons(r.Context(), spoons); err != nil {
		return err
	}
	return page.SeeOther(w, r, "/settings?kept=1")
}

// settingsFields returns the fields of the page.
func settingsFields(f *form.Form, prefs units.Prefs) []form.Field {
	altitude := f.Stepper("altitude", "Altitude of the yard", prefs.Unit(units.Altitude))
	altitude.Hint = "Water boils cooler higher up, and no recipe can ask for more."
	measured := form.Select(f, "scale", "Coffee and water are measured", measures, form.Plain)
	measured.Hint = "Without a scale, recipes are in level tablespoons and mugs, with their error."
	return []form.Field{
		form.Select(f, "mass", "Weights and volumes", []string{"g", "oz"}, func(v string) (string, string) {
			return v, map[string]string{"g": "grams and millilitres", "oz": "ounces and fluid ounces"}[v]
		}),
		form.Select(f, "heat", "Temperatures", []string{"°C", "°F"}, form.Plain),
		altitude,
		measured,
	}
}

// showSettings shows the settings; theirs are the values saved by another window meanwhile.
func (s *Screens) showSettings(w http.ResponseWriter, r *http.Request, status int, f *form.Form, theirs string) {
	set := page.Settings(r)
	body := settingsBody{Kept: r.URL.Query().Get("kept") != "", Copied: r.URL.Query().Get("saved") == "backup",
		Errors: len(f.Errors), Fields: settingsFields(f, page.Prefs(r)),
		Version: set.Version, Theirs: theirs, PersonID: set.PersonID, For: page.Whose(r)}
	if theirs == "" {
		body.Version = f.VersionOr(set.Version)
	}
	if f.OK() && theirs == "" {
		body.Boiling = page.Prefs(r).Unit(units.Temperature).Format(float64(set.Boiling()))
	}
	if day := s.yard.Store.LastBackup(s.yard.Now()); !day.IsZero() {
		body.Backup, body.BackupAge = words.Day(day, s.yard.Now()), words.DaysAgo(int(s.yard.Now().Sub(day).Hours()/24))
	}
	folder, err := s.yard.Store.SecondFolder(r.Context())
	if err != nil {
		s.yard.Log.Error("second backup folder", "err", err)
	}
	if _, typed := f.Values["folder"]; !typed {
		f.Values["folder"] = folder
	}
	body.Folder = f.Entry("folder", "Also copy each backup to this folder")
	body.Folder.Hint = "A folder on another disk, such as /media/usb/yard. Empty: no copies."
	if day := store.LastCopy(folder, s.yard.Now()); !day.IsZero() {
		body.Copy = words.Day(day, s.yard.Now())
	}
	body.NoCopy = folder != "" && body.Copy != body.Backup
	removed, err := s.yard.Store.Removed(r.Context(), s.yard.Now())
	if err != nil {
		s.yard.Log.Error("deleted records", "err", err)
	}
	for _, one := range removed {
		v := removedView{one.ID, kindNames[one.Kind], one.Name, words.Moment(one.At.In(s.yard.Now().Location()), s.yard.Now()), ""}
		if by := page.BadgeOf(r, one.By); by != nil {
			v.By = by.Name
		}
		body.Removed = append(body.Removed, v)
	}
	body.Future = len(s.yard.Store.FutureBackups(s.yard.Now()))
	s.Render(w, r, status, "settings", page.Page{Title: "Settings", Side: "settings", Line: page.Line(""), Body: body})
}

package web

import (
	"math"
	"net/http"
	"slices"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/recipe"
	"yardbloom/core/setup"
	"yardbloom/core/units"
	"yardbloom/web/form"
	"yardbloom/web/words"
)

type setupBody struct {
	ID       string
	Locked   bool
	Items    []itemView
	Left     int
	Cautions []string
	Blocked  bool   // the recipe has something that cannot be brewed
	Stock    string // a word where the bag runs out
	Kettle   *kettleView
	Gave     form.Field
	Ratio    string // that is kept where the mill gave something else
	Cup      string
}

type itemView struct {
	setup.Item
	Done  bool
	Runs  bool    // its timer runs
	Over  bool    // it has run out
	Clock string  // what is left of it, or how long it will be
	Left  float64 // s
}

// job is what there is to set up for.
func (sc *scene) job() setup.Job {
	return setup.Job{Recipe: sc.Recipe, Set: sc.Gear, Prefs: sc.prefs, Level: sc.Habits.Level}
}

// setup is the Set-up station: what to do before the first water, with the cautions.
func (s *Server) setup(w http.ResponseWriter, r *http.Request) error {
	sc := sceneOf(r)
	if err := sc.onLine(); err != nil {
		return err
	}
	if sc.draft != nil && !sc.editable() {
		return seeOther(w, r, "/brews/%s/recipe", sc.ID)
	}
	s.showSetup(w, r, http.StatusOK, sc, form.New())
	return nil
}

func (s *Server) showSetup(w http.ResponseWriter, r *http.Request, status int, sc *scene, f *form.Form) {
	dose := sc.prefs.Unit(units.Dose)
	body := setupBody{ID: sc.ID, Locked: !sc.editable(), Cautions: setup.Cautions(sc.job()), Blocked: sc.draft != nil && !sc.draft.Ready(),
		Ratio: sc.prefs.Unit(units.Ratio).Format(sc.ratio()), Cup: sc.prefs.Unit(units.Cup).Format(float64(sc.Recipe.Amounts(sc.Gear.Brewer.Retained).Cup))}
	if sc.editable() {
		body.Stock, body.Kettle = stock(sc), s.kettleOf(sc)
	}
	if _, typed := f.Values["gave"]; !typed {
		f.Values["gave"] = dose.Number(float64(sc.Recipe.Dose))
	}
	body.Gave = f.Stepper("gave", "The mill gave", dose)
	for _, it := range setup.Checklist(sc.job()) {
		v := itemView{Item: it, Done: body.Locked || slices.Contains(sc.draft.Checked, it.ID), Clock: it.Wait.String(), Left: float64(it.Wait)}
		if sc.draft != nil {
			v.time(sc.draft.Timers[it.ID], sc.now)
		}
		body.Items = append(body.Items, v)
		if !v.Done {
			body.Left++
		}
	}
	s.render(w, r, status, "setup", page{Title: "Set-up for " + sc.Bag.Name, Station: "Set-up", Line: lineOf(sc, "Set-up"), Body: body})
}

// time says how a timer stands that was begun at a moment, or not yet.
func (v *itemView) time(begun, now time.Time) {
	if begun.IsZero() || v.Wait <= 0 {
		return
	}
	left := units.Seconds(math.Max(0, float64(v.Wait)-now.Sub(begun).Seconds()))
	v.Runs, v.Over, v.Clock, v.Left = left > 0, left == 0, left.String(), float64(left)
}

// saveSetup keeps which items are ticked, and begins or ends a timer.
func (s *Server) saveSetup(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	if _, shown := f.Values["list"]; !shown { // without its list, no tick would mean that all are cleared
		return form.ErrMalformed
	}
	sc, err := s.changeDraft(r, func(d *brew.Draft) error {
		d.Checked = nil
		job := setup.Job{Recipe: d.Recipe, Set: d.Gear, Prefs: prefsOf(r), Level: d.Habits.Level}
		for _, it := range setup.Checklist(job) {
			if slices.Contains(f.All["done"], it.ID) {
				d.Checked = append(d.Checked, it.ID)
			}
			if f.Values["timer"] == it.ID && it.Wait > 0 {
				d.Timers = turned(d.Timers, it.ID, s.Now())
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	if isPartial(r) {
		s.showSetup(w, r, http.StatusOK, sc, form.New())
		return nil
	}
	return seeOther(w, r, "/brews/%s/setup", sc.ID)
}

// turned are the timers with one begun, or put back where it was begun already.
func turned(timers map[string]time.Time, id string, now time.Time) map[string]time.Time {
	out := map[string]time.Time{}
	for other, at := range timers {
		if other != id {
			out[other] = at
		}
	}
	if _, runs := timers[id]; !runs {
		out[id] = now
	}
	return out
}

// gave takes what the mill really gave for the dose: the water follows at the same ratio, or
// the cup stays as it was and the ratio follows.
func (s *Server) gave(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	dose := units.Grams(f.Quantity("gave", "What the mill gave", prefsOf(r).Unit(units.Dose), recipe.Dose.Range(), true))
	if !f.OK() {
		s.showSetup(w, r, http.StatusUnprocessableEntity, sceneOf(r), f)
		return nil
	}
	sc, err := s.changeDraft(r, func(d *brew.Draft) error {
		before := *d
		a := d.Recipe.Amounts(d.Gear.Brewer.Retained)
		a.Dose, a.Ratio = dose, d.Ratio()
		held := brew.StartHeld
		if f.Values["keep"] == string(recipe.Cup) {
			held = [2]recipe.Knob{recipe.Cup, recipe.Dose}
		}
		a, err := recipe.Solve(a, held, d.Gear.Brewer.Retained)
		if err != nil {
			f.Fail("gave", "%s", words.AtAddress(err, prefsOf(r)))
			return nil
		}
		d.Held, d.SetRatio = held, a.Ratio
		d.Recipe = d.Recipe.Weigh(a.Dose, a.Water)
		d.Remember(before)
		return nil
	})
	if err != nil {
		return err
	}
	if !f.OK() {
		s.showSetup(w, r, http.StatusUnprocessableEntity, sc, f)
		return nil
	}
	return seeOther(w, r, "/brews/%s/setup", sc.ID)
}

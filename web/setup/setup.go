package setup

import (
	"math"
	"net/http"
	"slices"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/station"
	"yardbloom/web/words"
)

type setupBody struct {
	ID       string
	Locked   bool
	Scale    bool // the ground dose can be weighed
	Items    []itemView
	Left     int
	Cautions []string
	Blocked  bool   // the recipe has invalid input
	Stock    string // a note if the bag runs out
	Kettle   *kettleView
	Gave     form.Field
	Ratio    string // kept if the ground dose differs
	Cup      string
}

type itemView struct {
	brew.SetupItem
	Done  bool
	Runs  bool    // its timer is running
	Over  bool    // its timer has ended
	Clock string  // remaining time, or the full duration
	Left  float64 // s
}

// setup serves the Set-up station: the steps before the first water, with the cautions.
func (s *Screens) setup(w http.ResponseWriter, r *http.Request) error {
	sc := station.Of(r)
	if err := sc.BagGone(); err != nil {
		return err
	}
	if sc.Draft != nil && !sc.Editable() {
		return page.SeeOther(w, r, "/brews/%s/recipe", sc.ID)
	}
	s.showSetup(w, r, http.StatusOK, sc, form.New())
	return nil
}

func (s *Screens) showSetup(w http.ResponseWriter, r *http.Request, status int, sc *station.Scene, f *form.Form) {
	dose := sc.Prefs.Unit(units.Dose)
	body := setupBody{ID: sc.ID, Scale: sc.Prefs.Spoon == 0, Locked: !sc.Editable(), Cautions: sc.Setup().Cautions(), Blocked: sc.Draft != nil &&
		!sc.Draft.Ready(),
		Ratio: sc.Prefs.Unit(units.Ratio).Format(sc.Ratio()),
		Cup:   sc.Prefs.Unit(units.Cup).Format(float64(sc.Recipe.Amounts(sc.Gear.Brewer.Retained).Cup))}
	if sc.Editable() {
		body.Stock, body.Kettle = sc.StockNote(), s.kettleOf(sc)
	}
	if _, typed := f.Values["gave"]; !typed {
		f.Values["gave"] = dose.Number(float64(sc.Recipe.Dose))
	}
	body.Gave = f.Stepper("gave", "Ground dose", dose)
	for _, it := range sc.Setup().Checklist() {
		v := itemView{SetupItem: it, Done: body.Locked || slices.Contains(sc.Draft.Checked, it.ID), Clock: it.Wait.String(),
			Left: float64(it.Wait)}
		if sc.Draft != nil {
			v.time(sc.Draft.Timers[it.ID], sc.Now)
		}
		body.Items = append(body.Items, v)
		if !v.Done {
			body.Left++
		}
	}
	s.Render(w, r, status, "setup", page.Page{Title: "Set-up for " +
		sc.Bag.Name, Station: "Set-up", Line: station.Line(sc, "Set-up"), Body: body})
}

// arm ends the set-up: it arms the yard's scale unless another brew holds it, and opens the Brew station.
func (s *Screens) arm(w http.ResponseWriter, r *http.Request) error {
	sc := station.Of(r)
	if sc.Editable() {
		if err := s.yard.ArmFreeScale(r.Context(), sc.ID); err != nil {
			return err
		}
	}
	if page.IsPartial(r) { // the script opens the page
		w.WriteHeader(http.StatusNoContent)
		return nil
	}
	return page.SeeOther(w, r, "/brews/%s/brew", sc.ID)
}

// time fills in the state of a timer that was started at a moment, or not yet.
func (v *itemView) time(begun, now time.Time) {
	if begun.IsZero() || v.Wait <= 0 {
		return
	}
	left := units.Seconds(math.Max(0, float64(v.Wait)-now.Sub(begun).Seconds()))
	v.Runs, v.Over, v.Clock, v.Left = left > 0, left == 0, left.String(), float64(left)
}

// saveSetup stores the ticked items, and starts or stops a timer.
func (s *Screens) saveSetup(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	if _, shown := f.Values["list"]; !shown { // without the list, no ticks would clear all items
		return form.ErrMalformed
	}
	sc, err := station.Change(s.yard, r, func(d *brew.Draft) error {
		d.Checked = nil
		job := brew.Setup{Recipe: d.Recipe, Set: d.Gear, Prefs: page.Prefs(r), Level: d.Habits.LevelBed}
		for _, it := range job.Checklist() {
			if slices.Contains(f.All["done"], it.ID) {
				d.Checked = append(d.Checked, it.ID)
			}
			if f.Values["timer"] == it.ID && it.Wait > 0 {
				d.Timers = toggledTimers(d.Timers, it.ID, s.yard.Now())
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	if page.IsPartial(r) {
		s.showSetup(w, r, http.StatusOK, sc, form.New())
		return nil
	}
	return page.SeeOther(w, r, "/brews/%s/setup", sc.ID)
}

// toggledTimers returns the timers with one started, or reset if it was running.
func toggledTimers(timers map[string]time.Time, id string, now time.Time) map[string]time.Time {
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

// setGroundDose takes the ground dose: the water follows at the same ratio, or the cup stays the same and the ratio
// follows.
func (s *Screens) setGroundDose(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	dose := units.Grams(f.Quantity("gave", "The ground dose", page.Prefs(r).Unit(units.Dose), recipe.Dose.Range(), true))
	if !f.OK() {
		s.showSetup(w, r, http.StatusUnprocessableEntity, station.Of(r), f)
		return nil
	}
	sc, err := station.Change(s.yard, r, func(d *brew.Draft) error {
		before := *d
		a := d.Recipe.Amounts(d.Gear.Brewer.Retained)
		a.Dose, a.Ratio = dose, d.Ratio()
		held := brew.DefaultHeld
		if f.Values["keep"] == string(recipe.Cup) {
			held = [2]recipe.Knob{recipe.Cup, recipe.Dose}
		}
		a, err := recipe.Solve(a, held, d.Gear.Brewer.Retained)
		if err != nil {
			f.Fail("gave", "%s", words.InvalidAddress(err, page.Prefs(r)))
			return nil
		}
		d.Held, d.SetRatio = held, a.Ratio
		d.Recipe = d.Recipe.ResizeRounded(a.Dose, a.Water)
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
	return page.SeeOther(w, r, "/brews/%s/setup", sc.ID)
}

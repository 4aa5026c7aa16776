package web

import (
	"errors"
	"net/http"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/store"
)

// A goal is one figure that a recipe can be solved for: its field on the page,
// and what the button says.
var goals = []struct {
	goal  forecast.Goal
	name  string
	label string
	unit  units.Unit
	clock bool
	r     units.Range
	now   func(forecast.Forecast) float64
}{
	{forecast.DrainIn, "goal_drain", "Drain in, by the grind", seconds, true, cup.TimeRange, func(f forecast.Forecast) float64 { return float64(f.Drawdown) }},
	{forecast.YieldOf, "goal_yield", "Yield, by the grind", units.Unit{Symbol: "%", Scale: 1, Decimals: 1, Step: 0.5, Fine: 0.1}, false, units.Range{Lo: 5, Hi: 35}, func(f forecast.Forecast) float64 { return f.Yield.Value }},
	{forecast.StrengthOf, "goal_strength", "TDS at this cup, by the ratio", tdsUnit, false, cup.TDSRange, func(f forecast.Forecast) float64 { return f.TDS }},
}

// goalFields show where each figure stands, for another to be typed over it.
func goalFields(f *form, now forecast.Forecast) []field {
	var out []field
	for _, g := range goals {
		if f.Values[g.name] == "" {
			f.Values[g.name] = g.unit.Number(g.now(now))
			if g.clock {
				f.Values[g.name] = units.Seconds(g.now(now)).String()
			}
		}
		e := f.stepper(g.name, g.label, g.unit)
		if g.clock {
			e.Unit, e.Step, e.Fine = "m:ss", "", ""
		}
		out = append(out, e)
	}
	return out
}

// solve changes a recipe so that the model expects one figure of it, or says why nothing does.
func (s *Server) solve(w http.ResponseWriter, r *http.Request) error {
	b, set, prefs, typed, err := s.loadRecipe(r)
	if err != nil {
		return err
	}
	next, err := reach(typed, b, s.Now())
	if err != nil {
		return err
	}
	if typed.ok() {
		b, err = s.Store.ChangeBrew(r.Context(), b.ID, func(b *brew.Brew) error {
			if !b.Editable() {
				return store.ErrStatus
			}
			b.Recipe, b.Draft.Typed = next, nil
			return nil
		})
		if err != nil {
			return err
		}
		b.Gear.Boiling = set.Boiling()
		return s.showRecipe(w, r, http.StatusOK, fillRecipe(b, prefs), b, prefs, "")
	}
	f := fillRecipe(b, prefs)
	reread(f, b, prefs)
	for _, g := range goals {
		if e, wrong := typed.Errors[g.name]; wrong {
			f.Values[g.name], f.Errors[g.name] = typed.Values[g.name], e
		}
	}
	return s.showRecipe(w, r, http.StatusUnprocessableEntity, f, b, prefs, "")
}

// reach reads which goal was asked for and solves for it. What a person can
// mend is left in the form.
func reach(f *form, b brew.Brew, now time.Time) (recipe.Recipe, error) {
	for _, g := range goals {
		if f.Values["goal"] != g.name {
			continue
		}
		var v float64
		if g.clock {
			v = float64(f.clock(g.name, "The drawdown", g.r))
			if f.Values[g.name] == "" {
				f.fail(g.name, "Type a time, such as 3:10.")
			}
		} else {
			v = f.quantity(g.name, "The goal", g.unit, g.r, true)
		}
		if !f.ok() {
			return b.Recipe, nil
		}
		next, err := forecast.Reach(forecast.Question{Recipe: b.Recipe, Bag: b.Bag, Gear: b.Gear, Now: now}, g.goal, v)
		var sentence units.Sentence
		if errors.As(err, &sentence) {
			f.fail(g.name, "%s", sentence)
			return b.Recipe, nil
		}
		return next, err
	}
	return b.Recipe, problem{http.StatusBadRequest, "There is no such goal", "Go back to the recipe and use one of its buttons."}
}

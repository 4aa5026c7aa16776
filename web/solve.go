package web

import (
	"fmt"
	"net/http"
	"strings"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/store"
)

// A goal is one figure that a recipe can be solved for: its field on the page,
// and what its button says.
type goal struct {
	goal  forecast.Goal
	name  string
	label string
	unit  units.Unit
	clock bool
	r     units.Range
	now   func(forecast.Forecast) float64
}

var goals = []goal{
	{forecast.DrainIn, "goal_drain", "Drain in", seconds, true, cup.TimeRange, func(f forecast.Forecast) float64 { return float64(f.Drawdown) }},
	{forecast.YieldOf, "goal_yield", "Yield", units.Unit{Symbol: "%", Scale: 1, Decimals: 1, Step: 0.5, Fine: 0.1}, false, units.Range{Lo: 5, Hi: 35}, func(f forecast.Forecast) float64 { return f.Yield.Value }},
	{forecast.StrengthOf, "goal_strength", "TDS at this cup", tdsUnit, false, cup.TDSRange, func(f forecast.Forecast) float64 { return f.TDS }},
}

func (g goal) print(v float64) string {
	if g.clock {
		return units.Seconds(v).String()
	}
	return g.unit.Format(v)
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
		if g.clock {
			out = append(out, f.clockEntry(g.name, g.label))
		} else {
			out = append(out, f.stepper(g.name, g.label, g.unit))
		}
	}
	return out
}

// waysView is what the model found for a goal: one line a knob.
type waysView struct {
	Goal string // "Drain in 3:10"
	Ways []wayView
}

type wayView struct {
	Knob, Say, To string
	Then          string // predicted
	Choice        string // of the button; empty where there is none
	Sorry         string
}

// asked is a goal that was typed, and the knob by which it is to be reached, once one is chosen.
type asked struct {
	goal  goal
	value float64
	by    recipe.Knob
}

// solve finds the ways in which the model expects a recipe to meet a goal, or
// takes one of them.
func (s *Server) solve(w http.ResponseWriter, r *http.Request) error {
	b, set, prefs, typed, err := s.loadRecipe(r)
	if err != nil {
		return err
	}
	want, err := readGoal(typed)
	if err != nil {
		return err
	}
	q := forecast.QuestionOf(b, s.Now())
	switch {
	case !typed.ok():
		return s.showSolved(w, r, http.StatusUnprocessableEntity, typed, b, prefs, nil)
	case want.by == "":
		return s.showSolved(w, r, http.StatusOK, typed, b, prefs, waysTo(q, want, b, prefs))
	}
	next, err := forecast.Reach(q, want.goal.goal, want.by, want.value)
	if err != nil {
		typed.fail(want.goal.name, "%s", err)
		return s.showSolved(w, r, http.StatusUnprocessableEntity, typed, b, prefs, nil)
	}
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

// showSolved shows the recipe as it is, with what was typed for a goal and the ways to it.
func (s *Server) showSolved(w http.ResponseWriter, r *http.Request, status int, typed *form, b brew.Brew, prefs units.Prefs, ways *waysView) error {
	f := fillRecipe(b, prefs)
	reread(f, b, prefs)
	for _, g := range goals {
		if v, posted := typed.Values[g.name]; posted && (ways != nil || typed.Errors[g.name] != "") {
			f.Values[g.name] = v
		}
		if e, wrong := typed.Errors[g.name]; wrong {
			f.Errors[g.name] = e
		}
	}
	body, err := s.recipeBody(r.Context(), f, b, prefs)
	if err != nil {
		return err
	}
	body.Ways = ways
	s.renderRecipe(w, r, status, b, prefs, body)
	return nil
}

// readGoal reads which goal was asked for, and by which knob. What a person can
// mend is left in the form.
func readGoal(f *form) (asked, error) {
	name, by, _ := strings.Cut(f.Values["goal"], "/")
	for _, g := range goals {
		if g.name != name {
			continue
		}
		out := asked{goal: g, by: recipe.Knob(by)}
		if g.clock {
			out.value = float64(f.clock(g.name, "The drawdown", g.r, true))
		} else {
			out.value = f.quantity(g.name, "The goal", g.unit, g.r, true)
		}
		return out, nil
	}
	return asked{}, problem{http.StatusBadRequest, "There is no such goal", "Go back to the recipe and use one of its buttons."}
}

// knobNames are how the ways to a goal are told apart.
var knobNames = map[recipe.Knob]string{recipe.KnobGrind: "By the grind", recipe.KnobTemperature: "By the water", recipe.KnobRatio: "By the ratio"}

func waysTo(q forecast.Question, want asked, b brew.Brew, prefs units.Prefs) *waysView {
	out := &waysView{Goal: want.goal.label + " " + want.goal.print(want.value)}
	as := coach.Of(b, prefs)
	for _, way := range forecast.Ways(q, want.goal.goal, want.value) {
		v := wayView{Knob: knobNames[way.Knob]}
		changes := recipe.Changes(b.Recipe, way.Recipe)
		switch {
		case way.Err != nil:
			v.Sorry = way.Err.Error()
		case len(changes) == 0:
			v.Sorry = "No step of it comes nearer than now."
		default:
			v.Say, v.To = coach.Describe(as, changes[0])
			if way.Knob == recipe.KnobRatio && way.Recipe.Dose != b.Recipe.Dose { // the cup stays: dose and water move
				v.Say = fmt.Sprintf("%s of coffee", prefs.Unit(units.Dose).Format(float64(way.Recipe.Dose)))
				v.To = fmt.Sprintf("1 : %s, %s", units.Trim(way.Recipe.Ratio(), 1), prefs.Unit(units.Water).Format(float64(way.Recipe.Water)))
			}
			v.Then = fmt.Sprintf("%s, TDS %.2f %%, EY %.1f %%", way.Then.Drawdown, way.Then.TDS, way.Then.Yield.Value)
			v.Choice = want.goal.name + "/" + string(way.Knob)
		}
		out.Ways = append(out.Ways, v)
	}
	return out
}

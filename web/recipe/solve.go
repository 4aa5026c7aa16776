package recipe

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
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/station"
	"yardbloom/web/words"
)

// A goal is a figure that a recipe can be solved for, with its field and the label of its button.
type goal struct {
	goal  forecast.Goal
	name  string
	label string
	r     units.Range
	now   func(forecast.Forecast) float64
}

var goals = []goal{
	{forecast.DrainIn, "goal_drain", "Drain in", cup.TimeRange, func(f forecast.Forecast) float64 { return float64(f.Drawdown) }},
	{forecast.YieldOf, "goal_yield", "Yield", units.Range{Lo: 5, Hi: 35}, func(f forecast.Forecast) float64 { return f.Yield.Value }},
	{forecast.StrengthOf, "goal_strength", "TDS at this cup", cup.TDSRange, func(f forecast.Forecast) float64 { return f.TDS }},
}

func (g goal) unit() units.Unit { return units.Prefs{}.Unit(words.GoalUnits[g.goal]) }

// goalFields returns the fields of the goals, filled with the present predictions.
func goalFields(f *form.Form, now forecast.Forecast) []form.Field {
	var out []form.Field
	for _, g := range goals {
		if f.Values[g.name] == "" {
			f.Values[g.name] = g.unit().Number(g.now(now))
		}
		out = append(out, f.Stepper(g.name, g.label, g.unit()))
	}
	return out
}

// waysView is the result for a goal: one line per knob.
type waysView struct {
	Goal string // "Drain in 3:10"
	Ways []wayView
}

type wayView struct {
	Knob, Say, To string
	Then          string // predicted
	Choice        string // value of the button; empty for none
	Sorry         string
	Trades        []string // effect of each change alone
}

// asked is a typed goal, and the chosen knob if any.
type asked struct {
	goal  goal
	value float64
	by    recipe.Knob
}

// solve finds the ways in which a recipe meets a goal by the model, or applies one of them.
func (s *Screens) solve(w http.ResponseWriter, r *http.Request) error {
	sc := station.Of(r)
	if err := sc.BagGone(); err != nil {
		return err
	}
	if !sc.Editable() {
		return brew.ErrStatus
	}
	typed, err := form.Read(r)
	if err != nil {
		return err
	}
	tab := typed.Text("tab", "Tab", 40, false)
	sc.Draft.Tab = tab // the response belongs to this window
	if done, err := s.solveJoint(w, r, typed, sc, tab); done {
		return err
	}
	want, err := readGoal(typed)
	if err != nil {
		return err
	}
	q := sc.Question(sc.Now)
	switch {
	case !typed.OK():
		return s.showSolved(w, r, http.StatusUnprocessableEntity, typed, sc, nil)
	case want.by == "":
		return s.showSolved(w, r, http.StatusOK, typed, sc, waysTo(q, want, sc))
	}
	next, err := forecast.Reach(q, want.goal.goal, want.by, want.value)
	if err != nil {
		typed.Fail(want.goal.name, "%s", words.Sentence(err))
		return s.showSolved(w, r, http.StatusUnprocessableEntity, typed, sc, nil)
	}
	sc, err = station.Change(s.yard, r, func(d *brew.Draft) error {
		d.Recipe, d.Typed, d.Tab = next, nil, tab
		return nil
	})
	if err != nil {
		return err
	}
	return s.showRecipe(w, r, http.StatusOK, fillRecipe(sc), sc, "")
}

// showSolved shows the unchanged recipe, with the typed goal and the ways to reach it.
func (s *Screens) showSolved(w http.ResponseWriter, r *http.Request, status int, typed *form.Form, sc *station.Scene,
	ways *waysView) error {
	f := fillRecipe(sc)
	restoreErrors(f, sc)
	for _, g := range goals {
		if v, posted := typed.Values[g.name]; posted && (ways != nil || typed.Errors[g.name] != "") {
			f.Values[g.name] = v
		}
		if e, wrong := typed.Errors[g.name]; wrong {
			f.Errors[g.name] = e
		}
	}
	body, err := s.recipeBody(r, f, sc)
	if err != nil {
		return err
	}
	body.Ways = ways
	s.renderRecipe(w, r, status, sc, body)
	return nil
}

// readGoal parses the goal and the knob. Errors that a person can fix stay in the form.
func readGoal(f *form.Form) (asked, error) {
	name, by, _ := strings.Cut(f.Values["goal"], "/")
	for _, g := range goals {
		if g.name == name {
			label := "The goal"
			if g.goal == forecast.DrainIn {
				label = "The drawdown"
			}
			return asked{g, f.Quantity(g.name, label, g.unit(), g.r, true), recipe.Knob(by)}, nil
		}
	}
	return asked{}, page.Problem{Status: http.StatusBadRequest, Title: "Unknown goal",
		Text: "Go back to the recipe and use one of its buttons."}
}

// wayNames holds the labels of the ways to a goal.
var wayNames = map[recipe.Knob]string{recipe.Grind: "By the grind", recipe.Temperature: "By the water", recipe.Ratio: "By the ratio"}

func waysTo(q forecast.Question, want asked, sc *station.Scene) *waysView {
	out := &waysView{Goal: want.goal.label + " " + want.goal.unit().Format(want.value)}
	for _, way := range forecast.Ways(q, want.goal.goal, want.value) {
		v := wayView{Knob: wayNames[way.Knob]}
		changes := recipe.Changes(sc.Recipe, way.Recipe)
		switch {
		case way.Err != nil:
			v.Sorry = words.Sentence(way.Err)
		case len(changes) == 0:
			v.Sorry = "No step of it comes nearer than now."
		default:
			v.Say, v.To = coach.Describe(sc.Recipe, sc.Gear.Grinder, changes[0], sc.Prefs)
			if way.Knob == recipe.Ratio && way.Recipe.Dose != sc.Recipe.Dose { // the cup stays the same: dose and water change
				v.Say = fmt.Sprintf("%s of coffee", sc.Prefs.Unit(units.Dose).Format(float64(way.Recipe.Dose)))
				v.To = fmt.Sprintf("%s, %s", sc.Prefs.Unit(units.Ratio).Format(way.Recipe.Ratio()),
					sc.Prefs.Unit(units.Water).Format(float64(way.Recipe.Total())))
			}
			v.Then = fmt.Sprintf("%s, TDS %.2f %%, EY %.1f %%", way.Predicted.Drawdown, way.Predicted.TDS, way.Predicted.Yield.Value)
			v.Choice = want.goal.name + "/" + string(way.Knob)
		}
		out.Ways = append(out.Ways, v)
	}
	return out
}

package recipe

import (
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/web/form"
	"yardbloom/web/station"
	"yardbloom/web/words"
)

// A joint is a combination of goals with its button, the fields that it reads, and its solutions.
type joint struct {
	id, label string
	reads     []string // names of goals
	when      func(recipe.Recipe) bool
	solve     func(q forecast.Question, base forecast.Forecast, values map[string]float64) ([]solution, error)
	none      string // if there is no solution
}

// A solution is a recipe that is offered.
type solution struct {
	name      string
	recipe    recipe.Recipe
	predicted forecast.Forecast
	traded    []forecast.Turned
	nearest   bool // the targets cannot all be met
	note      string
}

const jointPrefix = "pair."

// clearlyBrighter is the difference of the balance that a joint asks for: twice the smallest perceivable one.
const clearlyBrighter = 0.02

var jointKnobs = []recipe.Knob{recipe.Grind, recipe.Temperature, recipe.Ratio}

func always(recipe.Recipe) bool { return true }

var joints = []joint{
	{id: "both", label: "This drawdown and this yield", reads: []string{"goal_drain", "goal_yield"}, when: always,
		solve: func(q forecast.Question, _ forecast.Forecast, v map[string]float64) ([]solution, error) {
			return traded(q, forecast.Target{Goal: forecast.DrainIn, Value: v["goal_drain"]},
				forecast.Target{Goal: forecast.YieldOf, Value: v["goal_yield"]})
		}},
	{id: "brighter", label: "This yield, brighter", reads: []string{"goal_yield"}, when: always, solve: tilted(-clearlyBrighter)},
	{id: "bitterer", label: "This yield, more bitter", reads: []string{"goal_yield"}, when: always, solve: tilted(clearlyBrighter)},
	{id: "finest", label: "The finest grind that does not clog", when: func(r recipe.Recipe) bool { return !r.Steeps() }, solve: finest},
	{id: "coldest", label: "The coldest drink at this TDS", reads: []string{"goal_strength"},
		when: func(r recipe.Recipe) bool { return r.Serving() == recipe.OverIce }, solve: coldest,
		none: "No share of ice gives this strength with a plausible yield."},
}

func traded(q forecast.Question, targets ...forecast.Target) ([]solution, error) {
	t, err := forecast.Together(q, targets, jointKnobs...)
	if err != nil {
		return nil, err
	}
	s := solution{name: "Both at once", recipe: t.Recipe, predicted: t.Predicted, traded: t.Changes}
	for _, met := range t.Met {
		s.nearest = s.nearest || !met
	}
	return []solution{s}, nil
}

func tilted(by float64) func(forecast.Question, forecast.Forecast, map[string]float64) ([]solution, error) {
	return func(q forecast.Question, base forecast.Forecast, v map[string]float64) ([]solution, error) {
		return traded(q, forecast.Target{Goal: forecast.YieldOf, Value: v["goal_yield"]},
			forecast.Target{Goal: forecast.LeanOf, Value: base.Balance.Lean() + by})
	}
}

func finest(q forecast.Question, _ forecast.Forecast, _ map[string]float64) ([]solution, error) {
	const sure = 0.9
	r, f, err := forecast.Finest(q, sure)
	if err != nil {
		return nil, err
	}
	return []solution{{name: "Finest", recipe: r, predicted: f,
		note: fmt.Sprintf("Nine of ten such brews drain within %s, by the errors of the model.", forecast.Clogged)}}, nil
}

func coldest(q forecast.Question, _ forecast.Forecast, v map[string]float64) ([]solution, error) {
	const most = 4
	var out []solution
	for _, c := range forecast.Coldest(q, v["goal_strength"]) {
		t := q.Prefs.Unit(units.Temperature)
		out = append(out, solution{name: t.Format(float64(c.Predicted.CupTemp)), recipe: c.Recipe, predicted: c.Predicted,
			note: fmt.Sprintf("%s of ice, %s of coffee.", q.Prefs.Unit(units.Water).Format(float64(c.Recipe.Ice.Mass)),
				q.Prefs.Unit(units.Dose).Format(float64(c.Recipe.Dose)))})
	}
	return out[max(0, len(out)-most):], nil
}

// jointButtons returns the buttons for a recipe.
func jointButtons(r recipe.Recipe) []form.Option {
	var out []form.Option
	for _, j := range joints {
		if j.when(r) {
			out = append(out, form.Option{Value: jointPrefix + j.id, Label: j.label})
		}
	}
	return out
}

// solveJoint answers a button of jointButtons, or applies one of its solutions; false if another button was pressed.
func (s *Screens) solveJoint(w http.ResponseWriter, r *http.Request, typed *form.Form, sc *station.Scene, tab string) (bool, error) {
	asked, pressed := strings.CutPrefix(typed.Values["goal"], jointPrefix)
	id, chosen, apply := strings.Cut(asked, "/")
	var j *joint
	for i := range joints {
		if joints[i].id == id && joints[i].when(sc.Recipe) {
			j = &joints[i]
		}
	}
	if !pressed || j == nil {
		return false, nil
	}
	values := map[string]float64{}
	for _, g := range goals {
		for _, name := range j.reads {
			if g.name == name {
				values[name] = f64(typed, g)
			}
		}
	}
	if !typed.OK() {
		return true, s.showSolved(w, r, http.StatusUnprocessableEntity, typed, sc, nil)
	}
	q := sc.Question(sc.Now)
	var base forecast.Forecast
	found, err := []solution(nil), base.Run(q)
	if err == nil {
		found, err = j.solve(q, base, values)
	}
	view := &waysView{Goal: j.label}
	if err != nil || len(found) == 0 {
		sorry := j.none
		if err != nil {
			sorry = words.Sentence(err)
		}
		view.Ways = []wayView{{Knob: "", Sorry: sorry}}
		return true, s.showSolved(w, r, http.StatusOK, typed, sc, view)
	}
	if n, err := strconv.Atoi(chosen); apply && err == nil && n >= 0 && n < len(found) {
		next := found[n].recipe
		sc, err := station.Change(s.yard, r, func(d *brew.Draft) error {
			d.Recipe, d.Typed, d.Tab = next, nil, tab
			return nil
		})
		if err != nil {
			return true, err
		}
		return true, s.showRecipe(w, r, http.StatusOK, fillRecipe(sc), sc, "")
	}
	for i, one := range found {
		view.Ways = append(view.Ways, one.view(sc, fmt.Sprintf("%s%s/%d", jointPrefix, j.id, i)))
	}
	return true, s.showSolved(w, r, http.StatusOK, typed, sc, view)
}

func f64(f *form.Form, g goal) float64 { return f.Quantity(g.name, g.label, g.unit(), g.r, true) }

// view describes a solution: the changes, what each trades, and the result.
func (s solution) view(sc *station.Scene, choice string) wayView {
	v := wayView{Knob: s.name, Choice: choice,
		Then: fmt.Sprintf("%s, TDS %.2f %%, EY %.1f %%", s.predicted.Drawdown, s.predicted.TDS, s.predicted.Yield.Value)}
	changes := recipe.Changes(sc.Recipe, s.recipe)
	if len(changes) == 0 {
		v.Sorry, v.Choice = "No step of the settings comes nearer than now.", ""
		return v
	}
	var says []string
	for _, c := range changes {
		say, _ := coach.Describe(sc.Recipe, sc.Gear.Grinder, c, sc.Prefs)
		says = append(says, say)
	}
	v.Say = strings.Join(says, "; ")
	if s.nearest {
		v.To = "Both cannot be met; this is the nearest."
	}
	if s.note != "" {
		v.To = strings.TrimSpace(v.To + " " + s.note)
	}
	span := sc.Prefs.Unit(units.Span)
	for _, t := range s.traded {
		say, _ := coach.Describe(sc.Recipe, sc.Gear.Grinder, t.Change, sc.Prefs)
		v.Trades = append(v.Trades, fmt.Sprintf("%s alone: %s, EY %s, TDS %s", say, span.Difference(float64(t.Effect.Time)),
			units.Points(t.Effect.Yield, 1), units.Points(t.Effect.Strength, 2)))
	}
	return v
}

package trial

import (
	"fmt"
	"html/template"
	"net/http"
	"strings"

	"github.com/go-chi/chi/v5"

	"yardbloom/core/trial"
	"yardbloom/core/units"
	"yardbloom/web/figure"
	"yardbloom/web/form"
	"yardbloom/web/page"
)

// trialBody is one trial: its plan and its results so far.
type trialBody struct {
	ID, Name, About string
	Turned, Measure string // column heads
	Done, Of        int
	Fits            string
	Runs            []runView
	Answer          string
	Chart           template.HTML
	Levels          []levelView
	Steps           []string
	Expects         bool
	Error           string
}

type runView struct {
	N                  int
	Code, Level, Value string
	Typed, Error       string
	Brew               string
	Left, Next         bool
}

type levelView struct {
	Name, Mean, Expected string
	N                    int
}

// resultUnits holds the units of typed and shown results.
var resultUnits = map[trial.Measure]units.Unit{
	trial.ByMark:     {Symbol: "of 10", Scale: 1, Decimals: 1, Step: 1, Fine: 0.5},
	trial.ByYield:    {Symbol: "%", Scale: 1, Decimals: 1, Step: 0.1, Fine: 0.1},
	trial.ByStrength: form.Strength, trial.ByTime: form.Clock,
	trial.ByHeat: {Symbol: "°C", Scale: 1, Decimals: 1, Step: 1, Fine: 0.5},
}

// plausible holds the plausible range of results.
var plausible = map[trial.Measure]units.Range{trial.ByMark: {Lo: 1, Hi: 10}, trial.ByYield: {Lo: 5, Hi: 32}, trial.ByStrength: {Lo: 0.2, Hi: 6},
	trial.ByTime: {Lo: 20, Hi: 1800}, trial.ByHeat: {Lo: -2, Hi: 95}}

// headingOf returns the heading of what a trial varies.
func headingOf(t trial.Trial) string {
	if t.Second == nil {
		return t.Label()
	}
	return t.Label() + ", " + strings.ToLower(t.Second.Label())
}

func (s *Screens) trial(w http.ResponseWriter, r *http.Request) error {
	t, err := s.yard.Store.Trial(r.Context(), chi.URLParam(r, "id"))
	if err != nil {
		return err
	}
	return s.showTrial(w, r, http.StatusOK, t, form.New(), "")
}

func (s *Screens) showTrial(w http.ResponseWriter, r *http.Request, status int, t trial.Trial, f *form.Form, wrong string) error {
	t, err := s.yard.Collect(r.Context(), t)
	if err != nil {
		return err
	}
	prefs, u := page.Prefs(r), resultUnits[t.Measure]
	body := trialBody{ID: t.ID, Name: t.Name, Turned: headingOf(t), Measure: string(t.Measure), Of: len(t.Runs), Error: wrong,
		About: fmt.Sprintf("%s, %s; everything else as in its last recipe", t.Sheet.Bag.Name, t.Varies())}
	next := true
	for i, run := range t.Runs {
		v := runView{N: i + 1, Code: run.Code, Level: t.NameOf(run, prefs), Brew: run.Brew, Left: run.Skipped}
		switch {
		case run.Done:
			v.Value = u.Format(run.Value)
			body.Done++
		case run.Skipped:
			body.Of--
		default:
			v.Next, next = next, false
			if run.Code == f.Values["code"] {
				v.Typed, v.Error = f.Values["value"], f.Errors["value"]
			}
		}
		body.Runs = append(body.Runs, v)
	}
	bag, err := s.yard.Store.Bag(r.Context(), t.Sheet.BagID)
	if err != nil {
		return err
	}
	mass := prefs.Unit(units.BagWeight)
	body.Fits = "Every block has each level once, in random order."
	if t.Second != nil {
		body.Fits = "Every block has each pair of levels once, in random order."
	}
	if uses := t.Uses(); uses > 0 {
		body.Fits += fmt.Sprintf(" The remaining brews take %s of coffee and about %s.", mass.Format(float64(uses)), hours(t.Duration()))
		if uses > bag.Left() && bag.StockKnown() {
			body.Fits += fmt.Sprintf(" The bag holds %s: it will run out before the end. Brew block by block and leave the rest out; the "+
				"answer uses the brews that are done.", mass.Format(float64(bag.Left())))
		}
	}
	if a, ok := t.Answer(); ok {
		body.answer(t, t.Expect(a), prefs)
	}
	s.Render(w, r, status, "trial", page.Page{Title: t.Name, Side: "trials", Line: page.Line(""), Body: body})
	return nil
}

// answer adds the results of a trial so far.
func (body *trialBody) answer(t trial.Trial, a trial.Answer, prefs units.Prefs) {
	u := resultUnits[t.Measure]
	body.Answer = t.Describe(a, prefs)
	chart := figure.Levels{Unit: string(t.Measure), Decimals: u.Decimals}
	for _, l := range a.Levels {
		v := levelView{Name: t.NameAt(l, prefs), Mean: u.Format(l.Mean), N: l.N, Expected: "—"}
		if l.Error > 0 && t.Measure != trial.ByTime {
			v.Mean = fmt.Sprintf("%.*f ± %.*f %s", u.Decimals, l.Mean, u.Decimals, trial.LeastError(l.Error, u.Decimals), u.Symbol)
		}
		if l.Expected > 0 {
			v.Expected, body.Expects = u.Format(l.Expected), true
		}
		body.Levels = append(body.Levels, v)
		chart.Names, chart.Means, chart.Errors, chart.Expected = append(chart.Names, v.Name), append(chart.Means, l.Mean),
			append(chart.Errors, l.Error), append(chart.Expected, l.Expected)
	}
	body.Chart = chart.Draw()
	for _, step := range a.Steps {
		told := "not distinguishable"
		if step.Significant {
			told = "significant"
		}
		if a.Freedom < 1 {
			continue
		}
		body.Steps = append(body.Steps, fmt.Sprintf("%s to %s: %s ± %.*f, %s", t.LevelName(step.From, prefs),
			t.LevelName(step.To, prefs), units.Points(step.By, u.Decimals), u.Decimals,
			trial.LeastError(step.Error, u.Decimals), told))
	}
}

// findRun parses the code of a run. If it is invalid, runOf shows the trial with an error and returns false.
func (s *Screens) findRun(w http.ResponseWriter, r *http.Request) (f *form.Form, t trial.Trial, run int, ok bool, err error) {
	if f, err = form.Read(r); err != nil {
		return f, t, 0, false, err
	}
	if t, err = s.yard.Store.Trial(r.Context(), chi.URLParam(r, "id")); err != nil {
		return f, t, 0, false, err
	}
	if run, err = t.ByCode(f.Values["code"]); err != nil {
		return f, t, 0, false, s.showTrial(w, r, http.StatusUnprocessableEntity, t, f, "No brew of this trial has that code.")
	}
	return f, t, run, true, nil
}

// setResult stores the result of a run, by its code.
func (s *Screens) setResult(w http.ResponseWriter, r *http.Request) error {
	f, t, run, ok, err := s.findRun(w, r)
	if err != nil || !ok {
		return err
	}
	value := f.Quantity("value", "The result", resultUnits[t.Measure], plausible[t.Measure], true)
	if !f.OK() {
		return s.showTrial(w, r, http.StatusUnprocessableEntity, t, f, "")
	}
	return s.changeTrial(w, r, t.ID, func(t trial.Trial) (trial.Trial, error) { return t.SetResult(run, value, page.PersonID(r)), nil })
}

// changeTrial applies a change to a trial and shows it.
func (s *Screens) changeTrial(w http.ResponseWriter, r *http.Request, id string, step func(trial.Trial) (trial.Trial, error)) error {
	if err := s.yard.Store.ChangeTrial(r.Context(), id, step); err != nil {
		return err
	}
	return page.SeeOther(w, r, "/trials/%s", id)
}

// brewTrial opens the recipe of a run.
func (s *Screens) brewTrial(w http.ResponseWriter, r *http.Request) error {
	_, t, run, ok, err := s.findRun(w, r)
	if err != nil || !ok {
		return err
	}
	draftID, err := s.yard.OpenRun(r.Context(), t, run, page.PersonID(r))
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, "/brews/%s/recipe", draftID)
}

// endTrial marks the remaining runs as skipped.
func (s *Screens) endTrial(w http.ResponseWriter, r *http.Request) error {
	id := chi.URLParam(r, "id")
	if err := s.yard.EndTrial(r.Context(), id); err != nil {
		return err
	}
	return page.SeeOther(w, r, "/trials/%s", id)
}

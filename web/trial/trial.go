package trial

import (
	"errors"
	"fmt"
	"html/template"
	"math/rand/v2"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"yardbloom/core/brew"
	"yardbloom/core/recipe"
	"yardbloom/core/trial"
	"yardbloom/core/units"
	"yardbloom/core/water"
	"yardbloom/store"
	"yardbloom/web/figure"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/words"
)

// trialsBody is the list of trials with the form for a new one.
type trialsBody struct {
	Studies []trial.Study
	Fields  []form.Field
	Trials  []page.Entry
	Errors  int
}

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

// coffees is the number of coffees to choose from.
const coffees = 30

// trialKnobs lists the knobs that a trial can vary.
var trialKnobs = []recipe.Knob{recipe.Ratio, recipe.Grind, recipe.Temperature, recipe.Bloom, recipe.BloomTime, recipe.HandAfter,
	recipe.Pours, recipe.PourHeight, recipe.Screen, recipe.CutAt, recipe.Release, recipe.Dose, trial.ByWater}

// resultUnits holds the units of typed and shown results.
var resultUnits = map[trial.Measure]units.Unit{
	trial.ByMark:     {Symbol: "of 10", Scale: 1, Decimals: 1, Step: 1, Fine: 0.5},
	trial.ByYield:    {Symbol: "%", Scale: 1, Decimals: 1, Step: 0.1, Fine: 0.1},
	trial.ByStrength: form.Strength, trial.ByTime: form.Clock,
}

// plausible holds the plausible range of results.
var plausible = map[trial.Measure]units.Range{trial.ByMark: {Lo: 1, Hi: 10}, trial.ByYield: {Lo: 5, Hi: 32}, trial.ByStrength: {Lo: 0.2, Hi: 6},
	trial.ByTime: {Lo: 20, Hi: 1800}}

func (s *Screens) trials(w http.ResponseWriter, r *http.Request) error {
	f := form.New()
	f.Values["repeats"] = "3"
	if last, err := s.yard.Store.Log(r.Context(), store.Filter{Limit: 1}); err != nil {
		return err
	} else if len(last) > 0 {
		b, err := s.yard.Store.Brew(r.Context(), last[0].ID)
		if err != nil {
			return err
		}
		f.Values["bag"] = b.BagID
	}
	for _, study := range trial.Studies() {
		if study.ID != r.URL.Query().Get("study") {
			continue
		}
		f.Values["name"], f.Values["turned"], f.Values["measure"], f.Values["repeats"] = study.Name, string(study.Knob),
			string(study.Measure), strconv.Itoa(study.Repeats)
		sheet, err := s.trialSheet(r, f.Values["bag"])
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
		var levels []string
		for _, v := range study.Levels(sheet.Recipe) {
			levels = append(levels, levelTyped(study.Knob, v, page.Prefs(r)))
		}
		f.Values["levels"] = strings.Join(levels, ", ")
	}
	return s.showTrials(w, r, http.StatusOK, f)
}

// levelTyped formats a level for its field.
func levelTyped(k recipe.Knob, v float64, prefs units.Prefs) string {
	if k.Choices() != nil {
		return k.Choices()[int(v)]
	}
	return prefs.Unit(k.Kind()).Number(v)
}

func (s *Screens) showTrials(w http.ResponseWriter, r *http.Request, status int, f *form.Form) error {
	all, err := s.yard.Store.Trials(r.Context())
	if err != nil {
		return err
	}
	bags, err := s.yard.Store.BagNames(r.Context(), coffees)
	if err != nil {
		return err
	}
	name := f.Entry("name", "Question")
	levels := f.Entry("levels", "Levels")
	levels.Hint = "Two to six, with commas: 12, 14, 16; for waters their names."
	minutes := f.Stepper("minutes", "Minutes available", form.Count)
	minutes.Hint = "Empty: as long as it takes."
	body := trialsBody{Studies: trial.Studies(), Errors: len(f.Errors), Fields: []form.Field{
		name,
		form.Select(f, "bag", "Coffee, with its last recipe", bags, func(b store.Thing) (string, string) { return b.ID, b.Name }),
		form.Select(f, "turned", "Variable", trialKnobs, func(k recipe.Knob) (string, string) {
			return string(k), trial.Trial{Knob: k}.Label()
		}),
		levels,
		f.Stepper("repeats", "Brews of each level", form.Count),
		form.Select(f, "measure", "Measure", trial.Measures(), form.Plain),
		minutes,
	}}
	for _, d := range all {
		t, err := s.yard.Collect(r.Context(), d.Value)
		if err != nil {
			return err
		}
		v := page.Entry{Href: "/trials/" + t.ID, Name: t.Name, When: words.Moment(d.At, s.yard.Now()),
			Says: fmt.Sprintf("%s at %d levels; no answer yet", t.Variable(), len(t.Levels)), By: page.BadgeOf(r, t.By)}
		if a, ok := t.Answer(); ok {
			v.Says = t.Describe(a, page.Prefs(r))
		}
		body.Trials = append(body.Trials, v)
	}
	s.Render(w, r, status, "trials", page.Page{Title: "Trials", Side: "trials", Line: page.Line(""), Body: body})
	return nil
}

// trialSheet returns the fixed part of a trial of a bag: its last brew's recipe and gear.
func (s *Screens) trialSheet(r *http.Request, bagID string) (brew.Sheet, error) {
	last, err := s.yard.Store.LastBrew(r.Context(), bagID)
	sheet := last.Sheet
	sheet.Created = s.yard.Now()
	return sheet, err
}

// addTrial creates a trial.
func (s *Screens) addTrial(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	name := f.Text("name", "The question", 80, false)
	turned := form.Choice(f, "turned", "a variable", trialKnobs)
	measure := form.Choice(f, "measure", "a measure", trial.Measures())
	repeats := int(f.Quantity("repeats", "The number of brews", form.Count, units.Range{Lo: 1, Hi: trial.MostRepeats}, true))
	minutes := f.Quantity("minutes", "The time", form.Count, units.Range{Lo: 5, Hi: 600}, false)
	var levels []float64
	var waters []water.Water
	if turned == trial.ByWater {
		if waters, err = s.readWaters(r, f); err != nil {
			return err
		}
	} else {
		levels = readLevels(f, turned, page.Prefs(r))
	}
	sheet, err := s.trialSheet(r, f.Values["bag"])
	switch {
	case errors.Is(err, store.ErrNotFound):
		f.Fail("bag", "Brew this coffee once first: a trial keeps everything else of its last recipe.")
	case err != nil:
		return err
	}
	if !f.OK() {
		return s.showTrials(w, r, http.StatusUnprocessableEntity, f)
	}
	if name == "" {
		name = sheet.Bag.Name + ": " + strings.ToLower(trial.Trial{Knob: turned}.Label())
	}
	var t trial.Trial
	if seed := rand.Uint64() >> 12; turned == trial.ByWater {
		t, err = trial.NewOfWaters(store.NewID(), name, sheet, waters, repeats, measure, seed)
	} else {
		t, err = trial.New(store.NewID(), name, sheet, turned, levels, repeats, measure, seed)
	}
	var wrong *units.ValueError
	switch {
	case errors.Is(err, trial.ErrKnob):
		f.Fail("turned", "The last recipe of this coffee has no %s.", strings.TrimPrefix(turned.Name(), "the "))
	case errors.Is(err, trial.ErrLevels):
		f.Fail("levels", "Two to six different levels make a trial.")
	case errors.As(err, &wrong):
		f.Fail("levels", "%s", words.InvalidValue(err, "A level", page.Prefs(r).Unit(turned.Kind())))
	case err != nil:
		return err
	default:
		bag, err := s.yard.Store.Bag(r.Context(), t.Sheet.BagID)
		if err != nil {
			return err
		}
		if n := t.Fits(bag.Left(), units.Seconds(60*minutes)); n < t.Repeats {
			mass := page.Prefs(r).Unit(units.BagWeight)
			f.Fail("repeats", "It needs %s and about %s; the bag has %s. %s.", mass.Format(float64(t.Uses())), hours(t.Duration()),
				mass.Format(float64(bag.Left())), repeatsText(n))
		}
	}
	if !f.OK() {
		return s.showTrials(w, r, http.StatusUnprocessableEntity, f)
	}
	t.By = page.PersonID(r)
	if err := s.yard.Store.AddTrial(r.Context(), t, s.yard.Now()); err != nil {
		return err
	}
	return page.SeeOther(w, r, "/trials/%s", t.ID)
}

// repeatsText describes how many repeats fit.
func repeatsText(n int) string {
	switch n {
	case 0:
		return "Not even one brew of each level fits: take fewer levels, or a smaller dose"
	case 1:
		return "One brew of each level fits, which gives no error"
	}
	return fmt.Sprintf("%d brews of each level fit", n)
}

// hours formats a longer time, such as 1 h 20.
func hours(t units.Seconds) string {
	m := int(float64(t)/60 + 0.5)
	if m < 60 {
		return fmt.Sprintf("%d min", m)
	}
	return fmt.Sprintf("%d h %02d", m/60, m%60)
}

// readLevels parses the levels of a knob: numbers in the person's units, or names of choices.
func readLevels(f *form.Form, k recipe.Knob, prefs units.Prefs) (out []float64) {
	sep := func(r rune) bool { return r == ',' || r == ';' }
	if k.Choices() == nil && !strings.ContainsAny(f.Values["levels"], ",;") {
		sep = func(r rune) bool { return r == ' ' }
	}
	for one := range strings.FieldsFuncSeq(f.Values["levels"], sep) {
		one = strings.TrimSpace(one)
		if one == "" {
			continue
		}
		if choices := k.Choices(); choices != nil {
			i := slices.Index(choices, strings.ToLower(one))
			if i < 0 {
				f.Fail("levels", "“%s” is not one of: %s.", one, strings.Join(choices, ", "))
				return nil
			}
			out = append(out, float64(i))
			continue
		}
		v, err := prefs.Unit(k.Kind()).Parse(one)
		if err != nil {
			f.Fail("levels", "%s", words.InvalidValue(err, "A level", prefs.Unit(k.Kind())))
			return nil
		}
		out = append(out, v)
	}
	if len(out) < trial.FewestLevels {
		f.Fail("levels", "Two to six different levels make a trial.")
	}
	return out
}

// readWaters parses the names of the yard's waters.
func (s *Screens) readWaters(r *http.Request, f *form.Form) (out []water.Water, err error) {
	all, err := s.yard.Store.Waters(r.Context())
	if err != nil {
		return nil, err
	}
	names := make([]string, len(all))
	for i, w := range all {
		names[i] = w.Name
	}
	for typed := range strings.SplitSeq(f.Values["levels"], ",") {
		typed = strings.TrimSpace(typed)
		if typed == "" {
			continue
		}
		i := slices.IndexFunc(names, func(n string) bool { return strings.EqualFold(n, typed) })
		switch {
		case i < 0 && len(names) == 0:
			f.Fail("levels", "Add your waters under Gear first.")
		case i < 0:
			f.Fail("levels", "“%s” is not one of your waters: %s.", units.Shorten(typed), strings.Join(names, ", "))
		case !slices.Contains(out, all[i]):
			out = append(out, all[i])
		}
	}
	if len(out) < trial.FewestLevels && f.OK() {
		f.Fail("levels", "Two to six different waters make a trial.")
	}
	return out, nil
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
	body := trialBody{ID: t.ID, Name: t.Name, Turned: t.Label(), Measure: string(t.Measure), Of: len(t.Runs), Error: wrong,
		About: fmt.Sprintf("%s, %s; everything else as in its last recipe", t.Sheet.Bag.Name, t.Variable())}
	next := true
	for i, run := range t.Runs {
		v := runView{N: i + 1, Code: run.Code, Level: t.LevelName(t.Levels[run.Level], prefs), Brew: run.Brew, Left: run.Skipped}
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
	if uses := t.Uses(); uses > 0 {
		body.Fits += fmt.Sprintf(" The remaining brews take %s of coffee and about %s.", mass.Format(float64(uses)), hours(t.Duration()))
		if uses > bag.Left() {
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
		v := levelView{Name: t.LevelName(l.At, prefs), Mean: u.Format(l.Mean), N: l.N, Expected: "—"}
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

package web

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
	"yardbloom/store"
	"yardbloom/web/figure"
	"yardbloom/web/form"
	"yardbloom/web/words"
)

// trialsBody is the list of trials with the form for a new one.
type trialsBody struct {
	Studies []trial.Study
	Fields  []form.Field
	Trials  []listed
	Errors  int
}

// trialBody is one trial: its plan, and what it says so far.
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

// trialKnobs are what a trial can turn.
var trialKnobs = []recipe.Knob{recipe.Ratio, recipe.Grind, recipe.Temperature, recipe.Bloom, recipe.BloomTime, recipe.HandAfter, recipe.Pours, recipe.PourHeight, recipe.Release, recipe.Dose}

// measured are the units in which results are typed and said.
var measured = map[trial.Measure]units.Unit{
	trial.ByMark: {Symbol: "of 10", Scale: 1, Decimals: 1, Step: 1, Fine: 0.5}, trial.ByYield: {Symbol: "%", Scale: 1, Decimals: 1, Step: 0.1, Fine: 0.1},
	trial.ByStrength: tdsUnit, trial.ByTime: clock,
}

// found are the results that can be real.
var found = map[trial.Measure]units.Range{trial.ByMark: {Lo: 1, Hi: 10}, trial.ByYield: {Lo: 5, Hi: 32}, trial.ByStrength: {Lo: 0.2, Hi: 6}, trial.ByTime: {Lo: 20, Hi: 1800}}

func (s *Server) trials(w http.ResponseWriter, r *http.Request) error {
	f := form.New()
	f.Values["repeats"] = "3"
	if last, err := s.Store.Log(r.Context(), store.Filter{Limit: 1}); err != nil {
		return err
	} else if len(last) > 0 {
		b, err := s.Store.Brew(r.Context(), last[0].ID)
		if err != nil {
			return err
		}
		f.Values["bag"] = b.BagID
	}
	for _, study := range trial.Studies() {
		if study.ID != r.URL.Query().Get("study") {
			continue
		}
		f.Values["name"], f.Values["turned"], f.Values["measure"], f.Values["repeats"] = study.Name, string(study.Turned), string(study.Measure), strconv.Itoa(study.Repeats)
		sheet, err := s.trialSheet(r, f.Values["bag"])
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
		var levels []string
		for _, v := range study.Levels(sheet.Recipe) {
			levels = append(levels, levelTyped(study.Turned, v, prefsOf(r)))
		}
		f.Values["levels"] = strings.Join(levels, ", ")
	}
	return s.showTrials(w, r, http.StatusOK, f)
}

// levelTyped is a level as it is typed.
func levelTyped(k recipe.Knob, v float64, prefs units.Prefs) string {
	if k.Choices() != nil {
		return k.Choices()[int(v)]
	}
	return prefs.Unit(k.Kind()).Number(v)
}

func (s *Server) showTrials(w http.ResponseWriter, r *http.Request, status int, f *form.Form) error {
	all, err := s.Store.Trials(r.Context())
	if err != nil {
		return err
	}
	bags, err := s.Store.BagNames(r.Context(), logCoffees)
	if err != nil {
		return err
	}
	name := f.Entry("name", "Question")
	levels := f.Entry("levels", "Levels")
	levels.Hint = "Two to six, with commas: 12, 14, 16."
	minutes := f.Stepper("minutes", "Minutes that you have", markUnit)
	minutes.Hint = "Empty: as long as it takes."
	body := trialsBody{Studies: trial.Studies(), Errors: len(f.Errors), Fields: []form.Field{
		name,
		form.Select(f, "bag", "Coffee, with its last recipe", bags, func(b store.Thing) (string, string) { return b.ID, b.Name }),
		form.Select(f, "turned", "What is turned", trialKnobs, func(k recipe.Knob) (string, string) { return string(k), k.Label() }),
		levels,
		f.Stepper("repeats", "Brews of each level", markUnit),
		form.Select(f, "measure", "What is asked of each cup", trial.Measures(), form.Plain),
		minutes,
	}}
	for _, d := range all {
		t, err := s.collected(r, d.It)
		if err != nil {
			return err
		}
		v := listed{Href: "/trials/" + t.ID, Name: t.Name, When: words.Moment(d.At, s.Now()), Says: fmt.Sprintf("%s at %d levels; no answer yet", t.Turned.Name(), len(t.Levels))}
		if a, ok := t.Answer(); ok {
			v.Says = t.Says(a, prefsOf(r))
		}
		body.Trials = append(body.Trials, v)
	}
	s.render(w, r, status, "trials", page{Title: "Trials", Side: "trials", Line: emptyLine(""), Body: body})
	return nil
}

// trialSheet is what a trial of a bag keeps the same: its last brew's recipe and gear.
func (s *Server) trialSheet(r *http.Request, bagID string) (brew.Sheet, error) {
	last, err := s.Store.LastBrew(r.Context(), bagID)
	sheet := last.Sheet
	sheet.Created = s.Now()
	return sheet, err
}

// addTrial makes a plan.
func (s *Server) addTrial(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	name := f.Text("name", "The question", 80, false)
	turned := form.Choice(f, "turned", "what is turned", trialKnobs)
	measure := form.Choice(f, "measure", "what is asked of each cup", trial.Measures())
	repeats := int(f.Quantity("repeats", "The number of brews", markUnit, units.Range{Lo: 1, Hi: trial.MostRepeats}, true))
	minutes := f.Quantity("minutes", "The time", markUnit, units.Range{Lo: 5, Hi: 600}, false)
	levels := readLevels(f, turned, prefsOf(r))
	sheet, err := s.trialSheet(r, f.Values["bag"])
	switch {
	case errors.Is(err, store.ErrNotFound):
		f.Fail("bag", "Brew this coffee once first: a trial keeps all else of its last recipe.")
	case err != nil:
		return err
	}
	if !f.OK() {
		return s.showTrials(w, r, http.StatusUnprocessableEntity, f)
	}
	if name == "" {
		name = sheet.Bag.Name + ": " + strings.ToLower(turned.Label())
	}
	t, err := trial.New(store.NewID(), name, sheet, turned, levels, repeats, measure, rand.Uint64()>>12)
	var wrong *units.ValueError
	switch {
	case errors.Is(err, trial.ErrKnob):
		f.Fail("turned", "The last recipe of this coffee has no %s to turn.", strings.TrimPrefix(turned.Name(), "the "))
	case errors.Is(err, trial.ErrLevels):
		f.Fail("levels", "Two to six different levels make a trial.")
	case errors.As(err, &wrong):
		f.Fail("levels", "%s", words.Wrong(err, "A level", prefsOf(r).Unit(turned.Kind())))
	case err != nil:
		return err
	default:
		bag, err := s.Store.Bag(r.Context(), t.Sheet.BagID)
		if err != nil {
			return err
		}
		if n := t.Fits(bag.Left(), units.Seconds(60*minutes)); n < t.Repeats {
			mass := prefsOf(r).Unit(units.BagWeight)
			f.Fail("repeats", "It would take %s and about %s; the bag holds %s. %s.", mass.Format(float64(t.Uses())), hours(t.Lasts()), mass.Format(float64(bag.Left())), enoughFor(n))
		}
	}
	if !f.OK() {
		return s.showTrials(w, r, http.StatusUnprocessableEntity, f)
	}
	if err := s.Store.AddTrial(r.Context(), t, s.Now()); err != nil {
		return err
	}
	return seeOther(w, r, "/trials/%s", t.ID)
}

// enoughFor says how many repeats fit.
func enoughFor(n int) string {
	switch n {
	case 0:
		return "Not even one brew of each level fits: take fewer levels, or a smaller dose"
	case 1:
		return "One brew of each level fits, which says nothing of its error"
	}
	return fmt.Sprintf("%d brews of each level fit", n)
}

// hours is a longer time, such as 1 h 20.
func hours(t units.Seconds) string {
	m := int(float64(t)/60 + 0.5)
	if m < 60 {
		return fmt.Sprintf("%d min", m)
	}
	return fmt.Sprintf("%d h %02d", m/60, m%60)
}

// readLevels reads the levels of a knob: numbers in the person's units, or the names of choices.
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
				f.Fail("levels", "“%s” is none of: %s.", one, strings.Join(choices, ", "))
				return nil
			}
			out = append(out, float64(i))
			continue
		}
		v, err := prefs.Unit(k.Kind()).Parse(one)
		if err != nil {
			f.Fail("levels", "%s", words.Wrong(err, "A level", prefs.Unit(k.Kind())))
			return nil
		}
		out = append(out, v)
	}
	if len(out) < trial.FewestLevels {
		f.Fail("levels", "Two to six different levels make a trial.")
	}
	return out
}

// collected is a trial with what its brews came to by now.
func (s *Server) collected(r *http.Request, t trial.Trial) (trial.Trial, error) {
	for i, run := range t.Runs {
		if run.Brew == "" || run.Done || run.Left {
			continue
		}
		b, err := s.Store.Brew(r.Context(), run.Brew)
		if errors.Is(err, store.ErrNotFound) { // a recipe in the making still
			continue
		}
		if err != nil {
			return t, err
		}
		if v, ok := resultOf(b, t.Measure); ok && b.Status == brew.Done {
			t = t.Found(i, v)
		}
	}
	return t, nil
}

// resultOf is what a brew came to by a measure.
func resultOf(b brew.Brew, m trial.Measure) (float64, bool) {
	switch m {
	case trial.ByMark:
		return float64(b.Cup.Overall), b.Cup.Overall > 0
	case trial.ByStrength:
		return b.Cup.TDS, b.Cup.TDS > 0
	case trial.ByTime:
		return float64(b.Cup.Drawdown), b.Cup.Drawdown > 0
	}
	y, ok := b.Yield()
	return y.Value, ok
}

func (s *Server) trial(w http.ResponseWriter, r *http.Request) error {
	t, err := s.Store.Trial(r.Context(), chi.URLParam(r, "id"))
	if err != nil {
		return err
	}
	return s.showTrial(w, r, http.StatusOK, t, form.New(), "")
}

func (s *Server) showTrial(w http.ResponseWriter, r *http.Request, status int, t trial.Trial, f *form.Form, wrong string) error {
	t, err := s.collected(r, t)
	if err != nil {
		return err
	}
	prefs, u := prefsOf(r), measured[t.Measure]
	at := recipe.Of(t.Turned)
	body := trialBody{ID: t.ID, Name: t.Name, Turned: t.Turned.Label(), Measure: string(t.Measure), Of: len(t.Runs), Error: wrong,
		About: fmt.Sprintf("%s, %s; all else as in its last recipe", t.Sheet.Bag.Name, t.Turned.Name())}
	next := true
	for i, run := range t.Runs {
		v := runView{N: i + 1, Code: run.Code, Level: trial.LevelName(t.Turned, t.Levels[run.Level], prefs), Brew: run.Brew, Left: run.Left}
		switch {
		case run.Done:
			v.Value = u.Format(run.Value)
			body.Done++
		case run.Left:
			body.Of--
		default:
			v.Next, next = next, false
			if run.Code == f.Values["code"] {
				v.Typed, v.Error = f.Values["value"], f.Errors["value"]
			}
		}
		body.Runs = append(body.Runs, v)
	}
	bag, err := s.Store.Bag(r.Context(), t.Sheet.BagID)
	if err != nil {
		return err
	}
	mass := prefs.Unit(units.BagWeight)
	body.Fits = "Every block has each level once; chance decided the order."
	if uses := t.Uses(); uses > 0 {
		body.Fits += fmt.Sprintf(" What is left takes %s of coffee and about %s.", mass.Format(float64(uses)), hours(t.Lasts()))
		if uses > bag.Left() {
			body.Fits += fmt.Sprintf(" The bag holds %s: it will run out on the way. Go on block by block and leave the rest out; the answer counts what is there.", mass.Format(float64(bag.Left())))
		}
	}
	if a, ok := t.Answer(); ok {
		body.answer(t, t.Expect(a), at, prefs)
	}
	s.render(w, r, status, "trial", page{Title: t.Name, Side: "trials", Line: emptyLine(""), Body: body})
	return nil
}

// answer fills in what a trial says so far.
func (body *trialBody) answer(t trial.Trial, a trial.Answer, at recipe.Address, prefs units.Prefs) {
	u := measured[t.Measure]
	body.Answer = t.Says(a, prefs)
	chart := figure.Levels{Unit: string(t.Measure), Decimals: u.Decimals}
	for _, l := range a.Levels {
		v := levelView{Name: trial.LevelName(at.Knob, l.At, prefs), Mean: u.Format(l.Mean), N: l.N, Expected: "—"}
		if l.Error > 0 && t.Measure != trial.ByTime {
			v.Mean = fmt.Sprintf("%.*f ± %.*f %s", u.Decimals, l.Mean, u.Decimals, trial.LeastError(l.Error, u.Decimals), u.Symbol)
		}
		if l.Expected > 0 {
			v.Expected, body.Expects = u.Format(l.Expected), true
		}
		body.Levels = append(body.Levels, v)
		chart.Names, chart.Means, chart.Errors, chart.Expected = append(chart.Names, v.Name), append(chart.Means, l.Mean), append(chart.Errors, l.Error), append(chart.Expected, l.Expected)
	}
	body.Chart = chart.Draw()
	for _, step := range a.Steps {
		told := "less than can be told"
		if step.Told {
			told = "more than chance"
		}
		if a.Freedom < 1 {
			continue
		}
		body.Steps = append(body.Steps, fmt.Sprintf("%s to %s: %s ± %.*f, %s", trial.LevelName(at.Knob, step.From, prefs), trial.LevelName(at.Knob, step.To, prefs), units.Points(step.By, u.Decimals), u.Decimals, trial.LeastError(step.Error, u.Decimals), told))
	}
}

// runOf reads which run of which trial a form names by its code. Where it names none it has
// shown the trial with a sentence, and returns false.
func (s *Server) runOf(w http.ResponseWriter, r *http.Request) (f *form.Form, t trial.Trial, run int, ok bool, err error) {
	if f, err = form.Read(r); err != nil {
		return f, t, 0, false, err
	}
	if t, err = s.Store.Trial(r.Context(), chi.URLParam(r, "id")); err != nil {
		return f, t, 0, false, err
	}
	if run, err = t.ByCode(f.Values["code"]); err != nil {
		return f, t, 0, false, s.showTrial(w, r, http.StatusUnprocessableEntity, t, f, "No brew of this trial has that code.")
	}
	return f, t, run, true, nil
}

// foundInTrial keeps what one run came to, by its code.
func (s *Server) foundInTrial(w http.ResponseWriter, r *http.Request) error {
	f, t, run, ok, err := s.runOf(w, r)
	if err != nil || !ok {
		return err
	}
	value := f.Quantity("value", "The result", measured[t.Measure], found[t.Measure], true)
	if !f.OK() {
		return s.showTrial(w, r, http.StatusUnprocessableEntity, t, f, "")
	}
	return s.changeTrial(w, r, t.ID, func(t trial.Trial) (trial.Trial, error) { return t.Found(run, value), nil })
}

// changeTrial takes a step of a trial and shows it.
func (s *Server) changeTrial(w http.ResponseWriter, r *http.Request, id string, step func(trial.Trial) (trial.Trial, error)) error {
	if err := s.Store.ChangeTrial(r.Context(), id, step); err != nil {
		return err
	}
	return seeOther(w, r, "/trials/%s", id)
}

// brewTrial opens the recipe of a run.
func (s *Server) brewTrial(w http.ResponseWriter, r *http.Request) error {
	_, t, run, ok, err := s.runOf(w, r)
	if err != nil || !ok {
		return err
	}
	d := brew.Draft{Sheet: t.Sheet, Held: brew.StartHeld}
	d.ID, d.Parent, d.Asked, d.Created = store.NewID(), "", nil, s.Now()
	d.Recipe = t.Recipe(t.Runs[run])
	if d.ID, err = s.Store.OpenDraft(r.Context(), d, s.Now()); err != nil {
		return err
	}
	err = s.Store.ChangeTrial(r.Context(), t.ID, func(t trial.Trial) (trial.Trial, error) { return t.Began(run, d.ID), nil })
	if err != nil {
		return err
	}
	return seeOther(w, r, "/brews/%s/recipe", d.ID)
}

// endTrial leaves out what was not brewed.
func (s *Server) endTrial(w http.ResponseWriter, r *http.Request) error {
	return s.changeTrial(w, r, chi.URLParam(r, "id"), func(t trial.Trial) (trial.Trial, error) {
		t, err := s.collected(r, t)
		for i, run := range t.Runs {
			if !run.Done {
				t = t.LeaveOut(i)
			}
		}
		return t, err
	})
}

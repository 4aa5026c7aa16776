package trial

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"yardbloom/core/brew"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/trial"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/words"
)

// trialsBody is the list of trials with the form for a new one.
type trialsBody struct {
	Studies []trial.Study
	Fields  []form.Field
	Second  []form.Field // of a second variable
	Open    bool         // the second variable
	Trials  []page.Entry
	Errors  int
}

// coffees is the number of coffees to choose from.
const coffees = 30

// variables lists the variables of a trial.
var variables = []recipe.Knob{recipe.Ratio, recipe.Grind, recipe.Temperature, recipe.Bloom, recipe.BloomTime, recipe.HandAfter,
	recipe.Pours, recipe.PourHeight, recipe.PourPattern, recipe.Wait, recipe.Screen, recipe.CutAt, recipe.Discard, recipe.Release, recipe.First,
	recipe.CrustAt, recipe.Dose, recipe.Rinse, recipe.IcePart, recipe.IceAt,
	trial.ByStyle, trial.ByPaper, trial.ByBrewer, trial.ByGrinder, trial.ByWater, trial.ByName}

// none is the value of the second variable of a trial of one.
const none = recipe.Knob("none")

// A place is the names of the fields of a variable.
type place struct{ turned, levels string }

var first, second = place{"turned", "levels"}, place{"second", "second_levels"}

func (s *Screens) trials(w http.ResponseWriter, r *http.Request) error {
	f := form.New()
	f.Values["repeats"] = "3"
	q := r.URL.Query()
	if f.Values["bag"] = q.Get("bag"); f.Values["bag"] == "" {
		last, err := s.yard.Store.Log(r.Context(), store.Filter{Limit: 1})
		if err != nil {
			return err
		}
		if len(last) > 0 {
			b, err := s.yard.Store.Brew(r.Context(), last[0].ID)
			if err != nil {
				return err
			}
			f.Values["bag"] = b.BagID
		}
	}
	for _, name := range []string{"name", "turned", "levels", "second", "second_levels", "measure"} { // a link to a planned trial
		f.Values[name] = q.Get(name)
	}
	f.Values["repeats"] = cmp.Or(q.Get("repeats"), f.Values["repeats"])
	for _, study := range trial.Studies() {
		if study.ID != q.Get("study") {
			continue
		}
		f.Values["name"], f.Values["turned"], f.Values["measure"], f.Values["repeats"] = study.Name, string(study.Knob),
			string(study.Measure), strconv.Itoa(study.Repeats)
		sheet, err := s.trialSheet(r, f.Values["bag"])
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
		levels := study.Names
		if study.Levels != nil {
			for _, v := range study.Levels(sheet.Recipe) {
				levels = append(levels, levelTyped(study.Knob, v, page.Prefs(r)))
			}
		}
		f.Values["levels"] = strings.Join(levels, ", ")
		if err == nil && study.For != nil && !study.For(sheet.Recipe) {
			f.Fail("bag", "The last recipe of this coffee does not suit this question: choose another coffee.")
		}
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

func variableName(k recipe.Knob) (value, label string) {
	if k == none {
		return string(none), "nothing else"
	}
	return string(k), trial.Factor{Knob: k}.Label()
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
	if bag := f.Values["bag"]; bag != "" && !slices.ContainsFunc(bags, func(b store.Thing) bool { return b.ID == bag }) {
		f.Values["bag"] = ""
	}
	name := f.Entry("name", "Question")
	levels := f.Entry("levels", "Levels")
	levels.Hint = "Two to six, with commas: 12, 14, 16; for papers, brewers, grinders, schools and waters their names. Semicolons separate " +
		"names that have commas."
	minutes := f.Stepper("minutes", "Minutes available", form.Count)
	minutes.Hint = "Empty: as long as it takes."
	others := f.Entry("second_levels", "Its two levels")
	others.Hint = "With a comma. The first variable then has two levels too, and each of the four pairs is brewed."
	body := trialsBody{Studies: trial.Studies(), Errors: len(f.Errors), Fields: []form.Field{
		name,
		form.Select(f, "bag", "Coffee, with its last recipe", bags, func(b store.Thing) (string, string) { return b.ID, b.Name }),
		form.Select(f, "turned", "Variable", variables, variableName),
		levels,
		f.Stepper("repeats", "Brews of each level", form.Count),
		form.Select(f, "measure", "Measure", trial.Measures(), form.Plain),
		minutes,
	}, Second: []form.Field{
		form.Select(f, "second", "Second variable", append([]recipe.Knob{none}, variables...), variableName),
		others,
	}}
	body.Open = f.Values["second"] != "" && f.Values["second"] != string(none)
	for _, d := range all {
		t, err := s.yard.Collect(r.Context(), d.Value)
		if err != nil {
			return err
		}
		v := page.Entry{Href: "/trials/" + t.ID, Name: t.Name, When: words.Moment(d.At, s.yard.Now()),
			Says: fmt.Sprintf("%s at %d levels; no answer yet", t.Varies(), len(t.Levels)), By: page.BadgeOf(r, t.By)}
		if a, ok := t.Answer(); ok {
			v.Says = t.Describe(a, page.Prefs(r))
		}
		body.Trials = append(body.Trials, v)
	}
	s.Render(w, r, status, "trials", page.Page{Title: "Trials", Side: "trials", Line: page.Line(""), Notice: page.RemovedNotice(r), Body: body})
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
	measure := form.Choice(f, "measure", "a measure", trial.Measures())
	repeats := int(f.Quantity("repeats", "The number of brews", form.Count, units.Range{Lo: 1, Hi: trial.MostRepeats}, true))
	minutes := f.Quantity("minutes", "The time", form.Count, units.Range{Lo: 5, Hi: 600}, false)
	sheet, err := s.trialSheet(r, f.Values["bag"])
	switch {
	case errors.Is(err, store.ErrNotFound):
		f.Fail("bag", "Brew this coffee once first: a trial keeps everything else of its last recipe.")
		return s.showTrials(w, r, http.StatusUnprocessableEntity, f)
	case err != nil:
		return err
	}
	factor, err := s.readFactor(r, f, first, sheet)
	if err != nil {
		return err
	}
	var other *trial.Factor
	if typed := f.Values[second.turned]; typed != "" && typed != string(none) {
		read, err := s.readFactor(r, f, second, sheet)
		if err != nil {
			return err
		}
		other = &read
	}
	if !f.OK() {
		return s.showTrials(w, r, http.StatusUnprocessableEntity, f)
	}
	t, err := trial.New(store.NewID(), name, sheet, factor, other, repeats, measure, rand.Uint64()>>12)
	if t.Name == "" {
		t.Name = sheet.Bag.Name + ": " + strings.ToLower(headingOf(t))
	}
	if err != nil && !failPlan(f, t, err, page.Prefs(r)) {
		return err
	}
	if f.OK() {
		bag, err := s.yard.Store.Bag(r.Context(), t.Sheet.BagID)
		if err != nil {
			return err
		}
		left := bag.Left()
		if !bag.StockKnown() {
			left = math.MaxInt32 // it may be too little
		}
		if n := t.Fits(left, units.Seconds(60*minutes)); n < t.Repeats {
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

// failPlan adds the error of a plan to its field. It returns false for an error of another kind.
func failPlan(f *form.Form, t trial.Trial, err error, prefs units.Prefs) bool {
	var wrong *units.ValueError
	switch {
	case errors.Is(err, trial.ErrKnob):
		at, factor := first.turned, t.Factor
		if t.Second != nil && t.Sheet.Recipe.Has(recipe.AddressOf(factor.Knob)) || trial.Chosen(factor.Knob) {
			at, factor = second.turned, *t.Second
		}
		f.Fail(at, "The last recipe of this coffee has no %s.", strings.TrimPrefix(factor.Variable(), "the "))
	case errors.Is(err, trial.ErrValve):
		f.Fail(first.levels, "One recipe does not suit both a steeper and a brewer without a valve: name brewers of one kind.")
	case errors.Is(err, trial.ErrPairs):
		f.Fail(first.levels, "Two things at once are varied at two levels each: name two here, and two of the other.")
	case errors.Is(err, trial.ErrSame):
		f.Fail(second.turned, "That is the first variable: choose another one, or nothing else.")
	case errors.Is(err, trial.ErrLevels):
		f.Fail(first.levels, "Two to six different levels make a trial.")
	case errors.As(err, &wrong):
		at, kind := first.levels, t.Knob.Kind()
		if address, ok := wrong.At.(recipe.Address); ok && address.Knob != t.Knob {
			at, kind = second.levels, address.Knob.Kind()
		}
		f.Fail(at, "%s", words.InvalidValue(err, "A level", prefs.Unit(kind)))
	default:
		return false
	}
	return true
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

// readFactor parses a variable and its levels, for a trial of a sheet.
func (s *Screens) readFactor(r *http.Request, f *form.Form, at place, sheet brew.Sheet) (trial.Factor, error) {
	k := form.Choice(f, at.turned, "a variable", variables)
	if !trial.Chosen(k) {
		return trial.Of(k, readLevels(f, at.levels, k, page.Prefs(r))...), nil
	}
	listed, what, err := s.options(r, k, sheet)
	if err != nil {
		return trial.Factor{}, err
	}
	return trial.OfOptions(k, readOptions(f, at.levels, k, listed, what)), nil
}

// readLevels parses the levels of a knob: numbers in the person's units, or names of choices.
func readLevels(f *form.Form, field string, k recipe.Knob, prefs units.Prefs) (out []float64) {
	if k == recipe.Rinse {
		return readYesNo(f, field)
	}
	sep := func(r rune) bool { return r == ',' || r == ';' }
	if k.Choices() == nil && !strings.ContainsAny(f.Values[field], ",;") {
		sep = func(r rune) bool { return r == ' ' }
	}
	for one := range strings.FieldsFuncSeq(f.Values[field], sep) {
		one = strings.TrimSpace(one)
		if one == "" {
			continue
		}
		if choices := k.Choices(); choices != nil {
			i := slices.Index(choices, strings.ToLower(one))
			if i < 0 {
				f.Fail(field, "“%s” is not one of: %s.", one, strings.Join(choices, ", "))
				return nil
			}
			out = append(out, float64(i))
			continue
		}
		v, err := prefs.Unit(k.Kind()).Parse(one)
		if err != nil {
			f.Fail(field, "%s", words.InvalidValue(err, "A level", prefs.Unit(k.Kind())))
			return nil
		}
		out = append(out, v)
	}
	if len(out) < trial.FewestLevels {
		f.Fail(field, "Two to six different levels make a trial.")
	}
	return out
}

// options returns the listed options of a variable with their collective name; none for names in the person's words.
func (s *Screens) options(r *http.Request, k recipe.Knob, sheet brew.Sheet) (out []trial.Option, what string, err error) {
	switch k {
	case trial.ByPaper:
		for _, kind := range gear.Filters() {
			out = append(out, trial.Option{Name: string(kind), Filter: kind})
		}
		return out, "filters", nil
	case trial.ByStyle:
		q := sheet.Question(s.yard.Now())
		for _, style := range recipe.Styles(sheet.Gear.Brewer.Kind) {
			out = append(out, trial.Option{Name: style.Name, Recipe: forecast.FirstRecipeOf(q, style.ID, sheet.Recipe.Dose)})
		}
		return out, "schools that suit this brewer", nil
	case trial.ByWater:
		all, err := s.yard.Store.Waters(r.Context())
		for _, w := range all {
			out = append(out, trial.Option{Name: w.Name, Water: w})
		}
		return out, "waters", err
	case trial.ByBrewer:
		all, err := s.yard.Store.Brewers(r.Context())
		for _, b := range all {
			out = append(out, trial.Option{Name: b.Name, Brewer: b})
		}
		return out, "brewers", err
	case trial.ByGrinder:
		all, err := s.yard.Store.Grinders(r.Context())
		for _, g := range all {
			out = append(out, trial.Option{Name: g.Name, Grinder: g})
		}
		return out, "grinders", err
	}
	return nil, "", nil
}

// readOptions parses the names of options.
func readOptions(f *form.Form, field string, k recipe.Knob, listed []trial.Option, what string) (out []trial.Option) {
	const longest = 40 // characters
	names := make([]string, len(listed))
	for i, o := range listed {
		names[i] = o.Name
	}
	between := ","
	if strings.Contains(f.Values[field], ";") { // names with commas
		between = ";"
	}
	for typed := range strings.SplitSeq(f.Values[field], between) {
		typed = strings.TrimSpace(typed)
		if typed == "" {
			continue
		}
		o := trial.Option{Name: units.Shorten(typed)}
		if k != trial.ByName {
			i := slices.IndexFunc(names, func(n string) bool { return strings.EqualFold(n, typed) })
			switch {
			case i < 0 && len(names) == 0:
				f.Fail(field, "Add your %s under Gear first.", what)
				return out
			case i < 0:
				f.Fail(field, "“%s” is not one of your %s: %s.", units.Shorten(typed), what, strings.Join(names, ", "))
				return out
			}
			o = listed[i]
		} else if len([]rune(typed)) > longest {
			f.Fail(field, "A level has at most %d characters.", longest)
			return out
		}
		if !slices.ContainsFunc(out, func(other trial.Option) bool { return strings.EqualFold(other.Name, o.Name) }) {
			out = append(out, o)
		}
	}
	if len(out) < trial.FewestLevels || len(out) > trial.MostLevels {
		f.Fail(field, "Two to six different levels make a trial.")
	}
	return out
}

// readYesNo parses the levels of the rinse.
func readYesNo(f *form.Form, field string) (out []float64) {
	for typed := range strings.SplitSeq(f.Values[field], ",") {
		switch strings.ToLower(strings.TrimSpace(typed)) {
		case "yes", "1", "rinsed":
			out = append(out, 1)
		case "no", "0", "not rinsed":
			out = append(out, 0)
		default:
			f.Fail(field, "“%s” is neither yes nor no.", units.Shorten(strings.TrimSpace(typed)))
			return nil
		}
	}
	return out
}

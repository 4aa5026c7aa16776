package settings

import (
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"strings"

	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/figure"
	"yardbloom/web/form"
	"yardbloom/web/page"
)

// schoolsBody is the Schools page: the styles, the questions on which practitioners disagree, and the
// person's defaults.
type schoolsBody struct {
	Schools  []schoolView
	Disputes []dispute
	Fields   []form.Field
	Version  int64
	Theirs   string
	Kept     bool
	Errors   int
	PersonID string // whose defaults these are; empty: the yard's
	For      string // their name; empty in a yard of one person
}

type schoolView struct {
	recipe.Style
	Figures template.HTML // its flower
	Line    string        // its figures in one line
	Cannot  []string
}

func (s *Screens) schools(w http.ResponseWriter, r *http.Request) error {
	s.showSchools(w, r, http.StatusOK, fillHabits(page.Settings(r).Habits(), page.Prefs(r)), "")
	return nil
}

func (s *Screens) showSchools(w http.ResponseWriter, r *http.Request, status int, f *form.Form, theirs string) {
	set := page.Settings(r)
	body := schoolsBody{Disputes: disputesIn(page.Prefs(r)), Fields: habitFields(f, page.Prefs(r)), Version: set.Version, Theirs: theirs,
		Kept: r.URL.Query().Get("kept") != "", Errors: len(f.Errors),
		PersonID: set.PersonID, For: page.Whose(r)}
	if theirs == "" {
		body.Version = f.VersionOr(set.Version)
	}
	for _, style := range recipe.Schools() {
		body.Schools = append(body.Schools, schoolOf(style, page.Prefs(r)))
	}
	s.Render(w, r, status, "schools", page.Page{Title: "Schools", Side: "schools", Line: page.Line(""), Body: body})
}

// schoolOf returns a style with its figures at 18 g.
func schoolOf(style recipe.Style, prefs units.Prefs) schoolView {
	const dose, middle = 18, 93
	r := style.Generate(dose, units.Grams(units.Round(dose*style.Ratio, 0)), middle)
	v := schoolView{Style: style.In(prefs), Figures: figure.Flower(dose, r.Plan().Steps, 0)}
	parts := []string{prefs.Unit(units.Ratio).Format(style.Ratio), "about " +
		prefs.Unit(units.Grind).Format(float64(style.Grind)), fmt.Sprintf("done in about %s", r.Aim)}
	if style.Bloom > 0 {
		bloom := fmt.Sprintf("bloom %s× for %s", units.Trim(style.Bloom, 1), style.BloomTime)
		if forecast.IsFitted(style.ID) {
			bloom = fmt.Sprintf("bloom about %s× for about %s, found for each coffee", units.Trim(style.Bloom, 1), style.BloomTime)
		}
		parts = append(parts, bloom)
	}
	share := prefs.Unit(units.Share)
	if style.Ice > 0 {
		parts = append(parts, share.Format(style.Ice)+" of the water is ice")
	}
	if style.Dilute > 0 {
		parts = append(parts, share.Format(style.Dilute)+" of the water is dilution")
	}
	v.Line = strings.Join(parts, " · ")
	for _, b := range gear.BrewerForms() {
		if why := style.WhyNotIn(b.Kind); why != "" {
			v.Cannot = append(v.Cannot, fmt.Sprintf("Not in %s: %s.", b.One(), why))
		}
	}
	return v
}

// asTheStyle is the option that leaves a default to the style.
const asTheStyle = "as the style has it"

var (
	lastPours   = []string{"low", "like the others"}
	beds        = []string{"a small well", "level"}
	rinsings    = []string{"by the filter", "always", "never"}
	firstTurned = []string{"the bed", "the grind", "the temperature"}
	keeps       = []string{"the total", "the strength", "the yield"}
	keepOf      = map[string]recipe.Keep{keeps[0]: recipe.KeepTotal, keeps[1]: recipe.KeepStrength, keeps[2]: recipe.KeepYield}
	hotterRange = units.Range{Lo: -8, Hi: 8}
)

func fillHabits(h recipe.Habits, prefs units.Prefs) *form.Form {
	f := form.New()
	f.Values = map[string]string{"style": string(h.Style), "hand": h.Hand, "pattern": string(h.Pattern),
		"hotter": prefs.Unit(units.Temperature).ForDifferences().Number(float64(h.TemperatureOffset)),
		"last":   pickWord(h.HighLastPour, lastPours[1], lastPours[0]), "bed": pickWord(h.LevelBed, beds[1], beds[0]),
		"rinse": map[recipe.Rinsing]string{recipe.Always: "always", recipe.Never: "never"}[h.Rinse],
		"first": map[recipe.LeverOrder]string{recipe.GrindFirst: firstTurned[1], recipe.HeatFirst: firstTurned[2]}[h.First],
		"keep":  map[recipe.Keep]string{recipe.KeepStrength: keeps[1], recipe.KeepYield: keeps[2]}[h.Keep]}
	if h.Good > 0 {
		f.Values["good"] = form.Count.Number(float64(h.Good))
	}
	if h.Bloom > 0 {
		f.Values["bloom"] = prefs.Unit(units.PerDose).Number(h.Bloom)
	}
	if h.BloomTime > 0 {
		f.Values["bloom_time"] = prefs.Unit(units.Span).Number(float64(h.BloomTime))
	}
	for name, usual := range map[string]string{"rinse": rinsings[0], "first": firstTurned[0], "keep": keeps[0]} {
		if f.Values[name] == "" {
			f.Values[name] = usual
		}
	}
	for _, name := range []string{"style", "hand", "pattern"} {
		if f.Values[name] == "" {
			f.Values[name] = asTheStyle
		}
	}
	return f
}

func habitFields(f *form.Form, prefs units.Prefs) []form.Field {
	var styles []string
	names := map[string]string{asTheStyle: "three rounds, or the brewer's usual style"}
	for _, st := range recipe.Schools() {
		styles, names[string(st.ID)] = append(styles, string(st.ID)), st.Name
	}
	or := func(all []string) []string { return append([]string{asTheStyle}, all...) }
	bloom, long := f.Stepper("bloom", "Bloom", prefs.Unit(units.PerDose)), f.Stepper("bloom_time", "Bloom for", prefs.Unit(units.Span))
	bloom.Hint, long.Hint = "Empty: as the style has it.", "Empty: as the style has it."
	hotter := f.Stepper("hotter", "Temperature offset", prefs.Unit(units.Temperature).ForDifferences())
	hotter.Hint = "Negative is cooler."
	good := f.Stepper("good", "A cup is good from", form.Count)
	good.Hint = "Of 10. From this mark on there is no advice. Empty: 8."
	keep := form.Select(f, "keep", "After a pouring error, keep", keeps, form.Plain)
	keep.Hint = "The model adapts the rest of the brew to it while you pour."
	return []form.Field{
		form.Select(f, "style", "First style of a coffee", or(styles), func(v string) (string, string) { return v, names[v] }),
		bloom, long,
		form.Select(f, "hand", "After the bloom", or(recipe.HandAfter.Choices()), form.Plain),
		form.Select(f, "pattern", "Pour in", or(recipe.PourPattern.Choices()), form.Plain),
		form.Select(f, "last", "The last pour", lastPours, form.Plain),
		form.Select(f, "rinse", "Rinse the filter", rinsings, form.Plain),
		form.Select(f, "bed", "The bed of a cone", beds, form.Plain),
		hotter,
		form.Select(f, "first", "First adjustment to try", firstTurned, form.Plain),
		keep,
		good,
	}
}

// saveHabits stores the person's defaults for a new coffee.
func (s *Screens) saveHabits(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	prefs := page.Prefs(r)
	f.FillMissing(fillHabits(page.Settings(r).Habits(), prefs), "")
	h := readHabits(f, prefs)
	if !f.OK() {
		s.showSchools(w, r, http.StatusUnprocessableEntity, f, "")
		return nil
	}
	if err := page.SamePerson(r, f.Values); err != nil {
		return err
	}
	switch err := s.yard.Store.SaveHabits(r.Context(), page.PersonID(r), h, f.Version()); {
	case errors.Is(err, store.ErrConflict):
		set, err := s.yard.Store.Settings(r.Context(), page.PersonID(r))
		if err != nil {
			return err
		}
		r = page.WithSettings(r, set)
		s.showSchools(w, r, http.StatusConflict, f, form.Differences(habitFields(f, prefs), fillHabits(page.Settings(r).Habits(), prefs)))
		return nil
	case err != nil:
		return err
	}
	return page.SeeOther(w, r, "/schools?kept=1")
}

func readHabits(f *form.Form, prefs units.Prefs) recipe.Habits {
	own := func(name, label string, all []string) string {
		v := form.Choice(f, name, label, append([]string{asTheStyle}, all...))
		if v == asTheStyle {
			return ""
		}
		return v
	}
	var styles []string
	for _, st := range recipe.Schools() {
		styles = append(styles, string(st.ID))
	}
	return recipe.Habits{
		Style:             recipe.StyleID(own("style", "the style", styles)),
		Bloom:             f.Quantity("bloom", "The bloom", prefs.Unit(units.PerDose), recipe.Bloom.Usual(), false),
		BloomTime:         units.Seconds(f.Quantity("bloom_time", "The bloom", prefs.Unit(units.Span), recipe.BloomTime.Range(), false)),
		Hand:              own("hand", "the hand", recipe.HandAfter.Choices()),
		Pattern:           recipe.Pattern(own("pattern", "the pattern", recipe.PourPattern.Choices())),
		HighLastPour:      form.Choice(f, "last", "the last pour", lastPours) == lastPours[1],
		LevelBed:          form.Choice(f, "bed", "the bed", beds) == beds[1],
		TemperatureOffset: units.Celsius(f.Quantity("hotter", "It", prefs.Unit(units.Temperature).ForDifferences(), hotterRange, false)),
		Rinse: map[string]recipe.Rinsing{"always": recipe.Always,
			"never": recipe.Never}[form.Choice(f, "rinse", "the rinse", rinsings)],
		Keep: keepOf[form.Choice(f, "keep", "what to keep", keeps)],
		Good: int(f.Quantity("good", "The mark", form.Count, units.Range{Lo: 1, Hi: 10}, false)),
		First: map[string]recipe.LeverOrder{firstTurned[1]: recipe.GrindFirst,
			firstTurned[2]: recipe.HeatFirst}[form.Choice(f, "first", "what to turn first", firstTurned)],
	}
}

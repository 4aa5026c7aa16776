package settings

import (
	"cmp"
	"errors"
	"fmt"
	"html/template"
	"math"
	"net/http"
	"net/url"
	"slices"

	"yardbloom/core/brew"
	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/trial"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/figure"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/yard"
)

// compareBody is the page that compares two schools, or the two sides of a dispute, on the yard's own gear.
type compareBody struct {
	Ask     string // the dispute; empty: two styles
	Dispute string // its ID
	Fields  []form.Field
	With    string // coffee and gear
	Sides   []sideView
	Rows    []compareRow
	Says    string // whether the difference can be tasted
	Try     string // link to the trial that settles it
	TryNote string
	Sorry   string
}

type sideView struct {
	Name   string
	Flower template.HTML
	Does   string
}

// A compareRow is one predicted figure of both sides.
type compareRow struct{ Name, First, Second, Differ string }

// coffees is the number of coffees to choose from.
const coffees = 30

// A contest is a pair of recipes with their names, and the trial that settles it.
type contest struct {
	names   [2]string
	recipes [2]recipe.Recipe
	turned  recipe.Knob
	levels  string // as the trial's form takes them
}

// compare compares two styles, or the two sides of a dispute.
func (s *Screens) compare(w http.ResponseWriter, r *http.Request) error {
	q := r.URL.Query()
	bags, err := s.yard.Store.BagNames(r.Context(), coffees)
	if err != nil {
		return err
	}
	f := form.New()
	f.Values["some"], f.Values["other"] = cmp.Or(q.Get("some"), string(recipe.ThreeRounds)), cmp.Or(q.Get("other"), string(recipe.Pulses))
	f.Values["bag"] = q.Get("bag")
	if f.Values["bag"] == "" && len(bags) > 0 {
		f.Values["bag"] = bags[0].ID
	}
	var body compareBody
	at := slices.IndexFunc(disputes, func(d dispute) bool { return d.ID == q.Get("dispute") && d.Compared() })
	body.Fields = []form.Field{form.Select(f, "bag", "Coffee", bags, func(b store.Thing) (string, string) { return b.ID, b.Name })}
	if at >= 0 {
		body.Ask, body.Dispute = disputes[at].Ask, disputes[at].ID
	} else {
		style := func(st recipe.Style) (string, string) { return string(st.ID), st.Name }
		body.Fields = append(body.Fields, form.Select(f, "some", "One school", recipe.Schools(), style),
			form.Select(f, "other", "Another school", recipe.Schools(), style))
	}
	sheet, err := s.sheetFor(r, f.Values["bag"])
	switch {
	case errors.Is(err, store.ErrNotFound), errors.Is(err, yard.ErrNoGear):
		body.Sorry = "Add a coffee, a brewer, a grinder and a kettle first: schools are compared on your own gear."
	case err != nil:
		return err
	default:
		question := sheet.Question(s.yard.Now())
		body.With = fmt.Sprintf("%s in the %s, with the %s", sheet.Bag.Name, sheet.Gear.Brewer.Name, sheet.Gear.Grinder.Name)
		var c contest
		if at >= 0 {
			c, body.Sorry = sidesOf(disputes[at], question, page.Prefs(r))
		} else {
			c, body.Sorry = stylesOf(recipe.StyleID(f.Values["some"]), recipe.StyleID(f.Values["other"]), question)
		}
		if body.Sorry == "" {
			body.judge(c, question, f.Values["bag"], page.Prefs(r))
		}
	}
	s.Render(w, r, http.StatusOK, "compare", page.Page{Title: "Compare schools", Side: "schools", Line: page.Line(""), Body: body})
	return nil
}

// sheetFor returns the sheet of a coffee's last brew or, for one without brews, of its first recipe on the yard's usual gear.
func (s *Screens) sheetFor(r *http.Request, bagID string) (brew.Sheet, error) {
	last, err := s.yard.Store.LastBrew(r.Context(), bagID)
	if err == nil {
		last.Created, last.Beliefs = s.yard.Now(), s.yard.BeliefsOf(last.Sheet)
		return last.Sheet, nil
	}
	if !errors.Is(err, store.ErrNotFound) {
		return brew.Sheet{}, err
	}
	b, err := s.yard.Store.ShelvedBag(r.Context(), bagID)
	if err != nil {
		return brew.Sheet{}, err
	}
	set := page.Settings(r)
	g, err := s.yard.UsualGear(r.Context(), set)
	return s.yard.FirstDraft(b, g, set).Sheet, err
}

// sidesOf returns the two sides of a dispute on the recipe of a question, or why it cannot be asked of it.
func sidesOf(d dispute, q forecast.Question, prefs units.Prefs) (contest, string) {
	at := recipe.AddressOf(d.knob)
	if !q.Recipe.Has(at) {
		return contest{}, fmt.Sprintf("The last recipe of %s has no setting for this: choose another coffee.", q.Bag.Name)
	}
	values := d.sides(d.knob, q)
	c := contest{turned: d.knob}
	factor := trial.Factor{Knob: d.knob}
	for i, v := range values {
		c.names[i], c.recipes[i] = factor.LevelName(v, prefs), q.Recipe.With(at, v)
		switch d.knob {
		case recipe.Grind:
			c.names[i] = q.Gear.Grinder.Setting(units.Micrometres(v))
		case recipe.Pours:
			c.names[i] = units.Plural(int(v), "pour") + " after the bloom"
		}
		typed := prefs.Unit(d.knob.Kind()).Number(v)
		if all := d.knob.Choices(); all != nil {
			typed = all[int(v)]
		}
		if c.levels += typed; i == 0 {
			c.levels += ", "
		}
	}
	if math.Abs(values[0]-values[1]) < 1e-9 {
		return c, fmt.Sprintf("Both sides come to %s for this coffee here: there is nothing to compare.", c.names[0])
	}
	return c, ""
}

// stylesOf returns two styles on the coffee and the gear of a question, or why they cannot be compared.
func stylesOf(some, other recipe.StyleID, q forecast.Question) (contest, string) {
	c := contest{turned: trial.ByStyle}
	for i, id := range []recipe.StyleID{some, other} {
		style, kind := id.Style(), q.Gear.Brewer.Kind
		switch why := style.WhyNotIn(kind); {
		case style.ID == "":
			return c, "Choose two schools from the lists."
		case why != "":
			return c, fmt.Sprintf("%s does not suit the %s: %s. Choose another school, or a coffee whose last brew was in another brewer.", style.Name,
				q.Gear.Brewer.Name, why)
		}
		c.names[i], c.recipes[i] = style.Name, forecast.FirstRecipeOf(q, id, q.Recipe.Dose)
	}
	if some == other {
		return c, "These are the same school: choose two."
	}
	c.levels = c.names[0] + "; " + c.names[1]
	return c, ""
}

// judge adds the predictions of both sides, whether they differ measurably, and the trial that settles it.
func (body *compareBody) judge(c contest, q forecast.Question, bagID string, prefs units.Prefs) {
	v, err := forecast.Compare(q, c.recipes[0], c.recipes[1])
	if err != nil {
		body.Sorry = "The model cannot brew one of them with this coffee and gear."
		return
	}
	for i, f := range []forecast.Forecast{v.First, v.Second} {
		body.Sides = append(body.Sides, sideView{c.names[i], figure.Flower(c.recipes[i].Dose, f.Plan.Steps, f.Drawdown),
			doesOf(c.recipes[i], q, prefs)})
	}
	heat := prefs.Unit(units.Temperature)
	pair := func(name, format string, a, b float64) compareRow {
		return compareRow{name, fmt.Sprintf(format, a), fmt.Sprintf(format, b), ""}
	}
	yield := pair("Extraction yield", "%.1f %%", v.First.Yield.Value, v.Second.Yield.Value)
	yield.Differ = fmt.Sprintf("%s ± %.1f points", units.Points(v.Yield, 1), max(0.1, v.YieldError))
	strength := pair("TDS", "%.2f %%", v.First.TDS, v.Second.TDS)
	strength.Differ = units.Points(v.Strength, 2) + " points"
	even := pair("Uneven share of the dose", "%.0f %%", 100*(v.First.Below+v.First.Above), 100*(v.Second.Below+v.Second.Above))
	even.Differ = units.Points(100*(v.Second.Below+v.Second.Above-v.First.Below-v.First.Above), 0) + " points"
	tilt := map[string]string{"same": "the same", "bitterer": "more bitter", "brighter": "brighter"}[v.Tilt()]
	body.Rows = []compareRow{
		{"Drawdown", v.First.Drawdown.String(), v.Second.Drawdown.String(),
			fmt.Sprintf("%s ± %.0f s", units.Points(float64(v.Time), 0), max(1, float64(v.TimeError)))},
		yield, strength,
		{"Slurry on average", heat.Format(float64(v.First.SlurryMean)), heat.Format(float64(v.Second.SlurryMean)), ""},
		even, {"Balance of the second", "", "", tilt},
	}
	body.Says = map[forecast.Tasted]string{
		forecast.Probably: "Most people would taste this difference side by side.",
		forecast.Perhaps:  "A careful taster may tell them apart side by side.",
		forecast.NotTasted: "The model predicts no difference that can be tasted. Reports of other differences, such as texture, are outside the " +
			"model: only your tongue can tell.",
	}[v.Tasted()]
	const most = 6
	repeats := 3
	if n := v.Repeats(v.First.Yield.Value, most); n > 0 {
		repeats = n
		body.TryNote = fmt.Sprintf("With a refractometer, %d brews of each show the expected difference of the yield.", n)
	} else {
		body.TryNote = fmt.Sprintf("The expected difference of the yield is too small for %d brews of each to show it: taste them blind.", most)
	}
	link := url.Values{"bag": {bagID}, "turned": {string(c.turned)}, "levels": {c.levels}, "measure": {string(trial.ByMark)},
		"repeats": {fmt.Sprint(repeats)}, "name": {cmp.Or(body.Ask, fmt.Sprintf("%s or %s?", c.names[0], c.names[1]))}}
	body.Try = "/trials?" + link.Encode()
}

// doesOf describes a side in one line.
func doesOf(r recipe.Recipe, q forecast.Question, prefs units.Prefs) string {
	pours := units.Plural(len(r.Pours), "pour")
	return fmt.Sprintf("%s of coffee, %s, %s, %s, grind %s", prefs.Unit(units.Dose).Format(float64(r.Dose)), prefs.Unit(units.Ratio).Format(r.Ratio()),
		pours, prefs.Unit(units.Temperature).Format(float64(r.Temperature())), q.Gear.Grinder.Setting(r.Grind))
}

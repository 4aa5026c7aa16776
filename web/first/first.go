package first

import (
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/figure"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/yard"
)

// A question is one step of the first run. Its answers are in the address of the page, so that nothing is stored before the last step and
// Back works.
type question struct {
	id, title, says string
	asks            []ask
}

// An ask is a group of answers, one of which is chosen.
type ask struct {
	name, label string
	when        func(url.Values) bool // nil: always
	options     []option
}

type option struct {
	value, label, says string
	picture            func() template.HTML
}

// section returns the picture of a kind of brewer cut open.
func section(k gear.BrewerKind) func() template.HTML {
	return func() template.HTML { return figure.Section(k) }
}

// Answers of the question about the grinder.
const (
	dial   = "numbers"
	clicks = "clicks"
	plain  = "plain"
)

var questions = []question{
	{id: "brewer", title: "What do you brew with?", says: "Cut open, seen from the side. You can add more later, under Gear.",
		asks: []ask{{name: "brewer", label: "Brewer", options: brewerOptions()}}},
	{id: "grinder", title: "What grinds the coffee?", says: "The recipe gives its grind in these terms.",
		asks: []ask{{name: "grinder", label: "Grinder", options: []option{
			{dial, "A mill with numbers", "a scale from fine to coarse", figure.NumberedDial},
			{clicks, "A mill with clicks", "counted from closed", figure.ClickDial},
			{plain, "A mill without marks", "we describe the texture", figure.PlainDial},
			{string(gear.Blade), "A blade", "we give seconds, and the texture", figure.BladeSign},
			{string(gear.Bought), "I buy it ground", "the time and the water adapt", figure.PackSign}}}}},
	{id: "measure", title: "How do you measure?", says: "Each recipe is written for what you have.",
		asks: []ask{
			{name: "scale", label: "Coffee and water", options: []option{{"scale", "On a scale", "grams", nil}, {"spoons", "With spoons and a mug",
				"level tablespoons", nil}}},
			{name: "kettle", label: "Water temperature", options: []option{{"set", "The kettle holds a temperature", "it has a thermostat", nil},
				{"boil", "The kettle only boils", "we give the wait off the boil", nil}}},
			{name: "high", label: "Do you live above {500 m}? Water boils cooler there.", when: func(v url.Values) bool { return v.Get("kettle") == "boil" },
				options: []option{{"0", "No", "", nil}, {"750", "{500} to {1000 m}", "", nil}, {"1500", "{1000} to {2000 m}", "", nil}, {"2400",
					"Higher", "", nil}}}}},
	{id: "units", title: "Which units do you use?", says: "Fields also accept the others.",
		asks: []ask{{name: "units", label: "Units", options: []option{{"metric", "Grams, ml and °C", "17 g · 281 ml · 93 °C", nil},
			{"ounces", "Ounces and °F", "0.6 oz · 9.5 fl oz · 199 °F", nil}, {"mixed", "Grams and °F", "17 g · 281 ml · 199 °F", nil}}}}},
	{id: "coffee", title: "Which coffee is in front of you?", says: "Its roast sets the temperature and the grind. The name is for you."},
}

// brewerOptions lists the kinds of brewer with their pictures.
func brewerOptions() (out []option) {
	for _, f := range gear.BrewerForms() {
		short, _, _ := strings.Cut(f.About, ":")
		out = append(out, option{string(f.Kind), capital(f.Name), lower(strings.TrimSuffix(short, ".")), section(f.Kind)})
	}
	return out
}

func capital(s string) string { return strings.ToUpper(s[:1]) + s[1:] }
func lower(s string) string   { return strings.ToLower(s[:1]) + s[1:] }

// settingRange is the range of the usual setting of a grinder.
var settingRange = units.Range{Lo: 0.5, Hi: 200}

// body is the page of a question.
type body struct {
	ID, Title, Says string
	N, Of           int
	Asks            []askView
	Setting         *form.Field // the usual setting of the grinder
	Kept            []page.Fact // the answers so far, for forms
	Back, Unknown   string      // addresses
	Name            *form.Field // of the coffee
	Roasts          []form.Option
	Empty           bool // the yard has no gear: skipping adds the usual
}

type askView struct {
	Label    string
	Choices  []choice
	Pictures bool
}

type choice struct {
	Label, Says, Href string
	Picture           template.HTML
	Chosen            bool
}

// show serves a question.
func (s *Screens) show(w http.ResponseWriter, r *http.Request) error {
	said := answersIn(r.URL.Query())
	n := indexOf(strings.TrimPrefix(r.URL.Path, "/first/"))
	if n < 0 {
		return store.ErrNotFound
	}
	f := form.New()
	f.Values["setting"], f.Values["coffee"] = said.Get("setting"), said.Get("coffee")
	if typed := said.Get("setting"); typed != "" && questions[n].id != "grinder" { // typed on the question before: it must be readable
		f.Quantity("setting", "The setting", settingUnit, settingRange, false)
		if !f.OK() {
			return s.render(w, r, http.StatusUnprocessableEntity, indexOf("grinder"), said, f)
		}
	}
	return s.render(w, r, http.StatusOK, n, said, f)
}

var settingUnit = units.Unit{Scale: 1, Decimals: 1}

func indexOf(id string) int {
	for i, q := range questions {
		if q.id == id {
			return i
		}
	}
	return -1
}

// answersIn returns the known answers of an address or a form; others are dropped.
func answersIn(from url.Values) url.Values {
	said := url.Values{}
	for _, q := range questions {
		for _, a := range q.asks {
			for _, o := range a.options {
				if from.Get(a.name) == o.value {
					said.Set(a.name, o.value)
				}
			}
		}
	}
	for _, typed := range []string{"setting", "coffee"} {
		if v := from.Get(typed); v != "" {
			said.Set(typed, v)
		}
	}
	return said
}

// address returns the address of a question with the answers.
func address(n int, said url.Values) string {
	if len(said) == 0 {
		return "/first/" + questions[n].id
	}
	return "/first/" + questions[n].id + "?" + said.Encode()
}

func with(said url.Values, name, value string) url.Values {
	out := url.Values{}
	for k, v := range said {
		out[k] = v
	}
	out.Set(name, value)
	return out
}

// hasDial reports whether the grinder has a setting to ask for.
func hasDial(said url.Values) bool {
	return said.Get("grinder") == dial || said.Get("grinder") == clicks
}

// complete reports whether everything is answered that a question asks.
func complete(q question, said url.Values) bool {
	for _, a := range q.asks {
		if (a.when == nil || a.when(said)) && said.Get(a.name) == "" {
			return false
		}
	}
	return q.id != "grinder" || !hasDial(said)
}

func (s *Screens) render(w http.ResponseWriter, r *http.Request, status, n int, said url.Values, f *form.Form) error {
	q, prefs := questions[n], prefsOf(said)
	b := body{ID: q.id, Title: q.title, Says: q.says, N: n + 1, Of: len(questions)}
	for _, a := range q.asks {
		if a.when != nil && !a.when(said) {
			continue
		}
		v := askView{Label: prefs.Localize(a.label)}
		for _, o := range a.options {
			next, to := with(said, a.name, o.value), n
			if complete(q, next) {
				to++
			}
			c := choice{Label: prefs.Localize(o.label), Says: o.says, Href: address(to, next), Chosen: said.Get(a.name) == o.value}
			if o.picture != nil {
				c.Picture, v.Pictures = o.picture(), true
			}
			v.Choices = append(v.Choices, c)
		}
		b.Asks = append(b.Asks, v)
	}
	for name := range said {
		if name != "setting" || q.id != "grinder" {
			b.Kept = append(b.Kept, page.Fact{Name: name, Value: said.Get(name)})
		}
	}
	if n > 0 {
		b.Back = address(n-1, said)
	}
	if n+1 < len(questions) {
		b.Unknown = address(n+1, said)
	}
	if q.id == "grinder" && hasDial(said) {
		e := f.Entry("setting", map[string]string{dial: "Number that you use for filter coffee",
			clicks: "Clicks that you use for filter coffee"}[said.Get("grinder")])
		e.Autofocus = true
		b.Setting = &e
	}
	if q.id == "coffee" {
		e := f.Entry("coffee", "Name of the coffee")
		e.Autofocus = true
		b.Name = &e
		for _, roast := range coffee.Roasts() {
			b.Roasts = append(b.Roasts, form.Option{Value: strconv.Itoa(int(roast)), Label: roast.String()})
		}
	}
	things, err := s.yard.Store.Things(r.Context())
	if err != nil {
		return err
	}
	b.Empty = len(things) == 0
	s.Render(w, r, status, "first", page.Page{Title: q.title, Side: "first", Body: b})
	return nil
}

func prefsOf(said url.Values) units.Prefs {
	return units.Prefs{Ounces: said.Get("units") == "ounces", Fahrenheit: said.Get("units") == "ounces" || said.Get("units") == "mixed"}
}

// finish stores the answers and opens the first recipe.
func (s *Screens) finish(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	posted := url.Values{}
	for name, v := range f.Values {
		posted.Set(name, v)
	}
	said := answersIn(posted)
	a := yard.Answers{Brewer: gear.BrewerKind(said.Get("brewer")), Spoons: said.Get("scale") == "spoons", Thermostat: said.Get("kettle") == "set",
		Prefs: prefsOf(said), Coffee: f.Text("coffee", "The name", 80, false)}
	switch said.Get("grinder") {
	case dial:
		a.Grinder, a.Dial = gear.ConicalBurr, gear.Numbered
	case clicks:
		a.Grinder, a.Dial = gear.HandMill, gear.Clicks
	case string(gear.Blade), string(gear.Bought):
		a.Grinder = gear.Burrs(said.Get("grinder"))
	}
	if a.Dial != "" {
		a.Setting = f.Quantity("setting", "The setting", settingUnit, settingRange, false)
	}
	if said.Get("units") == "" { // unknown: the yard keeps its own
		a.Prefs = page.Prefs(r)
		a.Prefs.Spoon = 0
	}
	if said.Get("scale") == "" {
		a.Spoons = page.Settings(r).Spoons
	}
	a.Altitude, _ = strconv.Atoi(said.Get("high")) // one of the options
	roast, err := strconv.Atoi(f.Values["roast"])
	if a.Roast = coffee.Roast(roast); err != nil || a.Roast < coffee.RoastUnknown || a.Roast > coffee.Dark {
		f.Fail("roast", "Choose a roast, or that you do not know.")
	}
	if !f.OK() {
		return s.render(w, r, http.StatusUnprocessableEntity, indexOf("coffee"), said, f)
	}
	draftID, err := s.yard.BeginFirst(r.Context(), a, page.PersonID(r))
	if err != nil {
		return fmt.Errorf("first run: %w", err)
	}
	return page.SeeOther(w, r, "/brews/%s/recipe?first=1", draftID)
}

// skip adds the usual gear to an empty yard and goes to the shelf.
func (s *Screens) skip(w http.ResponseWriter, r *http.Request) error {
	if err := s.yard.AddStarter(r.Context()); err != nil {
		return err
	}
	return page.SeeOther(w, r, "/bags/new")
}

// begin goes to the first question.
func (s *Screens) begin(w http.ResponseWriter, r *http.Request) error {
	return page.SeeOther(w, r, "/first/%s", questions[0].id)
}

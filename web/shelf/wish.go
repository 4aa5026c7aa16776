package shelf

import (
	"errors"
	"fmt"
	"net/http"
	"strconv"

	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/station"
	"yardbloom/web/words"
)

// wishBody is the page for describing the wanted cup.
type wishBody struct {
	ID, Name string
	Scales   []wishScale
	Cold     bool
	InCup    form.Field
	Usual    string // which cup is looked for while no preference is given
	Choices  []choiceView
	Brewers  []brewerView
	Sorry    string
}

// A brewerView is a brewer of the yard with the cup that it leans to.
type brewerView struct{ Name, Kind, Taste, Makes, Filter string }

// A wishScale is a question with two opposite ends.
type wishScale struct {
	Name, Label string
	Options     []form.Option
}

type choiceView struct {
	Brewer, Grinder, Style string // ids
	Says                   string
	Because                string
	Dose                   string // in g; empty: the usual one
	Makes                  string // how it makes the wanted amount
	Then                   string // prediction
	Against                string // its cup compared with the first choice
}

// wishScales lists the questions, each answered from −2 to 2.
var wishScales = []struct{ name, label, less, more string }{
	{"clear", "Body", "full", "clear"}, {"bright", "Taste", "sweet", "bright"}, {"quick", "Time", "slow", "quick"},
}

func scalesOf(q func(string) string) []wishScale {
	var out []wishScale
	for _, s := range wishScales {
		scale := wishScale{Name: s.name, Label: s.label}
		now, err := strconv.Atoi(q(s.name))
		if err != nil || now < -2 || now > 2 {
			now = 0
		}
		for i, label := range []string{s.less, "rather " + s.less, "either", "rather " + s.more, s.more} {
			scale.Options = append(scale.Options, form.Option{Value: strconv.Itoa(i - 2), Label: label, Selected: i-2 == now})
		}
		out = append(out, scale)
	}
	return out
}

// maxWishes is the number of suggestions shown.
const maxWishes = 4

// wish asks for the wanted cup of a coffee, and suggests ways to brew it with the yard's gear.
func (s *Screens) wish(w http.ResponseWriter, r *http.Request) error {
	b, err := s.loadBag(r)
	if err != nil {
		return err
	}
	q := r.URL.Query()
	body := wishBody{ID: b.ID, Name: b.Name, Scales: scalesOf(q.Get), Cold: q.Get("cold") != ""}
	want := recipe.Wish{Cold: body.Cold}
	f := form.New()
	f.Values["in_cup"] = q.Get("in_cup")
	unit := page.Prefs(r).Unit(units.Cup)
	want.InCup = units.Grams(f.Quantity("in_cup", "The amount", unit, recipe.Cup.Range(), false))
	body.InCup = f.Stepper("in_cup", "In the cups, altogether", unit)
	body.InCup.Hint = "Such as two mugs. Decides the brewer and the number of brews. Empty: one brew as usual."
	for i, to := range []*float64{&want.Clear, &want.Bright, &want.Quick} {
		for _, o := range body.Scales[i].Options {
			if o.Selected {
				n, _ := strconv.Atoi(o.Value)
				*to = float64(n) / 2
			}
		}
	}
	if want == (recipe.Wish{Cold: want.Cold, InCup: want.InCup}) {
		usual, why := recipe.UsualWish(b.Bag.Bag)
		usual.Cold, usual.InCup = want.Cold, want.InCup
		want, body.Usual = usual, fmt.Sprintf("Until you choose, this follows the bag: %s.", why)
	}
	brewers, err := s.yard.Store.Brewers(r.Context())
	if err != nil {
		return err
	}
	if body.Choices, err = s.choices(r, b, want, brewers); err != nil {
		return err
	}
	body.Brewers = brewerViews(brewers, page.Prefs(r))
	if len(body.Choices) == 0 {
		body.Sorry = "No listed gear can do that: add a brewer and a grinder under Gear."
	}
	status := http.StatusOK
	if !f.OK() {
		status = http.StatusUnprocessableEntity
	}
	s.Render(w, r, status, "wish", page.Page{Title: "Describe the cup you want", Station: "Coffee", Line: page.Line("Coffee"),
		Body: body})
	return nil
}

// brewerViews describes the brewers of the yard.
func brewerViews(brewers []gear.Brewer, prefs units.Prefs) []brewerView {
	cup := prefs.Unit(units.Cup)
	var out []brewerView
	for _, b := range brewers {
		form := b.Kind.Form()
		inCup := func(dose float64) string {
			const ratio = 16 // usual
			return cup.Format(units.Round(dose*(ratio-gear.DefaultRetained), -1))
		}
		out = append(out, brewerView{Name: b.Name, Kind: form.Name, Taste: recipe.Taste(b), Filter: string(b.Filter) + " " + b.FilterSize(),
			Makes: inCup(form.Dose.Lo) + " to " + inCup(float64(b.MaxDose()))})
	}
	return out
}

func (s *Screens) choices(r *http.Request, b store.Shelved, want recipe.Wish, brewers []gear.Brewer) ([]choiceView, error) {
	grinders, err := s.yard.Store.Grinders(r.Context())
	if err != nil {
		return nil, err
	}
	usual, err := s.yard.UsualGear(r.Context(), page.Settings(r))
	if err != nil {
		return nil, err
	}
	all := recipe.Choose(want, b.Bag.Bag, brewers, grinders)
	var out []choiceView
	for _, c := range all {
		if len(out) == maxWishes {
			break
		}
		v := choiceView{Brewer: c.Brewer.ID, Grinder: c.Grinder.ID, Style: string(c.Style.ID),
			Says: fmt.Sprintf("%s in the %s, with the %s", c.Style.Name, c.Brewer.Name, c.Grinder.Name), Because: c.Explanation()}
		if len(out) > 0 {
			v.Against = all[0].Contrast(c)
		}
		g := usual
		g.Brewer, g.Grinder = c.Brewer, c.Grinder
		question := s.yard.FirstQuestion(b, g, page.Settings(r))
		question.Recipe = forecast.FirstRecipeOf(question, c.Style.ID, c.Fit.Dose)
		if want.InCup > 0 {
			v.Dose, v.Makes = units.Trim(float64(c.Fit.Dose), 1), madeIn(c.Fit, page.Prefs(r))
		}
		if f, err := forecast.Predict(question); err == nil {
			v.Then = fmt.Sprintf("%s, TDS %.2f %%, EY %s", words.Drawdown(f.Figures()), f.TDS, f.Yield)
		}
		out = append(out, v)
	}
	return out, nil
}

// madeIn describes how a brewer makes an amount.
func madeIn(f gear.Fit, prefs units.Prefs) string {
	dose := prefs.Unit(units.Dose).Format(float64(f.Dose))
	say := fmt.Sprintf("In one brew, with %s.", dose)
	if f.Brews > 1 {
		say = fmt.Sprintf("In %d brews, each with %s.", f.Brews, dose)
	}
	if f.Thin {
		say += " That is a thin bed in this brewer."
	}
	return say
}

// draftFromWish creates a draft from a suggestion.
func (s *Screens) draftFromWish(w http.ResponseWriter, r *http.Request) error {
	b, err := s.loadBag(r)
	if err != nil {
		return err
	}
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	usual, err := s.yard.UsualGear(r.Context(), page.Settings(r))
	if err != nil {
		return err
	}
	ids := usual.IDs()
	ids.Brewer, ids.Grinder = f.Values["brewer"], f.Values["grinder"]
	g, err := s.yard.Store.Gear(r.Context(), ids)
	if errors.Is(err, store.ErrNotFound) {
		return page.Problem{Status: http.StatusBadRequest, Title: "Unknown gear", Text: "Load the page again and choose from it."}
	}
	if err != nil {
		return err
	}
	d := s.yard.FirstDraft(b, g, page.Settings(r))
	dose := units.Grams(f.Quantity("dose", "The dose", units.Prefs{}.Unit(units.Dose), recipe.Dose.Range(), false))
	d.Recipe = forecast.FirstRecipeOf(d.Question(s.yard.Now()), recipe.StyleID(f.Values["style"]), dose)
	return station.OpenDraft(s.yard, w, r, d)
}

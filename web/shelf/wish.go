package shelf

import (
	"errors"
	"fmt"
	"net/http"
	"strconv"

	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
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
	Choices  []choiceView
	Sorry    string
}

// A wishScale is a question with two opposite ends.
type wishScale struct {
	Name, Label string
	Options     []form.Option
}

type choiceView struct {
	Brewer, Grinder, Style string // ids
	Says                   string
	Because                string
	Then                   string // prediction
	Against                string // its cup compared with the first choice
}

// wishScales lists the questions, each answered from −2 to 2.
var wishScales = []struct{ name, label, less, more string }{
	{"clear", "Body", "full", "clear"}, {"bright", "Taste", "sweet", "bright"}, {"quick", "Time", "unhurried", "quick"},
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
	for i, to := range []*float64{&want.Clear, &want.Bright, &want.Quick} {
		for _, o := range body.Scales[i].Options {
			if o.Selected {
				n, _ := strconv.Atoi(o.Value)
				*to = float64(n) / 2
			}
		}
	}
	if body.Choices, err = s.choices(r, b, want); err != nil {
		return err
	}
	if len(body.Choices) == 0 {
		body.Sorry = "No listed gear can do that: add a brewer and a grinder under Gear."
	}
	s.Render(w, r, http.StatusOK, "wish", page.Page{Title: "Describe the cup you want", Station: "Coffee", Line: page.Line("Coffee"),
		Body: body})
	return nil
}

func (s *Screens) choices(r *http.Request, b store.Shelved, want recipe.Wish) ([]choiceView, error) {
	brewers, err := s.yard.Store.Brewers(r.Context())
	if err != nil {
		return nil, err
	}
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
		question.Recipe = forecast.FirstRecipe(question, c.Style.ID)
		if f, err := forecast.Predict(question); err == nil {
			v.Then = fmt.Sprintf("%s, TDS %.2f %%, EY %s", words.Drawdown(f.Figures()), f.TDS, f.Yield)
		}
		out = append(out, v)
	}
	return out, nil
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
	d.Recipe = forecast.FirstRecipe(d.Question(s.yard.Now()), recipe.StyleID(f.Values["style"]))
	return station.OpenDraft(s.yard, w, r, d)
}

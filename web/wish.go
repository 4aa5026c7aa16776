package web

import (
	"errors"
	"fmt"
	"net/http"
	"strconv"

	"yardbloom/core/brew"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/wish"
	"yardbloom/store"
	"yardbloom/web/form"
)

// wishBody is the page on which somebody says what they want of a cup.
type wishBody struct {
	ID, Name string
	Scales   []wishScale
	Cold     bool
	Choices  []choiceView
	Sorry    string
}

// A wishScale is one question, from one end to the other.
type wishScale struct {
	Name, Label string
	Options     []form.Option
}

type choiceView struct {
	Brewer, Grinder, Style string // ids
	Says                   string
	Because                string
	Then                   string // what the model expects; predicted
	Against                string // what its cup is beside the first
}

// wishScales are the questions, each answered from −2 to 2.
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

// mostWishes is how many ways to brew are shown.
const mostWishes = 4

// wish asks what is wanted of a cup of a coffee, and shows what this yard has for it.
func (s *Server) wish(w http.ResponseWriter, r *http.Request) error {
	b, err := s.loadBag(r)
	if err != nil {
		return err
	}
	q := r.URL.Query()
	body := wishBody{ID: b.ID, Name: b.Name, Scales: scalesOf(q.Get), Cold: q.Get("cold") != ""}
	want := wish.Wish{Cold: body.Cold}
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
		body.Sorry = "Nothing in the lists can do that: add a brewer and a grinder under Gear."
	}
	s.render(w, r, http.StatusOK, "wish", page{Title: "What do you want of this cup?", Station: "Coffee", Line: emptyLine("Coffee"), Body: body})
	return nil
}

func (s *Server) choices(r *http.Request, b store.Shelved, want wish.Wish) ([]choiceView, error) {
	brewers, err := s.Store.Brewers(r.Context())
	if err != nil {
		return nil, err
	}
	grinders, err := s.Store.Grinders(r.Context())
	if err != nil {
		return nil, err
	}
	usual, err := s.usualGear(r)
	if err != nil {
		return nil, err
	}
	all := wish.Choose(want, b.Bag.Bag, brewers, grinders)
	var out []choiceView
	for _, c := range all {
		if len(out) == mostWishes {
			break
		}
		v := choiceView{Brewer: c.Brewer.ID, Grinder: c.Grinder.ID, Style: string(c.Style.ID), Says: fmt.Sprintf("%s in the %s, with the %s", c.Style.Name, c.Brewer.Name, c.Grinder.Name), Because: c.Because()}
		if len(out) > 0 {
			v.Against = all[0].Against(c)
		}
		g := usual
		g.Brewer, g.Grinder = c.Brewer, c.Grinder
		question := s.firstQuestion(r, b, g)
		question.Recipe = forecast.First(question, c.Style.ID)
		if f, err := forecast.Of(question); err == nil {
			v.Then = fmt.Sprintf("%s, TDS %.2f %%, EY %s", drawdown(f.Figures()), f.TDS, f.Yield)
		}
		out = append(out, v)
	}
	return out, nil
}

// firstQuestion is what is asked about a bag on gear before there is a recipe.
func (s *Server) firstQuestion(r *http.Request, b store.Shelved, g gear.Set) forecast.Question {
	sheet := brew.Sheet{BagID: b.ID, Bag: b.Bag.Bag, Gear: g, Habits: settingsOf(r).Habits()}
	sheet.Beliefs = s.teacher.Believe(sheet)
	return sheet.Question(s.Now())
}

// wishFor begins a recipe as it was picked.
func (s *Server) wishFor(w http.ResponseWriter, r *http.Request) error {
	b, err := s.loadBag(r)
	if err != nil {
		return err
	}
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	usual, err := s.usualGear(r)
	if err != nil {
		return err
	}
	ids := usual.IDs()
	ids.Brewer, ids.Grinder = f.Values["brewer"], f.Values["grinder"]
	g, err := s.Store.Gear(r.Context(), ids)
	if errors.Is(err, store.ErrNotFound) {
		return problem{http.StatusBadRequest, "There is no such gear", "Load the page again and choose from it."}
	}
	if err != nil {
		return err
	}
	d := brew.First(store.NewID(), b.Bag.Bag, g, s.teacher.Believe(brew.Sheet{BagID: b.ID, Bag: b.Bag.Bag, Gear: g}), settingsOf(r).Habits(), s.Now())
	d.Recipe = forecast.First(d.Question(s.Now()), recipe.StyleID(f.Values["style"]))
	return s.openDraft(w, r, d)
}

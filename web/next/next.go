package next

import (
	"fmt"
	"html/template"
	"maps"
	"net/http"
	"slices"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/cup"
	"yardbloom/store"
	"yardbloom/web/figure"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/station"
	"yardbloom/web/words"
)

// nextBody is the data of the Next station.
type nextBody struct {
	ID   string
	Name string
	station.Advice
	Facts   string
	Path    []station.PathBrew
	OnShelf bool
	Odd     bool   // an outlier: a spill or a typo
	Reminds string // the person's note on this coffee
	Map     template.HTML
	Answers []answerView
	Record  string // success of the coach's recent changes
	As      string // the query that names the taster
	Tasters []station.Taster
	For     string       // name of the taster; empty in a yard of one person
	Differ  string       // opinions on the coffee that differ
	Plan    *bagPlanView // nil without any coffee left
	// GoodNext is the probability that the next cup is good; empty without a change.
	GoodNext string
	NotYet   string // address at which the person at the screen can taste it; empty if they have
}

// answerView is a possible feedback to the coach.
type answerView struct {
	Value, Label string
	Said         bool
}

func (s *Screens) next(w http.ResponseWriter, r *http.Request) error {
	sc := station.Of(r)
	if err := sc.SeeTaster(r); err != nil {
		return err
	}
	if sc.Brew == nil || sc.Brew.Advice == nil {
		return noAdvice(r, sc)
	}
	body := nextBody{ID: sc.ID, Name: sc.Bag.Name, Facts: words.ResultOf(*sc.Brew), OnShelf: !sc.Shelf.Deleted, As: sc.As(r),
		Tasters: sc.Tasters(r, "/brews/"+sc.ID+"/next")}
	if body.Tasters != nil {
		body.For = station.Named(r, sc.Brew.Taster).Name
	}
	if who := page.PersonID(r); body.Tasters != nil && who != "" {
		if _, tasted := sc.Brew.TastingBy(who); !tasted {
			body.NotYet = "/brews/" + sc.ID + "/cup?for=" + who
		}
	}
	body.Advice = station.AdviceOf(*sc.Brew.Advice, *sc.Sheet, sc.Prefs)
	body.Reminds, body.Plan = tasteNote(*sc.Brew), bagPlan(r, sc)
	if a := sc.Brew.Advice; a.Good > 0 && a.First != nil {
		body.GoodNext = words.Chance(a.Good)
	}
	_, body.Odd = s.yard.Learned().Odd(sc.Brew.Sample())
	drafts, err := s.yard.Store.Drafts(r.Context(), sc.BagID, station.PathLength)
	if err != nil {
		return err
	}
	brews, err := s.yard.Store.Path(r.Context(), sc.BagID, station.PathLength)
	if err != nil {
		return err
	}
	body.Differ = station.Opinions(r, upTo(brews, sc.ID))
	for i := range brews {
		brews[i] = brews[i].Preferring(sc.Brew.Taster)
	}
	if body.Path, err = station.Path(r.Context(), s.yard, brews, sc.ID, drafts, sc.Prefs); err != nil {
		return err
	}
	body.Map = mapOf(*sc.Brew, brews)
	body.Answers = answersTo(*sc.Brew)
	for _, p := range []*station.Proposal{body.Second, body.Third} {
		if p != nil && body.OnShelf {
			p.Of = sc.ID + "/again" + body.As
		}
	}
	record, err := s.yard.Store.Record(r.Context(), sc.Brew.Taster)
	if err != nil {
		return err
	}
	body.Record = recordText(record)
	s.Render(w, r, http.StatusOK, "next", page.Page{Title: "Next for " +
		sc.Bag.Name, Station: "Next", Line: station.Line(sc, "Next"), Body: body})
	return nil
}

// noAdvice returns the problem of a brew without advice for its taster.
func noAdvice(r *http.Request, sc *station.Scene) error {
	p := page.Problem{Status: http.StatusConflict, Title: "No advice yet",
		Text: "Advice needs measurements or tasting notes. Fill in the Cup station first."}
	if sc.Brew == nil {
		return p
	}
	if _, tasted := sc.Brew.TastingBy(sc.Brew.Taster); tasted {
		p.Text = "This brew was imported from a table. Save its cup at the Cup station to get advice."
	} else if len(sc.Brew.Tastings) > 0 {
		p.Title = "No advice for " + station.Named(r, sc.Brew.Taster).Name + " yet"
		p.Text = "Others have tasted this cup. Advice needs this person’s own tasting: fill in the Cup station first."
	}
	return p
}

// upTo returns the brews of a path up to one of them.
func upTo(path []brew.Brew, id string) []brew.Brew {
	if i := slices.IndexFunc(path, func(b brew.Brew) bool { return b.ID == id }); i >= 0 {
		return path[:i+1]
	}
	return path
}

// tasteNote returns the person's note on the taste of this coffee after a fast or slow drawdown, if this brew
// had one.
func tasteNote(b brew.Brew) string {
	window, drained := b.Window(), b.Cup.Drawdown
	switch {
	case !window.IsSet() || drained == 0:
	case drained < window.From && b.Bag.WhenFast != "":
		return fmt.Sprintf("It drained before its window. Your note for too fast: %s.", b.Bag.WhenFast)
	case drained > window.To && b.Bag.WhenSlow != "":
		return fmt.Sprintf("It drained after its window. Your note for too slow: %s.", b.Bag.WhenSlow)
	}
	return ""
}

// recordText describes the success of the coach's recent changes; empty without any.
func recordText(r store.Record) string {
	const few = 3
	if r.Changes < few {
		return ""
	}
	return fmt.Sprintf("%d of its last %d changes helped.", r.Helped, r.Changes)
}

// mapOf draws the map of an advice with the flowers of the brews on it.
func mapOf(b brew.Brew, path []brew.Brew) template.HTML {
	if b.Advice.Map == nil {
		return ""
	}
	m := figure.Map{Map: *b.Advice.Map}
	for _, p := range m.Cups {
		flower := template.HTML("")
		for _, past := range path {
			if past.ID == p.Brew {
				flower = figure.Flower(past.Recipe.Dose, past.Plan.Steps, past.Cup.Drawdown)
			}
		}
		m.Flowers = append(m.Flowers, flower)
	}
	return m.Draw()
}

// The kinds of feedback other than requests for the next cup.
const (
	badPour       = "bad pour"
	skippedChange = "not done"
)

// answersTo lists the possible feedback on a brew.
func answersTo(b brew.Brew) []answerView {
	var out []answerView
	for _, want := range cup.Wants() {
		out = append(out, answerView{string(want), "I want it " + string(want), b.Cup.Wants[want]})
	}
	if b.Advised != nil {
		out = append(out, answerView{skippedChange, "I skipped the change", b.Cup.SkippedChange})
	}
	return append(out, answerView{badPour, "It was a bad pour", b.Cup.BadPour})
}

// answer adds or withdraws feedback, and updates the advice.
func (s *Screens) answer(w http.ResponseWriter, r *http.Request) error {
	sc := station.Of(r)
	if err := sc.SeeTaster(r); err != nil {
		return err
	}
	if sc.Brew == nil || sc.Brew.Advice == nil {
		return brew.ErrStatus
	}
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	said := f.Values["say"]
	if !slices.ContainsFunc(answersTo(*sc.Brew), func(a answerView) bool { return a.Value == said }) {
		return page.Problem{Status: http.StatusBadRequest, Title: "Unknown answer",
			Text: "Go back to the Next station and choose one of its buttons."}
	}
	err = s.yard.Taste(r.Context(), *sc.Sheet, sc.Brew.Taster, page.Settings(r), func(b brew.Brew) (cup.Cup, error) {
		c := b.Cup
		switch said {
		case badPour:
			c.BadPour = !c.BadPour
		case skippedChange:
			c.SkippedChange = !c.SkippedChange
		default:
			c.Wants = maps.Clone(c.Wants)
			if c.Wants == nil {
				c.Wants = map[cup.Want]bool{}
			}
			if want := cup.Want(said); c.Wants[want] {
				delete(c.Wants, want)
			} else {
				c.Wants[want] = true
			}
		}
		return c, nil
	})
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, "/brews/%s/next%s", sc.ID, sc.As(r))
}

// brewAgain opens the next recipe of the bag: with the first or the second change, or unchanged.
func (s *Screens) brewAgain(w http.ResponseWriter, r *http.Request) error {
	sc := station.Of(r)
	if err := sc.SeeTaster(r); err != nil {
		return err
	}
	if sc.Brew == nil {
		return brew.ErrStatus
	}
	if sc.Shelf.Deleted {
		return station.BagGoneProblem(sc.Shelf)
	}
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	changes := map[string]*coach.Proposal{"same": nil}
	if a := sc.Brew.Advice; a != nil {
		changes["first"], changes["second"], changes["third"] = a.First, a.Second, a.Third
	}
	change, known := changes[f.Values["choice"]]
	if !known {
		return page.Problem{Status: http.StatusBadRequest, Title: "Unknown choice",
			Text: "Go back to the Next station and choose one of its buttons."}
	}
	return station.OpenDraft(s.yard, w, r, sc.Brew.Next(store.NewID(), change, s.yard.Now()))
}

package web

import (
	"fmt"
	"html/template"
	"math"
	"net/http"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/units"
	"yardbloom/store"
)

// nextBody is the Next station.
type nextBody struct {
	ID      int64
	Name    string
	Advice  coach.Advice
	First   *proposalView
	Second  *proposalView
	Facts   string
	Path    []pathView
	OnShelf bool
}

type proposalView struct {
	coach.Proposal
	Expect string
}

// pathView is one brew on the path of a bag.
type pathView struct {
	ID     int64
	Href   string
	Flower template.HTML
	When   string
	What   string // what was changed to get here
	Result string
	Did    string // what the change did, against what was expected
	// DidClass shows in colour what Did says in words.
	DidClass string
	Here     bool
}

func (s *Server) next(w http.ResponseWriter, r *http.Request) error {
	b, _, prefs, err := s.load(r)
	if err != nil {
		return err
	}
	if b.Status != brew.Done {
		return problem{http.StatusConflict, "Nothing to go on yet", "Advice stands on what was measured or tasted. Fill in the Cup station first."}
	}
	body := nextBody{ID: b.ID, Name: b.Bag.Name, Facts: resultOf(b, prefs)}
	body.Advice, body.First, body.Second = adviceOf(b, prefs)
	if body.Path, err = s.pathOf(r, b.BagID, b.ID, prefs); err != nil {
		return err
	}
	bag, err := s.Store.Bag(r.Context(), b.BagID)
	if err != nil {
		return err
	}
	body.OnShelf = !bag.Deleted
	s.render(w, r, http.StatusOK, "next", page{Title: "Next for " + b.Bag.Name, Station: "Next", Line: lineOf(b, prefs, "Next"), Body: body})
	return nil
}

func adviceOf(b brew.Brew, prefs units.Prefs) (a coach.Advice, first, second *proposalView) {
	a = coach.Advise(coach.Of(b, prefs))
	return a, viewOf(a.First), viewOf(a.Second)
}

func viewOf(p *coach.Proposal) *proposalView {
	if p == nil {
		return nil
	}
	return &proposalView{*p, expectation(p.Effect.Yield, p.Effect.Time)}
}

// expectation says what the model expects of a change, rounded to what it means.
func expectation(yield float64, t units.Seconds) string {
	fives := math.Round(float64(t)/5) * 5
	switch {
	case yield == 0 && t == 0:
		return ""
	case fives == 0:
		return fmt.Sprintf("EY about %s points", units.Points(yield, 1))
	default:
		return fmt.Sprintf("EY about %s points, drawdown about %s s", units.Points(yield, 1), units.Signed(fives, 0))
	}
}

// again opens the next recipe of the bag: with the first or the second change, or as it was.
func (s *Server) again(w http.ResponseWriter, r *http.Request) error {
	b, _, prefs, err := s.load(r)
	if err != nil {
		return err
	}
	if b.Started.IsZero() {
		return store.ErrStatus
	}
	bag, err := s.Store.Bag(r.Context(), b.BagID)
	if err != nil {
		return err
	}
	if bag.Deleted {
		return gone(bag)
	}
	f, err := readForm(r)
	if err != nil {
		return err
	}
	advice := coach.Advise(coach.Of(b, prefs))
	proposals := map[string]*coach.Proposal{"first": advice.First, "second": advice.Second, "same": nil}
	p, known := proposals[f.Values["choice"]]
	if !known {
		return problem{http.StatusBadRequest, "That choice does not exist", "Go back to the Next station and choose one of its buttons."}
	}
	var asked *brew.Asked
	if p != nil {
		asked = &brew.Asked{Change: p.Change, Say: p.Say, Reason: p.Reason, Yield: p.Effect.Yield, Time: p.Effect.Time}
	}
	id, err := s.follow(r, b, asked)
	if err != nil {
		return err
	}
	return seeOther(w, r, "/brews/%d/recipe", id)
}

// pathOf lists the brews of a bag in their order, each with what was changed,
// what it did, and whether that was what had been expected.
func (s *Server) pathOf(r *http.Request, bagID, here int64, prefs units.Prefs) ([]pathView, error) {
	brews, err := s.Store.Log(r.Context(), store.Filter{Bag: bagID, Oldest: true,
		Statuses: []brew.Status{brew.Planned, brew.Running, brew.Poured, brew.Done}})
	if err != nil {
		return nil, err
	}
	byID := map[int64]brew.Brew{}
	var out []pathView
	for _, b := range brews {
		byID[b.ID] = b
		v := pathView{ID: b.ID, Href: fmt.Sprintf("/brews/%d", b.ID), Flower: flowerOf(b), When: "not poured yet", Here: b.ID == here,
			Result: resultOf(b, prefs)}
		if b.Status == brew.Planned {
			v.Href += "/recipe"
		} else {
			v.When = moment(b.Started)
		}
		before, follows := byID[b.Parent]
		v.What = whatChanged(before, b, follows, prefs)
		if follows && b.Status == brew.Done {
			o := coach.Compare(before, b)
			v.Did, v.DidClass = didWords(o), map[coach.Verdict]string{coach.AsExpected: "as-expected", coach.Opposite: "not-as-expected"}[o.Verdict]
		}
		out = append(out, v)
	}
	return out, nil
}

func whatChanged(before, b brew.Brew, follows bool, prefs units.Prefs) string {
	switch {
	case b.Asked != nil:
		return b.Asked.Say
	case !follows:
		return "first recipe, " + b.Recipe.Style.Style().Name
	default:
		if changed := changedFrom(before, b, prefs); len(changed) > 0 {
			return joinValues(changed)
		}
		return "the same again"
	}
}

func didWords(o coach.Outcome) string {
	switch {
	case o.Yield != nil && o.Verdict != "":
		return fmt.Sprintf("EY %s ± %.1f: %s", units.Points(o.Yield.Value, 1), o.Yield.Error, o.Verdict)
	case o.Yield != nil:
		return fmt.Sprintf("EY %s ± %.1f", units.Points(o.Yield.Value, 1), o.Yield.Error)
	case o.Time != nil:
		return fmt.Sprintf("%s s", units.Signed(float64(*o.Time), 0))
	default:
		return ""
	}
}

// resultOf is what is known of a brew's outcome, in one line.
func resultOf(b brew.Brew, prefs units.Prefs) string {
	out := ""
	add := func(s string) {
		if out != "" {
			out += " · "
		}
		out += s
	}
	if b.Cup.Drawdown > 0 {
		add(b.Cup.Drawdown.String())
	}
	if b.Cup.TDS > 0 {
		add(fmt.Sprintf("TDS %.2f %%", b.Cup.TDS))
	}
	if y, ok := coach.Of(b, prefs).Yield(); ok {
		add("EY " + y.String())
	}
	if b.Cup.Overall > 0 {
		add(fmt.Sprintf("%d of 10", b.Cup.Overall))
	}
	return out
}

// moment prints when something happened, in the zone in which it happened.
func moment(t time.Time) string { return t.Format("2 Jan 15:04") }

func shortDay(t time.Time) string { return t.Format("2 Jan") }

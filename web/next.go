package web

import (
	"fmt"
	"html/template"
	"net/http"
	"slices"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/figure"
	"yardbloom/web/form"
	"yardbloom/web/words"
)

// nextBody is the Next station.
type nextBody struct {
	ID      string
	Name    string
	Advice  coach.Advice
	First   *proposalView
	Second  *proposalView
	Facts   string
	Path    []pathView
	OnShelf bool
	Odd     bool   // measured far from what was expected: a spill, or a slip of the pen
	Reminds string // what the person said of this coffee
}

type proposalView struct {
	coach.Proposal
	Expect string
}

// pathView is one brew on the path of a bag.
type pathView struct {
	ID     string
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
	sc := sceneOf(r)
	if sc.brew == nil || sc.brew.Advice == nil {
		return problem{http.StatusConflict, "Nothing to go on yet", "Advice stands on what was measured or tasted. Fill in the Cup station first."}
	}
	body := nextBody{ID: sc.ID, Name: sc.Bag.Name, Facts: words.ResultOf(*sc.brew), OnShelf: !sc.shelf.Deleted}
	body.advise(*sc.brew.Advice)
	body.Reminds = reminds(*sc.brew)
	_, body.Odd = s.teacher.Yard().Odd(sc.brew.Sample())
	drafts, err := s.Store.Drafts(r.Context(), sc.BagID, pathLength)
	if err != nil {
		return err
	}
	if body.Path, err = s.pathOf(r, sc.BagID, sc.ID, drafts); err != nil {
		return err
	}
	s.render(w, r, http.StatusOK, "next", page{Title: "Next for " + sc.Bag.Name, Station: "Next", Line: lineOf(sc, "Next"), Body: body})
	return nil
}

// reminds repeats what the person said that this coffee tastes like when it drains too
// fast or too slow, where this brew did.
func reminds(b brew.Brew) string {
	window, drained := b.Window(), b.Cup.Drawdown
	switch {
	case !window.Set() || drained == 0:
	case drained < window.From && b.Bag.WhenFast != "":
		return fmt.Sprintf("It drained before its window. Too fast, you said, it tastes: %s.", b.Bag.WhenFast)
	case drained > window.To && b.Bag.WhenSlow != "":
		return fmt.Sprintf("It drained after its window. Too slow, you said, it tastes: %s.", b.Bag.WhenSlow)
	}
	return ""
}

// advise fills in the advice as it was given.
func (b *nextBody) advise(a coach.Advice) {
	b.Advice, b.First, b.Second = a, viewOf(a.First), viewOf(a.Second)
}

func viewOf(p *coach.Proposal) *proposalView {
	if p == nil {
		return nil
	}
	return &proposalView{*p, words.Effect(p.Effect)}
}

// brewAgain opens the next recipe of the bag: with the first or the second change, or as it was.
func (s *Server) brewAgain(w http.ResponseWriter, r *http.Request) error {
	sc := sceneOf(r)
	if sc.brew == nil {
		return brew.ErrStatus
	}
	if sc.shelf.Deleted {
		return gone(sc.shelf)
	}
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	changes := map[string]*coach.Proposal{"same": nil}
	if a := sc.brew.Advice; a != nil {
		changes["first"], changes["second"] = a.First, a.Second
	}
	change, known := changes[f.Values["choice"]]
	if !known {
		return problem{http.StatusBadRequest, "That choice does not exist", "Go back to the Next station and choose one of its buttons."}
	}
	return s.openDraft(w, r, sc.brew.Next(store.NewID(), change, s.Now()))
}

// pathOf lists the last brews of a bag in their order, each with what was changed,
// what it did, and whether that was what had been expected; at its end the recipe
// in the making that was touched last.
func (s *Server) pathOf(r *http.Request, bagID, here string, drafts []brew.Draft) ([]pathView, error) {
	brews, err := s.Store.Path(r.Context(), bagID, pathLength)
	if err != nil {
		return nil, err
	}
	prefs := prefsOf(r)
	byID := map[string]brew.Brew{}
	var out []pathView
	for _, b := range brews {
		byID[b.ID] = b
		before, follows := byID[b.Parent]
		v := pathView{ID: b.ID, Href: "/brews/" + b.ID, Flower: figure.Flower(b.Recipe.Dose, b.Plan.Steps, b.Cup.Drawdown), When: words.Moment(b.Started), Here: b.ID == here,
			Result: words.ResultOf(b), What: whatChanged(before, b.Sheet, follows, prefs)}
		if follows && b.Status == brew.Done {
			o := brew.Compare(before, b)
			v.Did, v.DidClass = words.Outcome(o), map[brew.Verdict]string{brew.AsExpected: "as-expected", brew.Opposite: "not-as-expected"}[o.Verdict]
		}
		out = append(out, v)
	}
	if i := slices.IndexFunc(drafts, func(d brew.Draft) bool { return d.Name == "" }); i >= 0 {
		d := drafts[i]
		before, follows := byID[d.Parent]
		out = append(out, pathView{ID: d.ID, Href: fmt.Sprintf("/brews/%s/recipe", d.ID), Flower: figure.Flower(d.Recipe.Dose, d.Recipe.Plan().Steps, 0), When: "not poured yet", Here: d.ID == here,
			What: whatChanged(before, d.Sheet, follows, prefs)})
	}
	return out, nil
}

// whatChanged says what a sheet changes against the brew it follows on.
func whatChanged(before brew.Brew, sheet brew.Sheet, follows bool, prefs units.Prefs) string {
	switch {
	case sheet.Asked != nil:
		return sheet.Asked.Say
	case sheet.Parent == "":
		return "first recipe, " + sheet.Recipe.Style.Style().Name
	case !follows: // it stands further back than the path goes
		return sheet.Recipe.Style.Style().Name
	default:
		if changed := changed(before.Recipe, sheet, prefs); len(changed) > 0 {
			return joinValues(changed)
		}
		return "the same again"
	}
}

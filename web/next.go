package web

import (
	"fmt"
	"html/template"
	"maps"
	"net/http"
	"slices"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/cup"
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
	Third   *proposalView
	Chance  string // how likely the verdict is
	Map     template.HTML
	Signs   []signView
	Answers []answerView
	Record  string // what became of the coach's last changes
}

type proposalView struct {
	coach.Proposal
	Of     string // the brew that it can be made of; empty where it cannot
	Choice string // the value of its button
	Expect string
	Helps  string
	Sums   []sumView
	Gain   string
}

// sumView is one line of a sum of marks.
type sumView struct{ Say, By string }

// signView is one sign with what it moved.
type signView struct {
	Say   string
	Moved []string
}

// answerView is something that can be said back to the coach.
type answerView struct {
	Value, Label string
	Said         bool
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
	body.advise(*sc.brew.Advice, *sc.Sheet, sc.prefs)
	body.Reminds = reminds(*sc.brew)
	_, body.Odd = s.teacher.Yard().Odd(sc.brew.Sample())
	drafts, err := s.Store.Drafts(r.Context(), sc.BagID, pathLength)
	if err != nil {
		return err
	}
	brews, err := s.Store.Path(r.Context(), sc.BagID, pathLength)
	if err != nil {
		return err
	}
	body.Path = pathOf(brews, sc.ID, drafts, sc.prefs, s.Now())
	body.Map = mapOf(*sc.brew, brews)
	body.Answers = answersTo(*sc.brew)
	for _, p := range []*proposalView{body.Second, body.Third} {
		if p != nil && body.OnShelf {
			p.Of = sc.ID
		}
	}
	record, err := s.Store.Record(r.Context())
	if err != nil {
		return err
	}
	body.Record = recordOf(record)
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

// recordOf says what became of the coach's last changes, where there were some.
func recordOf(r store.Record) string {
	const few = 3
	if r.Changes < few {
		return ""
	}
	return fmt.Sprintf("%d of its last %d changes helped.", r.Helped, r.Changes)
}

// mapOf draws the map of an advice with the flowers of the brews that lie on it.
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

// advise fills in the advice as it was given.
func (b *nextBody) advise(a coach.Advice, sheet brew.Sheet, prefs units.Prefs) {
	for _, p := range []**coach.Proposal{&a.First, &a.Second, &a.Third} {
		*p = describedIn(*p, sheet, prefs)
	}
	b.Advice, b.First, b.Second, b.Third = a, viewOf(a.First, "first"), viewOf(a.Second, "second"), viewOf(a.Third, "third")
	if a.Chance > 0 && a.Do != coach.Stop && a.Do != coach.Taste {
		b.Chance = words.Chance(a.Chance)
	}
	for _, s := range a.Signs {
		v := signView{Say: s.Say}
		for _, m := range s.Moved {
			v.Moved = append(v.Moved, words.Moved(m))
		}
		b.Signs = append(b.Signs, v)
	}
}

func viewOf(p *coach.Proposal, choice string) *proposalView {
	if p == nil {
		return nil
	}
	v := &proposalView{Proposal: *p, Choice: choice, Expect: words.Effect(p.Effect)}
	if p.Help > 0 {
		v.Helps = words.Chance(p.Help)
	}
	sum := 0.0
	for _, l := range p.Lines {
		sum += l.By
		if by := units.Signed(l.By, 2); by != units.Signed(0, 2) {
			v.Sums = append(v.Sums, sumView{l.Say, by})
		}
	}
	v.Gain = units.Signed(sum, 2)
	return v
}

// answers are what can be said back to the coach, besides what is wanted of the next cup.
const (
	badPour = "bad pour"
	notDone = "not done"
)

// answersTo lists what can be said back of a brew.
func answersTo(b brew.Brew) []answerView {
	var out []answerView
	for _, want := range cup.Wants() {
		out = append(out, answerView{string(want), "I want it " + string(want), b.Cup.Wants[want]})
	}
	if b.Asked != nil {
		out = append(out, answerView{notDone, "I did not do that", b.Cup.NotDone})
	}
	return append(out, answerView{badPour, "It was a bad pour", b.Cup.BadPour})
}

// answer takes what is said back, or takes it away again, and advises anew.
func (s *Server) answer(w http.ResponseWriter, r *http.Request) error {
	sc := sceneOf(r)
	if sc.brew == nil || sc.brew.Advice == nil {
		return brew.ErrStatus
	}
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	said := f.Values["say"]
	if !slices.ContainsFunc(answersTo(*sc.brew), func(a answerView) bool { return a.Value == said }) {
		return problem{http.StatusBadRequest, "That answer does not exist", "Go back to the Next station and choose one of its buttons."}
	}
	err = s.taste(r, func(c cup.Cup, _ int64) (cup.Cup, error) {
		switch said {
		case badPour:
			c.BadPour = !c.BadPour
		case notDone:
			c.NotDone = !c.NotDone
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
	return seeOther(w, r, "/brews/%s/next", sc.ID)
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
		changes["first"], changes["second"], changes["third"] = a.First, a.Second, a.Third
	}
	change, known := changes[f.Values["choice"]]
	if !known {
		return problem{http.StatusBadRequest, "That choice does not exist", "Go back to the Next station and choose one of its buttons."}
	}
	return s.openDraft(w, r, sc.brew.Next(store.NewID(), change, s.Now()))
}

// pathOf lists brews of a bag in their order, each with what was changed,
// what it did, and whether that was what had been expected; at its end the recipe
// in the making that was touched last.
func pathOf(brews []brew.Brew, here string, drafts []brew.Draft, prefs units.Prefs, now time.Time) []pathView {
	byID := map[string]brew.Brew{}
	var out []pathView
	for _, b := range brews {
		byID[b.ID] = b
		before, follows := byID[b.Parent]
		v := pathView{ID: b.ID, Href: "/brews/" + b.ID, Flower: figure.Flower(b.Recipe.Dose, b.Plan.Steps, b.Cup.Drawdown), When: words.Moment(b.Started, now), Here: b.ID == here,
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
	return out
}

// describedIn returns a proposal with its change described in a user's units, or nil.
func describedIn(p *coach.Proposal, sheet brew.Sheet, prefs units.Prefs) *coach.Proposal {
	if p == nil {
		return nil
	}
	said := *p
	said.Say, said.LeadsTo = coach.Describe(sheet.Recipe, sheet.Gear.Grinder, p.Change, prefs)
	return &said
}

// whatChanged says what a sheet changes against the brew it follows on.
func whatChanged(before brew.Brew, sheet brew.Sheet, follows bool, prefs units.Prefs) string {
	switch {
	case sheet.Asked != nil:
		return describedIn(sheet.Asked, sheet, prefs).Say
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

package web

import (
	"fmt"
	"html/template"
	"maps"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/figure"
)

type logBody struct {
	Bags []option
	Rows []logRow
	All  int
}

type logRow struct {
	ID     int64
	Flower template.HTML
	Name   string
	When   string
	Recipe string
	Result string
	Taste  string
	Status brew.Status
	Href   string
}

// brewLog lists the brews with their flowers, filtered by coffee.
func (s *Server) brewLog(w http.ResponseWriter, r *http.Request) error {
	_, prefs, err := s.yard(r)
	if err != nil {
		return err
	}
	bag, err := strconv.ParseInt(r.URL.Query().Get("bag"), 10, 64)
	if err != nil && r.URL.Query().Get("bag") != "" {
		return store.ErrNotFound
	}
	all, err := s.Store.Log(r.Context(), store.Filter{})
	if err != nil {
		return err
	}
	names := map[int64]string{}
	body := logBody{Bags: []option{{"", "All coffees", bag == 0}}, All: len(all)}
	for _, b := range all {
		names[b.BagID] = b.Bag.Name
		if bag == 0 || b.BagID == bag {
			body.Rows = append(body.Rows, rowOfLog(b, prefs))
		}
	}
	for _, id := range slices.SortedFunc(maps.Keys(names), func(a, b int64) int { return strings.Compare(names[a], names[b]) }) {
		body.Bags = append(body.Bags, option{itoa(id), names[id], id == bag})
	}
	s.render(w, r, http.StatusOK, "log", page{Title: "Log", Side: "log", Line: emptyLine(""), Body: body})
	return nil
}

func rowOfLog(b brew.Brew, prefs units.Prefs) logRow {
	row := logRow{ID: b.ID, Flower: flowerOf(b), Name: b.Bag.Name, When: moment(b.Started), Result: resultOf(b, prefs), Status: b.Status,
		Recipe: recipeLine(b, prefs), Taste: tasteLine(b.Cup.Taste), Href: fmt.Sprintf("/brews/%d", b.ID)}
	return row
}

// recipeLine is a recipe in one line.
func recipeLine(b brew.Brew, prefs units.Prefs) string {
	return fmt.Sprintf("%s · %s · 1 : %s · grind %s · %s", b.Gear.Brewer.Name, prefs.Unit(units.Dose).Format(float64(b.Recipe.Dose)),
		units.Trim(b.Ratio(), 1), b.Gear.Grinder.Setting(b.Recipe.Grind), prefs.Unit(units.Temperature).Format(float64(b.Recipe.Temperature)))
}

// missed are the senses of which none at all is worth a word.
var missed = map[cup.Sense]bool{cup.Sweetness: true, cup.Body: true, cup.Clarity: true, cup.Aftertaste: true}

// tasteLine is a tasting in one line: what stands out.
func tasteLine(t cup.Taste) string {
	var out []string
	for _, sc := range cup.Scales() {
		if step := t.Steps[sc.Sense]; step >= 4 || step == 1 && missed[sc.Sense] {
			out = append(out, fmt.Sprintf("%s %s", strings.ToLower(sc.Name), cup.Word(sc.Sense, step)))
		}
	}
	for _, f := range cup.Faults() {
		if t.Faults[f] {
			out = append(out, string(f))
		}
	}
	return strings.Join(out, ", ")
}

// reportBody is one brew from its plan to its advice.
type reportBody struct {
	ID       int64
	Name     string
	When     string
	Status   brew.Status
	Flower   template.HTML
	Ribbons  []template.HTML
	Recipe   []fact
	Happened []fact
	Cup      []fact
	Taste    []fact
	Notes    string
	Advice   *nextBody
	Asked    *brew.Asked
	OnShelf  bool
	Expected string // by the brew model, of the plan
}

type fact struct{ Name, Value string }

// report shows one brew: plan, what happened, cup and advice.
func (s *Server) report(w http.ResponseWriter, r *http.Request) error {
	b, _, prefs, err := s.load(r)
	if err != nil {
		return err
	}
	switch b.Status {
	case brew.Planned:
		return seeOther(w, r, "/brews/%d/recipe", b.ID)
	case brew.Running:
		return seeOther(w, r, "/brews/%d/brew", b.ID)
	}
	bag, err := s.Store.Bag(r.Context(), b.BagID)
	if err != nil {
		return err
	}
	state := b.At(b.Ended)
	body := reportBody{ID: b.ID, Name: b.Bag.Name, When: b.Started.Format("Monday 2 January 2006, 15:04"), Status: b.Status, Flower: flowerOf(b),
		Recipe: recipeFacts(b, prefs), Happened: happened(b, state, prefs), Cup: cupFacts(b, prefs), Notes: b.Cup.Notes, Asked: b.Asked, OnShelf: !bag.Deleted}
	if f, err := forecast.Of(forecast.QuestionOf(b, b.Started)); err == nil {
		body.Expected = fmt.Sprintf("%s ± %s, TDS %.2f %%, EY %s", f.Drawdown, f.DrawdownError, f.TDS, f.Yield)
	}
	body.Ribbons = figure.Ribbon{Plan: b.Plan, Actual: &state, Now: b.Elapsed(b.Ended), Prefs: prefs}.Both()
	for _, sc := range cup.Scales() {
		if word := cup.Word(sc.Sense, b.Cup.Steps[sc.Sense]); word != "" {
			body.Taste = append(body.Taste, fact{sc.Name, word})
		}
	}
	if b.Status == brew.Done {
		advice := nextBody{ID: b.ID}
		advice.Advice, advice.First, advice.Second = adviceOf(b, prefs)
		body.Advice = &advice
	}
	s.render(w, r, http.StatusOK, "report", page{Title: "Brew of " + b.Bag.Name, Side: "log", Line: lineOf(b, prefs, ""), Body: body})
	return nil
}

func recipeFacts(b brew.Brew, prefs units.Prefs) []fact {
	g := b.Gear
	out := []fact{
		{"Style", b.Recipe.Style.Style().Name},
		{"Brewer", fmt.Sprintf("%s, %s", g.Brewer.Name, g.Brewer.Filter)},
		{"Dose", prefs.Unit(units.Dose).Format(float64(b.Recipe.Dose))},
		{"Water", fmt.Sprintf("%s at %s", prefs.Unit(units.Water).Format(float64(b.Recipe.Water)), prefs.Unit(units.Temperature).Format(float64(b.Recipe.Temperature)))},
		{"Ratio", "1 : " + units.Trim(b.Ratio(), 1)},
		{"Grind", fmt.Sprintf("%s on %s (%s)", g.Grinder.Setting(b.Recipe.Grind), g.Grinder.Name, prefs.Unit(units.Grind).Format(float64(b.Recipe.Grind)))},
	}
	out = append(out, fact{"Pouring", pouringWords(b.Recipe)})
	if days, known := b.Bag.Age(b.Started); known {
		out = append(out, fact{"Coffee", fmt.Sprintf("%s, %s", dayCount(days), b.Bag.Freshness(b.Started))})
	}
	return out
}

// pouringWords says how a recipe is poured after its bloom.
func pouringWords(r recipe.Recipe) string {
	words := "1 pour"
	if n := r.PourCount(); n > 1 {
		words = fmt.Sprintf("%d pours, one every %s", n, seconds.Format(float64(r.PourGap())))
		if r.WhenDrained {
			words = fmt.Sprintf("%d pours, each when the water has reached the bed", n)
		}
	}
	words += fmt.Sprintf(", at %s, %s, %s", perSec.Format(r.PourRate()), r.PourPattern(), r.Height)
	if r.Hand != recipe.NoHand {
		words += ", then " + r.Hand.String()
	}
	return words
}

// happened tells how each thing to do was done, against the plan.
func happened(b brew.Brew, state brew.State, prefs units.Prefs) []fact {
	u := prefs.Unit(units.Water)
	var out []fact
	for i, st := range state.Stages {
		if !st.Does() || i > state.Current || st.Skipped {
			continue
		}
		what := map[brew.StageKind]string{brew.Pouring: "Pour to " + u.Format(float64(st.To)), brew.Stirring: "Break the crust", brew.Releasing: "Open the valve"}[st.Kind]
		said := "at " + st.Entered.String()
		if d := st.Entered - b.Plan.Steps[st.Step].Start; d >= 1 || d <= -1 {
			said += fmt.Sprintf(", %s s against the plan", units.Signed(float64(d), 0))
		}
		out = append(out, fact{what, said})
	}
	for _, m := range state.Marks {
		out = append(out, fact{"Marked", fmt.Sprintf("%s at %s", m.What, m.At)})
	}
	if b.Status == brew.Abandoned {
		return append(out, fact{"Stopped", "at " + b.Elapsed(b.Ended).String()})
	}
	return append(out, fact{"Last steady stream", fmt.Sprintf("at %s, aim %s", state.Drawdown, b.Plan.Finish)})
}

func cupFacts(b brew.Brew, prefs units.Prefs) []fact {
	var out []fact
	add := func(there bool, name, value string) {
		if there {
			out = append(out, fact{name, value})
		}
	}
	c := b.Cup
	add(c.Beverage > 0, "Beverage", prefs.Unit(units.Water).Format(float64(c.Beverage)))
	add(c.TDS > 0, "TDS", fmt.Sprintf("%.2f %%", c.TDS))
	yield, _ := yieldWords(b, prefs)
	add(yield != "", "Extraction yield", yield)
	add(c.Drawdown > 0, "Drawdown", c.Drawdown.String())
	add(c.Bed != "", "Spent bed", string(c.Bed))
	add(c.Overall > 0, "Overall", fmt.Sprintf("%d of 10", c.Overall))
	add(c.Serve != "", "Would serve it", c.Serve)
	for _, f := range cup.Faults() {
		add(c.Faults[f], "Fault", string(f))
	}
	return out
}

func joinValues[K comparable](m map[K]string) string {
	return strings.Join(slices.Sorted(maps.Values(m)), ", ")
}

package web

import (
	"cmp"
	"fmt"
	"html/template"
	"maps"
	"math"
	"net/http"
	"slices"
	"strings"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/units"
	"yardbloom/web/figure"
	"yardbloom/web/words"
)

// reportBody is one brew from its plan to its advice.
type reportBody struct {
	ID       string
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
	Asked    *coach.Proposal
	OnShelf  bool
	Expected string // by the brew model, when it was begun
	Poured   []pouredView
	Did      string // what the differences did to the cup, by the model
	Steady   string
	Seen     bool   // a scale saw it
	Why      string // it was stopped
}

// pouredView is a pour as it was poured against how it was planned.
type pouredView struct {
	Name, Water, Start, Rate, Steady string
	MoreWater, Later, Faster         string // against the plan
}

// report shows one brew: plan, what happened, cup and advice, each as it was said then.
func (s *Server) report(w http.ResponseWriter, r *http.Request) error {
	sc := sceneOf(r)
	switch {
	case sc.brew == nil:
		return seeOther(w, r, "/brews/%s/recipe", sc.ID)
	case sc.brew.Status == brew.Running:
		return seeOther(w, r, "/brews/%s/brew", sc.ID)
	}
	b := *sc.brew
	state := b.At(b.Ended)
	body := reportBody{ID: b.ID, Name: b.Bag.Name, When: b.Started.Format("Monday 2 January 2006, 15:04"), Status: b.Status, Flower: figure.Flower(b.Recipe.Dose, b.Plan.Steps, b.Cup.Drawdown),
		Recipe: recipeFacts(b, sc.prefs), Happened: happened(b, state, sc.prefs), Cup: cupFacts(b, sc.prefs), Notes: b.Cup.Notes, Asked: describedIn(b.Asked, b.Sheet, sc.prefs), OnShelf: !sc.shelf.Deleted}
	if b.Forecast != nil {
		body.Expected = expected(*b.Forecast)
	}
	readings, err := s.Store.Readings(r.Context(), b.ID)
	if err != nil {
		return err
	}
	body.Ribbons = figure.Ribbon{Plan: b.Plan, Actual: &state, Now: b.Elapsed(b.Ended), Prefs: sc.prefs, Trace: readings}.Both()
	body.afterwards(b.After(readings), sc.prefs)
	for _, e := range b.Events {
		if e.Kind == brew.Abandon {
			body.Why = e.Note
		}
	}
	for _, scale := range cup.Scales() {
		if word := cup.Word(scale.Sense, b.Cup.Steps[scale.Sense]); word != "" {
			body.Taste = append(body.Taste, fact{scale.Name, word})
		}
	}
	if b.Advice != nil {
		body.Advice = &nextBody{ID: b.ID}
		body.Advice.advise(*b.Advice, b.Sheet, sc.prefs)
	}
	s.render(w, r, http.StatusOK, "report", page{Title: "Brew of " + b.Bag.Name, Side: "log", Line: lineOf(sc, ""), Body: body})
	return nil
}

// afterwards tells how each pour was poured, and what that did.
func (body *reportBody) afterwards(a brew.After, prefs units.Prefs) {
	water, rate := prefs.Unit(units.Water), prefs.Unit(units.Rate)
	for i, p := range a.Pours {
		v := pouredView{Name: fmt.Sprintf("Pour %d", i+1), Start: p.Was.Start.String(), Later: seconds(p.Was.Start - p.Meant.Start)}
		if p.Meant.Bloom {
			v.Name = "Bloom"
		}
		v.Water, v.Rate = water.Format(float64(p.Meant.Water)), rate.Format(p.Meant.Rate)
		if p.Weighed {
			v.Water, v.MoreWater = water.Format(float64(p.Was.Water)), water.Difference(units.Round(float64(p.Was.Water-p.Meant.Water), 0))
		}
		if p.Weighed {
			v.Rate, v.Faster = rate.Format(units.Round(p.Was.Rate, 1)), units.Signed(p.Was.Rate-p.Meant.Rate, 1)
		}
		if p.Stream != nil {
			v.Steady = fmt.Sprint(p.Stream.Score())
		}
		body.Poured = append(body.Poured, v)
	}
	if body.Seen = a.Seen; a.Seen {
		body.Steady = fmt.Sprintf("%d of 100", a.Steadiness)
	}
	if a.Did != nil && len(a.Pours) > 0 {
		body.Did = "Too little to tell from the plan."
		if d := a.Did; math.Abs(d.Yield) >= 0.05 || math.Abs(d.Strength) >= 0.005 || d.Time >= 2 || d.Time <= -2 {
			body.Did = fmt.Sprintf("By the model, against the plan: EY %s points, TDS %s, drawdown %s.", units.Points(d.Yield, 1), units.Points(d.Strength, 2), cmp.Or(seconds(d.Time), "the same"))
		}
	}
}

// seconds is a difference in whole seconds; empty for none.
func seconds(d units.Seconds) string {
	if d > -0.5 && d < 0.5 {
		return ""
	}
	return units.Signed(float64(d), 0) + " s"
}

// expected is a kept forecast in one line.
func expected(f forecast.Figures) string {
	return fmt.Sprintf("%s, TDS %.2f %%, EY %s", drawdown(f), f.Strength.Value, f.Yield)
}

func recipeFacts(b brew.Brew, prefs units.Prefs) []fact {
	g, r := b.Gear, b.Recipe
	out := []fact{
		{"Style", r.Style.Style().Name},
		{"Brewer", fmt.Sprintf("%s, %s", g.Brewer.Name, g.Brewer.Filter)},
		{"Dose", prefs.Unit(units.Dose).Format(float64(r.Dose))},
		{"Water", fmt.Sprintf("%s at %s", prefs.Unit(units.Water).Format(float64(r.Water())), prefs.Unit(units.Temperature).Format(float64(r.Temperature())))},
		{"Ratio", prefs.Unit(units.Ratio).Format(r.Ratio())},
		{"Served", words.Serving(r, prefs)},
		{"Grind", fmt.Sprintf("%s on %s (%s)", g.Grinder.Setting(r.Grind), g.Grinder.Name, prefs.Unit(units.Grind).Format(float64(r.Grind)))},
	}
	if len(r.Pours) > 0 {
		out = append(out, fact{"Pouring", words.Pouring(r, prefs)})
	}
	if days, known := b.Bag.Age(b.Started); known {
		out = append(out, fact{"Coffee", fmt.Sprintf("%s, %s", words.Age(days), b.Bag.Freshness(b.Started))})
	}
	return out
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
	yield, _ := words.Yield(b)
	add(yield != "", "Extraction yield", yield)
	add(c.Simulated, "Measured", "by a simulated device")
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

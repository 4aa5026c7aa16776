package log

import (
	"cmp"
	"fmt"
	"html/template"
	"math"
	"net/http"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/figure"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/station"
	"yardbloom/web/words"
)

// reportBody is the record of one brew.
type reportBody struct {
	ID       string
	Name     string
	When     string
	Status   brew.Status
	Flower   template.HTML
	Ribbons  []template.HTML
	Recipe   []page.Fact
	Happened []page.Fact
	Cup      []page.Fact
	Taste    []page.Fact
	Notes    string
	Advice   *adviceView
	Asked    *coach.Proposal
	OnShelf  bool
	Expected string // predicted when it began
	Poured   []pouredView
	Did      string // effect of the deviations on the cup, predicted
	Steady   string
	Seen     bool // a scale was under it
	// Afterwards is set for a brew that was recorded afterwards.
	Afterwards bool
	Why        string // reason for stopping
	Who        *whoView
	// Corrected lists the values that were replaced, such as "TDS was 1.42 % until 3 May 14:05".
	Corrected []string
	Photos    page.Photos
	Versions  []reportVersion // from an import, beside this one
}

// reportVersion is a version of the brew beside the current one.
type reportVersion struct {
	N     int64 // of the import
	Which string
}

// whoView says who brewed and who tasted a brew; a yard of one person has none.
type whoView struct {
	Brewed   form.Field
	Tapped   string // others who tapped; empty for none
	Measured string // who measured; empty if there is no name
	Tastings []tastingView
}

// tastingView is one person's tasting.
type tastingView struct {
	page.Badge
	Says   string
	Notes  string
	Advice string
	Href   string
	Taster form.Field // who tasted it
	Shown  bool       // it is the tasting on the page
}

// adviceView is the advice on a brew.
type adviceView struct {
	ID string
	station.Advice
}

// pouredView compares a pour with its plan.
type pouredView struct {
	Name, Water, Start, Rate, Steady string
	MoreWater, Later, Faster         string // relative to the plan
}

// report shows the record of a brew with its original plan, forecast and advice.
func (s *Screens) report(w http.ResponseWriter, r *http.Request) error {
	sc := station.Of(r)
	switch {
	case sc.Brew == nil:
		return page.SeeOther(w, r, "/brews/%s/recipe", sc.ID)
	case sc.Brew.Status == brew.Running:
		return page.SeeOther(w, r, "/brews/%s/brew", sc.ID)
	}
	b := *sc.Brew
	state := b.At(b.Ended)
	body := reportBody{ID: b.ID, Name: b.Bag.Name, When: b.Started.Format("Monday 2 January 2006, 15:04"), Status: b.Status,
		Flower: figure.Flower(b.Recipe.Dose, b.Plan.Steps, b.Cup.Drawdown),
		Recipe: recipeFacts(b, sc.Prefs), Happened: happened(b, state, sc.Prefs), Cup: cupFacts(b, sc.Prefs), Notes: b.Cup.Notes,
		Asked: station.Described(b.Advised, b.Sheet, sc.Prefs), OnShelf: !sc.Shelf.Deleted}
	if b.Forecast != nil {
		body.Expected = expected(*b.Forecast)
	}
	others, err := s.yard.Store.OtherVersions(r.Context(), store.Brews, b.ID)
	if err != nil {
		return err
	}
	for _, v := range others {
		which := "Version in " + v.Import
		if v.Ours {
			which = "Version before the import of " + v.Import
		}
		body.Versions = append(body.Versions, reportVersion{v.ImportN, which})
	}
	readings, err := s.yard.Store.Readings(r.Context(), b.ID)
	if err != nil {
		return err
	}
	body.Ribbons = figure.Ribbon{Plan: b.Plan, Actual: &state, Now: b.Elapsed(b.Ended), Prefs: sc.Prefs, Trace: readings}.Both()
	body.afterwards(b.ComparePlan(readings), sc.Prefs)
	body.Afterwards = b.RecordedAfterwards() && len(readings) == 0
	for _, e := range b.Events {
		if e.Kind == brew.Abandon {
			body.Why = e.Note
		}
	}
	for _, scale := range cup.Scales() {
		if word := cup.Word(scale.Sense, b.Cup.Steps[scale.Sense]); word != "" {
			body.Taste = append(body.Taste, page.Fact{Name: scale.Name, Value: word})
		}
	}
	if b.Advice != nil {
		body.Advice = &adviceView{b.ID, station.AdviceOf(*b.Advice, b.Sheet, sc.Prefs)}
	}
	body.Who = whoOf(r, sc)
	if body.Corrected, err = s.corrected(r, b, sc.Prefs); err != nil {
		return err
	}
	if body.Photos, err = station.PhotosOf(r.Context(), s.yard, b.ID); err != nil {
		return err
	}
	s.Render(w, r, http.StatusOK, "report", page.Page{Title: "Brew of " + b.Bag.Name, Side: "log", Line: station.Line(sc, ""), Body: body})
	return nil
}

// corrected describes the values of a brew that were replaced.
func (s *Screens) corrected(r *http.Request, b brew.Brew, prefs units.Prefs) ([]string, error) {
	all, err := s.yard.Store.Corrections(r.Context(), b.ID)
	var out []string
	for _, c := range all {
		say := c.Sentence(b.Gear.Grinder, prefs) + " until " + words.Moment(c.At.In(b.Started.Location()), s.yard.Now())
		if by := page.BadgeOf(r, cmp.Or(c.By, c.Taster)); by != nil {
			say += ", corrected by " + by.Name
		}
		out = append(out, say)
	}
	return out, err
}

// afterwards adds the comparison of each pour with its plan, and the effect on the cup.
func (body *reportBody) afterwards(a brew.Comparison, prefs units.Prefs) {
	water, rate := prefs.Unit(units.Water), prefs.Unit(units.Rate)
	for i, p := range a.Pours {
		v := pouredView{Name: fmt.Sprintf("Pour %d", i+1), Start: p.Actual.Start.String(), Later: seconds(p.Actual.Start - p.Planned.Start)}
		if p.Planned.Bloom {
			v.Name = "Bloom"
		}
		v.Water, v.Rate = water.Format(float64(p.Planned.Water)), rate.Format(p.Planned.Rate)
		if p.Weighed {
			v.Water, v.MoreWater = water.Format(float64(p.Actual.Water)), water.Difference(units.Round(float64(p.Actual.Water-p.Planned.Water), 0))
		}
		if p.Weighed {
			v.Rate, v.Faster = rate.Format(units.Round(p.Actual.Rate, 1)), units.Signed(p.Actual.Rate-p.Planned.Rate, 1)
		}
		if p.Stream != nil {
			v.Steady = fmt.Sprint(p.Stream.Score())
		}
		body.Poured = append(body.Poured, v)
	}
	if body.Seen = a.ByScale; a.ByScale {
		body.Steady = fmt.Sprintf("%d of 100", a.Steadiness)
	}
	if a.Effect != nil && len(a.Pours) > 0 {
		body.Did = "Too little to tell from the plan."
		if d := a.Effect; math.Abs(d.Yield) >= 0.05 || math.Abs(d.Strength) >= 0.005 || d.Time >= 2 || d.Time <= -2 {
			body.Did = fmt.Sprintf("By the model, against the plan: EY %s points, TDS %s, drawdown %s.", units.Points(d.Yield, 1),
				units.Points(d.Strength, 2), cmp.Or(seconds(d.Time), "the same"))
		}
	}
}

// seconds formats a difference in whole seconds; empty for none.
func seconds(d units.Seconds) string {
	if d > -0.5 && d < 0.5 {
		return ""
	}
	return units.Signed(float64(d), 0) + " s"
}

// expected formats a stored forecast in one line.
func expected(f forecast.Figures) string {
	return fmt.Sprintf("%s, TDS %.2f %%, EY %s", words.Drawdown(f), f.Strength.Value, f.Yield)
}

func recipeFacts(b brew.Brew, prefs units.Prefs) []page.Fact {
	g, r := b.Gear, b.Recipe
	out := []page.Fact{
		{Name: "Style", Value: r.Style.Style().Name},
		{Name: "Brewer", Value: fmt.Sprintf("%s, %s", g.Brewer.Name, g.Brewer.Filter)},
		{Name: "Dose", Value: prefs.Unit(units.Dose).Format(float64(r.Dose))},
		{Name: "Water", Value: fmt.Sprintf("%s at %s", prefs.Unit(units.Water).Format(float64(r.Water())),
			prefs.Unit(units.Temperature).Format(float64(r.Temperature())))},
		{Name: "Ratio", Value: prefs.Unit(units.Ratio).Format(r.Ratio())},
		{Name: "Served", Value: words.Serving(r, prefs)},
		{Name: "Grind", Value: fmt.Sprintf("%s on %s (%s)", g.Grinder.Setting(r.Grind), g.Grinder.Name,
			prefs.Unit(units.Grind).Format(float64(r.Grind)))},
	}
	if len(r.Pours) > 0 {
		out = append(out, page.Fact{Name: "Pouring", Value: words.Pouring(r, prefs)})
	}
	if days, known := b.Bag.Age(b.Started); known {
		out = append(out, page.Fact{Name: "Coffee", Value: fmt.Sprintf("%s, %s", words.Age(days), b.Bag.Freshness(b.Started))})
	}
	return out
}

// happened describes each action compared with the plan.
func happened(b brew.Brew, state brew.State, prefs units.Prefs) []page.Fact {
	u := prefs.Unit(units.Water)
	var out []page.Fact
	for i, st := range state.Stages {
		if !st.Busy() || i > state.Current || st.Skipped {
			continue
		}
		what := map[brew.StageKind]string{brew.Pouring: "Pour to " +
			u.Format(float64(st.To)), brew.Stirring: "Break the crust", brew.Releasing: "Open the valve"}[st.Kind]
		said := "at " + st.Entered.String()
		if d := st.Entered - b.Plan.Steps[st.Step].Start; d >= 1 || d <= -1 {
			said += fmt.Sprintf(", %s s against the plan", units.Signed(float64(d), 0))
		}
		out = append(out, page.Fact{Name: what, Value: said})
	}
	if b.RecordedAfterwards() {
		out = nil
	}
	for _, m := range state.Marks {
		out = append(out, page.Fact{Name: "Marked", Value: fmt.Sprintf("%s at %s", m.What, m.At)})
	}
	if b.Status == brew.Abandoned {
		return append(out, page.Fact{Name: "Stopped", Value: "at " + b.Elapsed(b.Ended).String()})
	}
	if b.Status == brew.Done && b.Cup.Drawdown == 0 {
		return append(out, page.Fact{Name: "Last steady stream", Value: "not timed"})
	}
	return append(out, page.Fact{Name: "Last steady stream", Value: fmt.Sprintf("at %s, aim %s", state.Drawdown, b.Plan.Finish)})
}

func cupFacts(b brew.Brew, prefs units.Prefs) []page.Fact {
	var out []page.Fact
	add := func(there bool, name, value string) {
		if there {
			out = append(out, page.Fact{Name: name, Value: value})
		}
	}
	c := b.Cup
	add(c.Beverage > 0, "Beverage", prefs.Unit(units.Water).Format(float64(c.Beverage)))
	add(c.TDS > 0, "TDS", fmt.Sprintf("%.2f %%", c.TDS))
	yield, _ := words.Yield(b)
	add(yield != "", "Extraction yield", yield)
	add(c.Simulated, "Measured", "by a simulated device")
	add(c.Drawdown > 0, "Drawdown", c.Drawdown.String())
	add(c.Grind > 0, "Ground at", b.Gear.Grinder.Setting(c.Grind))
	add(c.Bed != "", "Spent bed", string(c.Bed))
	add(c.Overall > 0, "Overall", fmt.Sprintf("%d of 10", c.Overall))
	add(c.Better != "", "Against the last one", string(c.Better))
	add(c.Serve != "", "Would serve it", c.Serve)
	add(c.ServedTo != "", "Served to", c.ServedTo)
	for _, f := range cup.Faults() {
		add(c.Faults[f], "Fault", string(f))
	}
	return out
}

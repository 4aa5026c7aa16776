package log

import (
	"cmp"
	"context"
	"fmt"
	"net/http"
	"slices"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/recipe"
	"yardbloom/core/tally"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/chart"
	"yardbloom/web/page"
	"yardbloom/web/words"
)

// The page of the yard: amount, marks, repeatability and stock.

// yardBody is the data of the page.
type yardBody struct {
	Says   string
	Weeks  int
	Spans  []spanView
	Low    []lowBag
	Charts []page.Chart
	Spread *spreadView
	Best   []page.Chart
}

// spanView is a link to a span of time.
type spanView struct {
	Name, Href string
	Here       bool
}

// lowBag is a bag that runs out soon.
type lowBag struct{ ID, Name, Left string }

// spans are the spans of the page, in weeks.
var spans = []struct {
	weeks int
	name  string
}{{12, "12 weeks"}, {52, "A year"}}

// yardPage shows the totals of the yard over some weeks.
func (s *Screens) yardPage(w http.ResponseWriter, r *http.Request) error {
	body := yardBody{Weeks: spans[0].weeks}
	for _, span := range spans {
		v := spanView{Name: span.name, Href: fmt.Sprintf("/yard?weeks=%d", span.weeks), Here: r.URL.Query().Get("weeks") == fmt.Sprint(span.weeks)}
		if v.Here {
			body.Weeks = span.weeks
		}
		body.Spans = append(body.Spans, v)
	}
	body.Spans[0].Here = body.Weeks == spans[0].weeks
	now := s.yard.Now()
	today := time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, now.Location())
	from := monday(today).AddDate(0, 0, -7*(body.Weeks-1))
	days, err := s.yard.Store.Days(r.Context(), from, today.AddDate(0, 0, 1))
	if err != nil {
		return err
	}
	c := newCalendar(days, from, today)
	weight := page.Prefs(r).Unit(units.BagWeight)
	body.Says, body.Charts = c.says(weight), c.charts(weight)
	if body.Low, err = s.runningOut(r.Context(), today); err != nil {
		return err
	}
	if body.Spread, err = s.spread(r); err != nil {
		return err
	}
	for _, kind := range bestKinds {
		best, err := s.yard.Store.Best(r.Context(), kind.of, bestWalked)
		if err != nil {
			return err
		}
		if c := ranking(kind.title, kind.axis, best); c != nil {
			body.Best = append(body.Best, *c)
		}
	}
	s.Render(w, r, http.StatusOK, "yard", page.Page{Title: "The yard", Side: "log", Line: page.Line(""), Body: body})
	return nil
}

// monday returns the Monday of a day's week.
func monday(day time.Time) time.Time { return day.AddDate(0, 0, -(int(day.Weekday())+6)%7) }

// runningOut returns the bags with at most two brews left, or less than a week at the pace of the last two weeks.
func (s *Screens) runningOut(ctx context.Context, today time.Time) ([]lowBag, error) {
	const most, paceDays, soon = 60, 14, 7
	bags, err := s.yard.Store.Shelf(ctx, "", "", most)
	if err != nil {
		return nil, err
	}
	pace, err := s.yard.Store.UseByBag(ctx, today.AddDate(0, 0, -paceDays), today)
	if err != nil {
		return nil, err
	}
	var out []lowBag
	for _, b := range bags {
		dose, loss := b.PerBrew()
		left, perDay := b.Left(), float64(pace[b.ID])/paceDays
		days := float64(left) / perDay
		soonGone := perDay > 0 && days < soon
		if b.Brews == 0 || !b.StockKnown() || b.FrozenOn != "" || b.BrewsLeft() > 2 && !soonGone {
			continue
		}
		low := lowBag{ID: b.ID, Name: b.Name, Left: fmt.Sprintf("enough for %d more", b.BrewsLeft())}
		switch {
		case left < dose+loss:
			low.Left = "not enough for another brew"
		case soonGone:
			low.Left += ", at the pace of the last two weeks until " + today.AddDate(0, 0, int(days)).Format("Monday, 2 January")
		}
		out = append(out, low)
	}
	return out, nil
}

// bestKinds are the rankings of the page.
var bestKinds = []struct{ of, title, axis string }{
	{store.OfCoffees, "Mean mark by coffee", "coffee"}, {store.OfStyles, "Mean mark by style", "style"},
	{store.OfBrewers, "Mean mark by brewer", "brewer"}, {store.OfGrinders, "Mean mark by grinder", "grinder"},
}

const (
	bestShown  = 6
	bestWalked = 40 // those with the highest means, of which the surest are shown
)

// ranking draws those with the highest mean marks. The order is by the mean less its error, so that three lucky cups do not lead. It is
// nil for less than two.
func ranking(title, axis string, all []store.MarkTotal) *page.Chart {
	if len(all) < 2 {
		return nil
	}
	low := func(m store.MarkTotal) float64 { return m.Mean() - m.Error(brew.MarkScatter) }
	slices.SortStableFunc(all, func(a, b store.MarkTotal) int { return cmp.Compare(low(b), low(a)) })
	r := chart.Ranking{Title: title, Decimals: 1}
	for i, m := range all[:min(bestShown, len(all))] {
		name := m.Name
		if m.Kind == store.OfStyles {
			name = m.ID
			if at := slices.IndexFunc(recipe.Schools(), func(s recipe.Style) bool { return string(s.ID) == m.ID }); at >= 0 {
				name = recipe.Schools()[at].Name
			}
		}
		all[i].Name = cmp.Or(name, "retired")
		r.Items = append(r.Items, chart.Ranked{Name: all[i].Name, Value: m.Mean(), Error: m.Error(brew.MarkScatter), Note: fmt.Sprint(m.N)})
	}
	r.Items[0].Best = tally.Leads(all[0].Sample, all[1].Sample, brew.MarkScatter) >= 2
	out := page.RankingOf(r, axis, leadText(all[0], all[1]), "cups with a mark")
	return &out
}

// leadText compares the first two of a ranking by the standard error of their difference.
func leadText(first, second store.MarkTotal) string {
	switch by := tally.Leads(first.Sample, second.Sample, brew.MarkScatter); {
	case by >= 2:
		return fmt.Sprintf("%s is ahead of %s.", first.Name, second.Name)
	case by >= 1:
		return fmt.Sprintf("%s is perhaps ahead of %s.", first.Name, second.Name)
	}
	return fmt.Sprintf("The difference between %s and %s is within the error.", first.Name, second.Name)
}

// spreadView is the table of how alike repeats are.
type spreadView struct {
	Says string
	Rows []spreadRow
}

type spreadRow struct {
	Name                  string
	Drawdown, Yield, Mark string
	Repeats               int
}

// fewRepeats is the number of repeats below which the text warns.
const fewRepeats = 5

// spread describes the scatter of repeats of one recipe. It is nil without any.
func (s *Screens) spread(r *http.Request) (*spreadView, error) {
	all, err := s.yard.Store.Spreads(r.Context())
	if err != nil || len(all) == 0 {
		return nil, err
	}
	set := page.Settings(r)
	out, within := &spreadView{}, map[string]tally.Spread{}
	byRow := map[string]map[string]tally.Spread{}
	var names []string
	for _, one := range all {
		name := "All"
		switch one.Kind {
		case "grinder":
			name = cmp.Or(one.Name, "A retired grinder")
		case "person":
			w := within[one.Measure]
			within[one.Measure] = tally.Spread{Freedom: w.Freedom + one.Freedom, Squares: w.Squares + one.Squares}
			if !set.ByName() {
				continue
			}
			name = page.NameOf(r, one.ID)
		}
		if byRow[name] == nil {
			names, byRow[name] = append(names, name), map[string]tally.Spread{}
		}
		byRow[name][one.Measure] = one.Spread
	}
	for _, name := range names {
		of := byRow[name]
		out.Rows = append(out.Rows, spreadRow{Name: name, Drawdown: deviation(of["drawdown"], "drawdown"), Yield: deviation(of["yield"], "yield"),
			Mark: deviation(of["mark"], "mark"), Repeats: max(of["drawdown"].Freedom, of["yield"].Freedom, of["mark"].Freedom)})
	}
	out.Says = spreadText(byRow["All"], within, set.ByName())
	return out, nil
}

// deviation formats the standard deviation of a measure; "–" without one.
func deviation(s tally.Spread, measure string) string {
	if s.Freedom < 2 { // one difference says nothing
		return "–"
	}
	switch measure {
	case "drawdown":
		return fmt.Sprintf("±\u00a0%.0f\u00a0s", s.Deviation())
	case "yield":
		return fmt.Sprintf("±\u00a0%.1f points", s.Deviation())
	}
	return fmt.Sprintf("±\u00a0%.1f", s.Deviation())
}

// spreadText describes how alike all repeats are, and whether different hands add to it.
func spreadText(all, within map[string]tally.Spread, people bool) string {
	d := all["drawdown"]
	if d.Freedom < 2 {
		return "A recipe brewed again shows how alike two cups are here."
	}
	out := fmt.Sprintf("A recipe brewed again drains within %s of its mean", deviation(d, "drawdown"))
	if y := all["yield"]; y.Freedom > 1 {
		out += fmt.Sprintf(", extracts within %s", deviation(y, "yield"))
	}
	out += " (one standard deviation)."
	if d.Freedom < fewRepeats {
		return out + fmt.Sprintf(" That is from only %d repeats: too few to rely on.", d.Freedom)
	}
	w := within["drawdown"]
	if people && w.Freedom >= fewRepeats && d.Deviation()-w.Deviation() > d.Error() {
		out += fmt.Sprintf(" With the same hands it is %s: the hands differ too.", deviation(w, "drawdown"))
	}
	return out
}

// A calendar arranges totals by day and by week.
type calendar struct {
	days, weeks []dayView
	currency    string  // of most of the cost
	others      float64 // cost in other currencies is known
	unpriced    float64 // g
}

// dayView sums up a day or a week.
type dayView struct {
	start      time.Time
	brews      int
	used, cost float64 // g; minor units of the calendar's currency
	tally.Sample
}

// newCalendar arranges totals by day and by week, from the week of the first brew on.
func newCalendar(totals []store.DayTotal, from, today time.Time) calendar {
	var c calendar
	costs := map[string]float64{}
	for _, t := range totals {
		costs[t.Currency] += t.Cost
		if t.Cost > 0 && (c.currency == "" || costs[t.Currency] > costs[c.currency]) {
			c.currency = t.Currency
		}
	}
	byDay := map[string]dayView{}
	first := today
	for _, t := range totals {
		d := byDay[t.Day]
		d.brews, d.used, d.Sample = d.brews+t.Brews, d.used+t.Used, d.Plus(t.Sample)
		if t.Currency == c.currency {
			d.cost += t.Cost
		} else {
			c.others += t.Cost
		}
		c.unpriced += t.Used - t.Priced
		byDay[t.Day] = d
		if day, err := time.ParseInLocation(coffee.Day, t.Day, today.Location()); err == nil && t.Brews > 0 && day.Before(first) {
			first = day
		}
	}
	for day := latest(from, monday(first)); !day.After(today); day = day.AddDate(0, 0, 1) {
		d := byDay[day.Format(coffee.Day)]
		d.start = day
		c.days = append(c.days, d)
		if day.Weekday() == time.Monday || len(c.weeks) == 0 {
			c.weeks = append(c.weeks, dayView{start: day})
		}
		w := &c.weeks[len(c.weeks)-1]
		w.brews, w.used, w.cost, w.Sample = w.brews+d.brews, w.used+d.used, w.cost+d.cost, w.Plus(d.Sample)
	}
	return c
}

func latest(a, b time.Time) time.Time {
	if a.After(b) {
		return a
	}
	return b
}

// total sums up the whole span.
func (c calendar) total() (out dayView) {
	for _, w := range c.weeks {
		out.brews, out.used, out.cost, out.Sample = out.brews+w.brews, out.used+w.used, out.cost+w.cost, out.Plus(w.Sample)
	}
	return out
}

// says sums up the span in a sentence.
func (c calendar) says(weight units.Unit) string {
	t := c.total()
	if t.brews == 0 {
		return "Nothing was brewed in this time."
	}
	out := fmt.Sprintf("%s since %s, with %s of coffee", units.Plural(t.brews, "brew"), c.days[0].start.Format("2 January 2006"), weight.Format(t.used))
	if t.cost > 0 {
		out += " for " + words.Money(t.cost, c.currency)
	}
	if t.N > 0 {
		out += fmt.Sprintf(". Mean mark %.1f ± %.1f, of %s", t.Mean(), t.Error(brew.MarkScatter), units.Plural(t.N, "cup"))
	}
	return out + "."
}

// charts draws the brews of the days, and the marks, coffee and cost of the weeks.
func (c calendar) charts(weight units.Unit) []page.Chart {
	if c.total().brews == 0 {
		return nil
	}
	brews := chart.Chart{Title: "Brews per day", Bars: true, Axis: "day"}
	busiest := c.days[0]
	for i, d := range c.days {
		brews.Points = append(brews.Points, chart.Point{X: float64(i), Y: float64(d.brews), Name: d.start.Format("Mon 2 Jan")})
		if d.start.Weekday() == time.Monday {
			brews.Ticks = append(brews.Ticks, chart.Tick{At: float64(i), Label: d.start.Format("2 Jan")})
		}
		if d.brews > busiest.brews {
			busiest = d
		}
	}
	brews.About = fmt.Sprintf("At most %s in a day, on %s.", units.Plural(busiest.brews, "brew"), busiest.start.Format("Monday, 2 January"))
	marks := chart.Chart{Title: "Mean mark per week, of 10", Line: true, Lo: 1, Hi: 10, Decimals: 1,
		About: "The lines are standard errors: weeks whose lines overlap may be equal."}
	used := chart.Chart{Title: "Coffee per week, " + weight.Symbol, Bars: true, Decimals: weight.Decimals,
		About: "Including grinder retention and purges."}
	cost := chart.Chart{Title: "Cost per week, " + c.currency, Bars: true, Decimals: 2}
	if t := c.total(); t.brews > 0 {
		cost.About = words.Money(t.cost/float64(t.brews), c.currency) + " a brew on average."
	}
	var ticks []chart.Tick
	for i, w := range c.weeks {
		x := float64(i)
		ticks = append(ticks, chart.Tick{At: x, Label: w.start.Format("2 Jan")})
		if w.N > 0 {
			marks.Points = append(marks.Points, chart.Point{X: x, Y: w.Mean(), Error: w.Error(brew.MarkScatter), Note: fmt.Sprint(w.N)})
		}
		used.Points = append(used.Points, chart.Point{X: x, Y: w.used * weight.Scale})
		cost.Points = append(cost.Points, chart.Point{X: x, Y: w.cost / coffee.MinorPerMajor})
	}
	if c.unpriced >= 1 {
		cost.About += fmt.Sprintf(" Without %s whose price is not known.", weight.Format(c.unpriced))
	}
	if c.others > 0 {
		cost.About += " Coffee in other currencies is not counted."
	}
	out := []page.Chart{page.ChartOf(brews, "")}
	for _, w := range []chart.Chart{marks, used, cost} {
		w.Ticks, w.Axis = ticks, "week from"
		if len(w.Points) > 0 && (w.Title != cost.Title || c.total().cost > 0) {
			out = append(out, page.ChartOf(w, "cups"))
		}
	}
	return out
}

package log

import (
	"cmp"
	"fmt"
	"net/http"
	"slices"
	"time"

	"yardbloom/core/coffee"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/page"
)

// dayBody is the report of a day at the bar.
type dayBody struct {
	Title          string
	Before, After  string // the days with brews before and after; empty without one
	Says           string
	Coffees, Hands []dayRow
	Rows           []logRow
	More           bool // there are more brews than the page shows
}

// dayRow sums up the brews with a coffee, or of a person.
type dayRow struct {
	Name, Brews, Used, Mark string
}

// dayBrews is the maximum number of brews of a report.
const dayBrews = 300

// day reports the brews of a day.
func (s *Screens) day(w http.ResponseWriter, r *http.Request) error {
	now := s.yard.Now()
	on, err := time.ParseInLocation(coffee.Day, cmp.Or(r.URL.Query().Get("on"), now.Format(coffee.Day)), now.Location())
	if err != nil {
		return store.ErrNotFound
	}
	next := on.AddDate(0, 0, 1)
	rows, err := s.yard.Store.Log(r.Context(), store.Filter{From: on, To: next, For: page.PersonID(r), Limit: dayBrews + 1})
	if err != nil {
		return err
	}
	used, err := s.yard.Store.UseByBag(r.Context(), on, next)
	if err != nil {
		return err
	}
	totals, err := s.yard.Store.Days(r.Context(), on, next)
	if err != nil {
		return err
	}
	body := dayBody{Title: on.Format("Monday, 2 January 2006"), More: len(rows) > dayBrews}
	if body.Before, body.After, err = s.yard.Store.DaysBeside(r.Context(), on); err != nil {
		return err
	}
	rows = rows[:min(dayBrews, len(rows))]
	slices.Reverse(rows) // as the day went
	for _, row := range rows {
		v := rowOf(r, row, now)
		v.When = row.Started.Format("15:04")
		body.Rows = append(body.Rows, v)
	}
	body.Says = newCalendar(totals, on, on).says(page.Prefs(r).Unit(units.BagWeight))
	body.Coffees = daySums(rows, func(row store.Row) string { return row.BagName }, func(name string) string {
		sum := units.Grams(0)
		for _, row := range rows {
			if g, there := used[row.BagID]; there && row.BagName == name {
				sum += g
				delete(used, row.BagID)
			}
		}
		return page.Prefs(r).Unit(units.BagWeight).Format(float64(sum))
	})
	if page.Settings(r).ByName() {
		body.Hands = daySums(rows, func(row store.Row) string { return page.NameOf(r, row.BrewedBy) }, func(string) string { return "" })
	}
	s.Render(w, r, http.StatusOK, "day", page.Page{Title: "The day at the bar", Side: "log", Line: page.Line(""), Body: body})
	return nil
}

// daySums groups brews by a name, the most brews first.
func daySums(rows []store.Row, name func(store.Row) string, used func(string) string) []dayRow {
	type sum struct{ brews, marked, marks int }
	sums := map[string]*sum{}
	var names []string
	for _, row := range rows {
		n := name(row)
		if sums[n] == nil {
			sums[n], names = &sum{}, append(names, n)
		}
		sums[n].brews++
		if mark := row.Taste.Overall; mark > 0 {
			sums[n].marked, sums[n].marks = sums[n].marked+1, sums[n].marks+mark
		}
	}
	slices.SortStableFunc(names, func(a, b string) int { return cmp.Compare(sums[b].brews, sums[a].brews) })
	var out []dayRow
	for _, n := range names {
		v := dayRow{Name: n, Brews: fmt.Sprint(sums[n].brews), Used: used(n), Mark: "–"}
		if m := sums[n].marked; m > 0 {
			v.Mark = fmt.Sprintf("%.1f (%s)", float64(sums[n].marks)/float64(m), units.Plural(m, "cup"))
		}
		out = append(out, v)
	}
	return out
}

package log

import (
	"fmt"
	"html/template"
	"net/http"
	"strings"
	"time"

	"yardbloom/core/brew"
	"yardbloom/store"
	"yardbloom/web/figure"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/words"
)

type logBody struct {
	Search   form.Field
	Sort     form.Field
	Filters  []form.Field
	Active   int // number of filters
	Saved    []savedView
	Query    string // the address without the place
	Rows     []logRow
	None     string // why there is no row
	Any      bool   // the yard has a brew
	Earlier  string // the address of the next page; empty on the last
	First    bool
	MaxMarks int // brews to compare
	Errors   int
}

// savedView is a saved filter.
type savedView struct {
	ID, Name, Href string
	Here           bool
}

type logRow struct {
	ID     string
	Flower template.HTML
	Name   string
	When   string
	Recipe string
	Result string
	Taste  string
	Status brew.Status
	Href   string
	By     *page.Badge // nil: there is no name
	Taster *page.Badge // if it is not the person at the screen
}

const (
	logPage    = 24 // rows on a page of the log
	logCoffees = 30 // coffees to choose from
)

// log lists the brews with their flowers, filtered, in an order, page by page.
func (s *Screens) log(w http.ResponseWriter, r *http.Request) error {
	f, typed, err := readFilter(r, s.yard.Now().Location())
	if err != nil {
		return err
	}
	f.Limit = logPage + 1
	var rows []store.Row
	if typed.OK() {
		if rows, err = s.yard.Store.Log(r.Context(), f); err != nil {
			return err
		}
	}
	q := address(r.URL.Query())
	body := logBody{First: f.After == (store.Place{}), Query: q.Encode(), MaxMarks: brew.MaxCompared, Errors: len(typed.Errors)}
	for _, name := range filterNames {
		if q.Get(name) != "" {
			body.Active++
		}
	}
	filtered := f.Words != "" || body.Active > 0
	body.Any = filtered || len(rows) > 0 || !typed.OK()
	if len(rows) > logPage {
		rows = rows[:logPage]
		next := address(r.URL.Query())
		next.Set("after", placeText(rows[logPage-1].Place()))
		body.Earlier = "/log?" + next.Encode()
	}
	for _, row := range rows {
		body.Rows = append(body.Rows, rowOf(r, row, s.yard.Now()))
	}
	if len(rows) == 0 && typed.OK() {
		body.None = describeNone(f, body.Active > 0)
	}
	if body.Filters, err = s.filterFields(r, typed); err != nil {
		return err
	}
	body.Search = typed.Entry("q", "Search")
	body.Sort = form.Select(typed, "sort", "Order", store.Sorts(), func(v store.Sort) (string, string) { return string(v), sortNames[v] })
	saved, err := s.yard.Store.SavedFilters(r.Context(), page.PersonID(r))
	if err != nil {
		return err
	}
	for _, one := range saved {
		body.Saved = append(body.Saved, savedView{one.ID, one.Name, "/log?" + one.Query, one.Query == body.Query})
	}
	if page.IsPartial(r) { // without the empty fields of the form
		w.Header().Set("HX-Push-Url", strings.TrimSuffix("/log?"+body.Query, "?"))
	}
	status := http.StatusOK
	if !typed.OK() {
		status = http.StatusUnprocessableEntity
	}
	s.Render(w, r, status, "log", page.Page{Title: "Log", Side: "log", Line: page.Line(""), Notice: page.RemovedNotice(r), Body: body})
	return nil
}

func rowOf(r *http.Request, b store.Row, now time.Time) logRow {
	prefs := page.Prefs(r)
	row := logRow{ID: b.ID, Flower: figure.Flower(b.Dose, b.Steps, b.Drawdown), Name: b.BagName, When: words.Moment(b.Started, now),
		Status: b.Status, Href: fmt.Sprintf("/brews/%s", b.ID),
		Recipe: words.Recipe(b.BrewerName, b.Setting, b.Dose, b.Water, b.Temperature, prefs),
		Result: words.Result(b.Drawdown, b.TDS, b.Yield, b.Taste.Overall) + words.Simulated(b.Simulated),
		Taste:  words.Taste(b.Taste), By: page.BadgeOf(r, b.BrewedBy)}
	if b.Taster != page.PersonID(r) {
		row.Taster = page.BadgeOf(r, b.Taster)
	}
	return row
}

package log

import (
	"fmt"
	"html/template"
	"net/http"
	"net/url"
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
	Bags    []form.Option
	Rows    []logRow
	Any     bool   // there is at least one brew
	Earlier string // the address of the next page; empty on the last
	First   bool
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

// brewLog lists the brews with their flowers, filtered by coffee, page by page.
func (s *Screens) log(w http.ResponseWriter, r *http.Request) error {
	q := r.URL.Query()
	f := store.Filter{Bag: q.Get("bag"), For: page.PersonID(r), Limit: logPage + 1}
	if f.Bag != "" && !store.ValidID(f.Bag) {
		return store.ErrNotFound
	}
	if after := q.Get("after"); after != "" {
		at, id, _ := strings.Cut(after, "~")
		started, err := time.Parse(time.RFC3339Nano, at)
		if err != nil || !store.ValidID(id) {
			return store.ErrNotFound
		}
		f.After = store.Place{Started: started, ID: id}
	}
	rows, err := s.yard.Store.Log(r.Context(), f)
	if err != nil {
		return err
	}
	body := logBody{Any: len(rows) > 0 || f.Bag != "", First: f.After.ID == ""}
	if len(rows) > logPage {
		rows = rows[:logPage]
		last := rows[logPage-1].Place()
		body.Earlier = "/log?" + url.Values{"bag": {f.Bag}, "after": {last.Started.UTC().Format(time.RFC3339Nano) + "~" + last.ID}}.Encode()
	}
	for _, row := range rows {
		body.Rows = append(body.Rows, rowOf(r, row, s.yard.Now()))
	}
	if body.Bags, err = s.coffeesOf(r, f.Bag); err != nil {
		return err
	}
	s.Render(w, r, http.StatusOK, "log", page.Page{Title: "Log", Side: "log", Line: page.Line(""), Body: body})
	return nil
}

// coffeesOf returns the coffees of the filter: the most recently roasted ones and the chosen one.
func (s *Screens) coffeesOf(r *http.Request, chosen string) ([]form.Option, error) {
	bags, err := s.yard.Store.BagNames(r.Context(), logCoffees)
	if err != nil {
		return nil, err
	}
	out, there := []form.Option{{Value: "", Label: "All coffees", Selected: chosen == ""}}, chosen == ""
	for _, b := range bags {
		out, there = append(out, form.Option{Value: b.ID, Label: b.Name, Selected: b.ID == chosen}), there || b.ID == chosen
	}
	if !there {
		b, err := s.yard.Store.Bag(r.Context(), chosen)
		if err != nil {
			return nil, err
		}
		out = append(out, form.Option{Value: b.ID, Label: b.Name, Selected: true})
	}
	return out, nil
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

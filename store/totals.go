package store

import (
	"context"
	"time"

	"yardbloom/core/coffee"
	"yardbloom/core/tally"
	"yardbloom/core/units"
)

// Totals of the log. Triggers of the tables keep them, so that the page of the yard reads as much from a long history as from a short
// one.

// A DayTotal sums up the brews of a day that used coffee of one currency.
type DayTotal struct {
	Day      string  `db:"day"` // as coffee.Day
	Currency string  `db:"currency"`
	Brews    int     `db:"brews"`
	Used     float64 `db:"used"`   // coffee, g
	Priced   float64 `db:"priced"` // the part of it whose price is known, g
	Cost     float64 `db:"cost"`   // of Priced, minor units of Currency
	tally.Sample
}

const selectDays = `
	SELECT t.day, iif(b.price > 0, b.currency, '') AS currency, SUM(t.brews) AS brews, SUM(t.used) AS used,
		SUM(iif(b.price > 0, t.used, 0.0)) AS priced, SUM(iif(b.price > 0 AND b.weight > 0, t.used * b.price / b.weight, 0.0)) AS cost,
		SUM(t.marked) AS n, SUM(t.marks) AS sum, SUM(t.squares) AS squares
	FROM day_totals t JOIN bags b ON b.id = t.bag_id WHERE t.day >= ? AND t.day < ? GROUP BY t.day, 2 ORDER BY t.day`

// Days returns the totals of the days in a range, the second excluded, in their order.
func (s *Store) Days(ctx context.Context, from, to time.Time) ([]DayTotal, error) {
	var out []DayTotal
	err := s.read.all(ctx, &out, selectDays, from.Format(coffee.Day), to.Format(coffee.Day))
	return out, err
}

// The kinds of MarkTotal.
const (
	OfCoffees  = "coffee"
	OfStyles   = "style"
	OfBrewers  = "brewer"
	OfGrinders = "grinder"
)

// A MarkTotal holds the marks of the brews with one coffee, style, brewer or grinder.
type MarkTotal struct {
	Kind string `db:"kind"`
	ID   string `db:"id"`
	Name string `db:"name"` // empty for a style
	tally.Sample
}

// MinMarks is the least number of marks of a MarkTotal.
const MinMarks = 3

const selectBest = `
	SELECT t.kind, t.id, t.marked AS n, t.marks AS sum, t.squares,
		COALESCE(CASE t.kind WHEN 'coffee' THEN (SELECT name FROM bags WHERE id = t.id) WHEN 'brewer' THEN (SELECT name FROM brewers WHERE id = t.id)
			WHEN 'grinder' THEN (SELECT name FROM grinders WHERE id = t.id) END, '') AS name
	FROM mark_totals t INDEXED BY mark_totals_by_mean WHERE t.kind = ? AND t.marked >= 3 ORDER BY t.marks / t.marked DESC LIMIT ?`

// Best returns the coffees, styles, brewers or grinders with the highest mean marks, the highest first.
func (s *Store) Best(ctx context.Context, kind string, limit int) ([]MarkTotal, error) {
	var out []MarkTotal
	err := s.read.all(ctx, &out, selectBest, kind, limit)
	return out, err
}

// A SpreadTotal is the scatter of a measure between brews of the same recipe.
type SpreadTotal struct {
	Kind    string `db:"kind"` // all, grinder or person
	ID      string `db:"id"`
	Name    string `db:"name"`    // empty for all, and for a person
	Measure string `db:"measure"` // drawdown, yield or mark
	tally.Spread
}

const selectSpreads = `
	SELECT t.kind, t.id, t.measure, t.freedom, t.squares, COALESCE(g.name, '') AS name
	FROM spread_totals t LEFT JOIN grinders g ON t.kind = 'grinder' AND g.id = t.id WHERE t.freedom > 0 ORDER BY t.kind, name, t.id LIMIT ?`

// maxSpreads is the maximum number of rows of Spreads.
const maxSpreads = 300

// Spreads returns the scatter of repeats: of all, and of each grinder and person that has any.
func (s *Store) Spreads(ctx context.Context) ([]SpreadTotal, error) {
	var out []SpreadTotal
	err := s.read.all(ctx, &out, selectSpreads, maxSpreads)
	return out, err
}

const selectPace = `SELECT bag_id AS id, SUM(used) AS used FROM day_totals WHERE day >= ? AND day < ? GROUP BY bag_id`

// UseByBag returns the coffee that brews took from each bag in a range of days, the second excluded, g.
func (s *Store) UseByBag(ctx context.Context, from, to time.Time) (map[string]units.Grams, error) {
	var rows []struct {
		ID   string      `db:"id"`
		Used units.Grams `db:"used"`
	}
	err := s.read.all(ctx, &rows, selectPace, from.Format(coffee.Day), to.Format(coffee.Day))
	out := map[string]units.Grams{}
	for _, r := range rows {
		out[r.ID] = r.Used
	}
	return out, err
}

// DaysBeside returns the latest day with a brew before a day and the earliest after it; empty without one.
func (s *Store) DaysBeside(ctx context.Context, day time.Time) (before, after string, err error) {
	var row struct {
		Before string `db:"before"`
		After  string `db:"after"`
	}
	err = s.read.get(ctx, &row, `SELECT COALESCE((SELECT MAX(day) FROM day_totals WHERE day < ?1 AND brews > 0), '') AS before,
		COALESCE((SELECT MIN(day) FROM day_totals WHERE day > ?1 AND brews > 0), '') AS after`, day.Format(coffee.Day))
	return row.Before, row.After, err
}

package store

import (
	"context"
	"encoding/json"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/store/document"
)

// A Filter narrows the log.
type Filter struct {
	Bag   string // empty: every bag
	For   string // id of the person whose tastings are shown, where there are any; empty: the yard
	After Place  // the zero Place: from the latest on
	Limit int
}

// A Place is the position of a row in the log, which is sorted by start and then by id.
type Place struct {
	Started time.Time
	ID      string
}

// A Row is a line of the log.
type Row struct {
	ID          string
	BagName     string
	Status      brew.Status
	BrewerName  string
	Setting     string // of the grinder, on its dial
	Dose, Water units.Grams
	Temperature units.Celsius
	Drawdown    units.Seconds
	TDS         float64
	Yield       cup.Figure
	Taste       cup.Taste // of Taster
	Taster      string    // id of a person; empty: the yard
	BrewedBy    string    // id of a person; empty: the yard
	Steps       []recipe.Step
	Started     time.Time
	Simulated   bool // a simulated device measured a figure
}

// Place returns the position of the row in the log.
func (r Row) Place() Place { return Place{r.Started, r.ID} }

type logRow struct {
	ID          string                `db:"id"`
	BagName     string                `db:"bag_name"`
	Status      brew.Status           `db:"status"`
	BrewerName  string                `db:"brewer_name"`
	Setting     string                `db:"setting"`
	Dose        units.Grams           `db:"dose"`
	Water       units.Grams           `db:"water"`
	Temperature units.Celsius         `db:"temperature"`
	Drawdown    units.Seconds         `db:"drawdown"`
	TDS         float64               `db:"tds"`
	Yield       float64               `db:"yield"`
	YieldError  float64               `db:"yield_error"`
	Cup         column[document.Cup]  `db:"cup"`
	Plan        column[document.Plan] `db:"plan"`
	Started     instant               `db:"started_at"`
	Zone        string                `db:"zone"`
	BrewedBy    reference             `db:"brewed_by"`
	Tastings    column[[]tasting]     `db:"tastings"`
}

const selectRows = `
	SELECT id, bag_name, status, brewer_name, setting, dose, water, temperature, drawdown, tds, yield, yield_error, cup, plan,
		started_at, zone, brewed_by, ` + tastesColumn + `
	FROM brews `

// The index is named because for a small limit SQLite prefers a skip-scan over brews_of_bag with
// a sort, whose cost grows with the history.
const (
	selectLog      = selectRows + `INDEXED BY brews_by_start WHERE (started_at, id) < (?, ?) ORDER BY started_at DESC, id DESC LIMIT ?`
	selectLogOfBag = selectRows + `INDEXED BY brews_of_bag WHERE bag_id = ? AND (started_at, id) < (?, ?) ORDER BY started_at DESC,
		id DESC LIMIT ?`
)

// Log returns a page of brews, the latest first.
func (s *Store) Log(ctx context.Context, f Filter) ([]Row, error) {
	at, id := any("~"), "~" // sorts after every moment
	if f.After.ID != "" {
		at, id = instant{f.After.Started}, f.After.ID
	}
	var rows []logRow
	var err error
	if f.Bag == "" {
		err = s.read.all(ctx, &rows, selectLog, at, id, f.Limit)
	} else {
		err = s.read.all(ctx, &rows, selectLogOfBag, f.Bag, at, id, f.Limit)
	}
	if err != nil {
		return nil, err
	}
	out := make([]Row, len(rows))
	for i, r := range rows {
		b := withTastings(brew.Brew{}, r.Tastings.V).Preferring(f.For)
		out[i] = Row{r.ID, r.BagName, r.Status, r.BrewerName, r.Setting, r.Dose, r.Water, r.Temperature, r.Drawdown, r.TDS,
			cup.Figure{Value: r.Yield, Error: r.YieldError}, b.Cup.Taste, b.Taster, string(r.BrewedBy), r.Plan.V.Core().Steps,
			inZone(r.Started.Time, r.Zone), r.Cup.V.Simulated}
	}
	return out, nil
}

const selectBagNames = `SELECT 'bags' AS kind, id, name FROM bags WHERE deleted_at IS NULL ORDER BY roasted_on DESC, id DESC LIMIT ?`

// BagNames returns the ids and names of the most recently roasted bags.
func (s *Store) BagNames(ctx context.Context, limit int) ([]Thing, error) {
	var out []Thing
	err := s.read.all(ctx, &out, selectBagNames, limit)
	return out, err
}

// A FlowerData holds the data of a brew's flower.
type FlowerData struct {
	Dose     units.Grams
	Steps    []recipe.Step
	Drawdown units.Seconds
}

// Flowers returns the flower data of brews by id.
func (s *Store) Flowers(ctx context.Context, ids []string) (map[string]FlowerData, error) {
	list, err := json.Marshal(ids)
	if err != nil {
		return nil, err
	}
	var rows []struct {
		ID       string                `db:"id"`
		Dose     units.Grams           `db:"dose"`
		Plan     column[document.Plan] `db:"plan"`
		Drawdown units.Seconds         `db:"drawdown"`
	}
	err = s.read.all(ctx, &rows, `SELECT id, dose, plan, drawdown FROM brews WHERE id IN (SELECT value FROM json_each(?))`, string(list))
	out := map[string]FlowerData{}
	for _, r := range rows {
		out[r.ID] = FlowerData{r.Dose, r.Plan.V.Core().Steps, r.Drawdown}
	}
	return out, err
}

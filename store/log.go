package store

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"
	"unicode"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/store/document"
)

// A Sort is an order of the log. All are descending.
type Sort string

// The orders of the log.
const (
	ByStart    Sort = "" // the latest first
	ByMark     Sort = "mark"
	ByYield    Sort = "yield"
	ByDrawdown Sort = "drawdown"
)

// Sorts lists the orders of the log.
func Sorts() []Sort { return []Sort{ByStart, ByMark, ByYield, ByDrawdown} }

// A Filter narrows the log. Empty fields do not.
type Filter struct {
	Words           string // that all have to occur, the last one as a beginning
	Bag             string
	Brewer          string
	Grinder         string
	Style           recipe.StyleID
	Person          string    // who brewed it
	From, To        time.Time // of the start; To is excluded
	Lowest, Topmost int       // marks; 0: no limit
	Fault           cup.Fault
	Tasted          Answer
	Traced, Tried   bool // only with scale readings, only runs of trials

	Sort  Sort
	For   string // id of the person whose tastings are shown, where there are any; empty: the yard
	After Place  // the zero Place: from the beginning
	Limit int
}

// An Answer is yes, no, or not asked.
type Answer string

// The answers.
const (
	NotAsked Answer = ""
	Yes      Answer = "yes"
	No       Answer = "no"
)

// A Place is the position of a row in the log, which is sorted by a value and then by start.
type Place struct {
	Value float64 // of the order's own column; 0 ByStart
	N     int64   // the brew's number in the order of start
}

// A Row is a line of the log.
type Row struct {
	ID          string
	BagID       string
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

	place Place
}

// Place returns the position of the row in the log.
func (r Row) Place() Place { return r.place }

type logRow struct {
	ID          string                `db:"id"`
	BagID       string                `db:"bag_id"`
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
	Sorted      float64               `db:"sorted"`
	N           int64                 `db:"n"`
}

const logColumns = `brews.id, brews.bag_id, bag_name, status, brewer_name, setting, dose, water, temperature, brews.drawdown, tds, brews.yield,
	yield_error, cup, plan, brews.started_at, zone, brewed_by, ` + tastesColumn

// logConditions are the conditions of a filter, by the numbers of its arguments. The index of a query adds one of them again, as
// its first.
const logConditions = `(?1 = '' OR e.bag_id = ?1) AND (?2 = '' OR e.brewer_id = ?2) AND (?3 = '' OR e.grinder_id = ?3) AND
	(?4 = '' OR e.style = ?4) AND (?5 = '' OR e.person = ?5) AND
	e.mark >= ?8 AND e.mark <= ?9 AND (?10 = '' OR instr(e.faults, '"' || ?10 || '"')) AND (?11 < 0 OR e.tasted = ?11) AND
	e.traced >= ?12 AND e.tried >= ?13 AND e.` + visible

// logOrders holds the column of each order, other than the start.
var logOrders = map[Sort]string{ByMark: "mark", ByYield: "yield", ByDrawdown: "drawdown"}

// logIndexes holds the indexes of the log in its order of start, the most selective first, with the condition that each needs. The
// index is named because SQLite would otherwise prefer another one with a sort, whose cost grows with the history.
var logIndexes = []logIndex{
	{"entries_tried", "e.tried = 1", func(f Filter) bool { return f.Tried }},
	{"entries_untasted", "e.tasted = 0", func(f Filter) bool { return f.Tasted == No }},
	{"entries_of_bag", "e.bag_id = ?1", func(f Filter) bool { return f.Bag != "" }},
	{"entries_faulty", "e.faults <> '[]'", func(f Filter) bool { return f.Fault != "" }},
	{"entries_of_grinder", "e.grinder_id = ?3", func(f Filter) bool { return f.Grinder != "" }},
	{"entries_of_brewer", "e.brewer_id = ?2", func(f Filter) bool { return f.Brewer != "" }},
	{"entries_of_style", "e.style = ?4", func(f Filter) bool { return f.Style != "" }},
	{"entries_of_person", "e.person = ?5", func(f Filter) bool { return f.Person != "" }},
	{"entries_traced", "e.traced = 1", func(f Filter) bool { return f.Traced }},
	{"entries_good", "e.mark >= 8", func(f Filter) bool { return f.Lowest >= 8 }},
	{"entries_poor", "e.mark BETWEEN 1 AND 4", func(f Filter) bool { return f.Topmost > 0 && f.Topmost <= 4 }},
}

type logIndex struct {
	name, condition string
	when            func(Filter) bool
}

// source returns the table of a query that walks the index.
func (i logIndex) source() string { return "entries e INDEXED BY " + i.name }

// span returns the condition that a number of words is between the first and the last of the index.
func (i logIndex) span() string {
	return fmt.Sprintf(" AND rowid BETWEEN (SELECT MIN(e.n) FROM %[1]s WHERE %[2]s) AND (SELECT MAX(e.n) FROM %[1]s WHERE %[2]s)", i.source(), i.condition)
}

// logQuery returns the query of a filter. It walks one index down to the limit: that of the order or of a filter, the words where
// there is no other, else the log itself. With another index, the words are a set that each row is looked up in.
func logQuery(f Filter, columns string) string {
	const before = " < MIN(?7, ?15)" // one limit: SQLite would begin at either
	from, where, order, within, value := "entries e NOT INDEXED", "true", "e.n DESC", "e.n >= ?6 AND e.n"+before, "0.0"
	found := func(span string) string {
		if f.Words == "" {
			return ""
		}
		return " AND e.n IN (SELECT rowid FROM words WHERE words MATCH ?16 AND rowid >= ?6 AND rowid < ?7" + span + ")"
	}
	at := slices.IndexFunc(logIndexes, func(i logIndex) bool { return i.when(f) })
	switch column := logOrders[f.Sort]; {
	case column != "": // the dates do not choose the index
		from, where, value = "entries e INDEXED BY entries_by_"+column, where+found(""), "e."+column
		order = fmt.Sprintf("e.%s DESC, e.n DESC", column)
		within = fmt.Sprintf("(e.%s, e.n) < (?14, ?15) AND +e.n >= ?6 AND +e.n < ?7", column)
	case at >= 0:
		from, where = logIndexes[at].source(), logIndexes[at].condition+found(logIndexes[at].span())
	case f.Words != "":
		from, where = "words w CROSS JOIN entries e NOT INDEXED ON e.n = w.rowid", "w.words MATCH ?16"
		order, within = "w.rowid DESC", "w.rowid >= ?6 AND w.rowid"+before
	}
	return "SELECT " + columns + ", " + value + " AS sorted, e.n FROM " + from + " CROSS JOIN brews ON brews.id = e.brew_id WHERE " + where +
		" AND " + within + " AND " + logConditions + " ORDER BY " + order + " LIMIT ?17"
}

// match returns the words of a search as an expression for the index: all of them, the last one as a beginning. It is empty for a
// text without a letter or digit.
func match(words string) string {
	const most = 12
	all := strings.FieldsFunc(words, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) && !unicode.IsMark(r) })
	if len(all) == 0 {
		return ""
	}
	all = all[:min(most, len(all))]
	return `"` + strings.Join(all, `" "`) + `" *`
}

// perSecond is the number of places of the log in a second.
const perSecond = 100_000

// firstPlace returns the first place of the log at a moment.
func firstPlace(t time.Time) int64 { return t.Unix() * perSecond }

// Log returns a page of brews.
func (s *Store) Log(ctx context.Context, f Filter) ([]Row, error) {
	var rows []logRow
	if err := s.find(ctx, &rows, f, logColumns); err != nil {
		return nil, err
	}
	out := make([]Row, len(rows))
	for i, r := range rows {
		b := withTastings(brew.Brew{}, r.Tastings.V).Preferring(f.For)
		out[i] = Row{r.ID, r.BagID, r.BagName, r.Status, r.BrewerName, r.Setting, r.Dose, r.Water, r.Temperature, r.Drawdown, r.TDS,
			cup.Figure{Value: r.Yield, Error: r.YieldError}, b.Cup.Taste, b.Taster, string(r.BrewedBy), r.Plan.V.Core().Steps,
			inZone(r.Started.Time, r.Zone), r.Cup.V.Simulated, Place{r.Sorted, r.N}}
	}
	return out, nil
}

// placeRow is a brew of the log with its place.
type placeRow struct {
	ID     string  `db:"id"`
	Sorted float64 `db:"sorted"`
	N      int64   `db:"n"`
}

// places returns the brews of a page by id.
func (s *Store) places(ctx context.Context, f Filter) (rows []placeRow, err error) {
	err = s.find(ctx, &rows, f, "e.brew_id AS id")
	return rows, err
}

// find selects columns of the brews of a page.
func (s *Store) find(ctx context.Context, rows any, f Filter, columns string) error {
	const everyMark, everything = 100, math.MaxInt64
	value, after, from, to := math.Inf(1), int64(everything), int64(-everything), int64(everything)
	if f.After != (Place{}) {
		value, after = f.After.Value, f.After.N
	}
	if !f.From.IsZero() {
		from = firstPlace(f.From)
	}
	if !f.To.IsZero() {
		to = firstPlace(f.To)
	}
	if f.Topmost > 0 {
		f.Lowest = max(1, f.Lowest) // a brew without a mark is in no range of marks
	}
	words := match(f.Words)
	if f.Words != "" && words == "" {
		return nil
	}
	tasted := map[Answer]int{NotAsked: -1, Yes: 1, No: 0}[f.Tasted]
	return s.read.all(ctx, rows, logQuery(f, columns), f.Bag, f.Brewer, f.Grinder, string(f.Style), f.Person, from, to, f.Lowest,
		cmp.Or(f.Topmost, everyMark), string(f.Fault), tasted, f.Traced, f.Tried, value, after, words, f.Limit)
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

// A SavedFilter is a filter of the log, kept under a name.
type SavedFilter struct {
	ID    string `db:"id"`
	Name  string `db:"name"`
	Query string `db:"query"` // as in the address of the page
}

// MaxSavedFilters is the maximum number of filters of a person.
const MaxSavedFilters = 24

// SavedFilters returns the filters of a person, or of the yard, by name.
func (s *Store) SavedFilters(ctx context.Context, by string) ([]SavedFilter, error) {
	var out []SavedFilter
	err := s.read.all(ctx, &out, `SELECT id, name, query FROM saved_filters WHERE COALESCE(by, '') = ? ORDER BY name LIMIT ?`, by, MaxSavedFilters)
	return out, err
}

// SaveFilter keeps a filter of a person, or of the yard, under a name; one of the same name is replaced.
func (s *Store) SaveFilter(ctx context.Context, f SavedFilter, by string, now time.Time) error {
	return s.transact(ctx, func(t *tx) error {
		if _, err := t.do(ctx, `DELETE FROM saved_filters WHERE COALESCE(by, '') = ? AND name = ?`, by, f.Name); err != nil {
			return err
		}
		_, err := t.do(ctx, `INSERT INTO saved_filters (id, name, query, saved_at, by) VALUES (?, ?, ?, ?, (SELECT id FROM people WHERE id = ?))`,
			NewID(), f.Name, f.Query, instant{now}, by)
		return err
	})
}

// DropFilter removes a saved filter of a person, or of the yard.
func (s *Store) DropFilter(ctx context.Context, id, by string) error {
	return s.transact(ctx, func(t *tx) error {
		_, err := t.do(ctx, `DELETE FROM saved_filters WHERE id = ? AND COALESCE(by, '') = ?`, id, by)
		return err
	})
}

// exportStep is the number of brews that are in memory while the log is exported.
const exportStep = 100

// EachLogged calls each with the brews of a filter in its order, as they were tasted by the person that the filter names or by their first
// taster, and without events. It reads them in steps, so that memory does not grow with the history. An error of each ends it.
func (s *Store) EachLogged(ctx context.Context, f Filter, each func(brew.Brew) error) error {
	f.Limit = exportStep
	for {
		rows, err := s.places(ctx, f)
		if err != nil || len(rows) == 0 {
			return err
		}
		ids := make([]string, len(rows))
		for i, r := range rows {
			ids[i] = r.ID
		}
		list, err := json.Marshal(ids)
		if err != nil {
			return err
		}
		var brews []brewRow
		if err := s.read.all(ctx, &brews, `SELECT `+brewColumns+` FROM brews WHERE id IN (SELECT value FROM json_each(?))`, string(list)); err != nil {
			return err
		}
		byID := make(map[string]brewRow, len(brews))
		for _, b := range brews {
			byID[b.ID] = b
		}
		for _, id := range ids {
			row, there := byID[id]
			if !there { // deleted in between
				continue
			}
			if err := each(row.brew().Preferring(f.For)); err != nil {
				return err
			}
		}
		if len(rows) < exportStep {
			return nil
		}
		f.After = Place{rows[len(rows)-1].Sorted, rows[len(rows)-1].N}
	}
}

package store

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"math"
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

// A Place is the position of a row in the log, which is sorted by a value, then by start and then by id.
type Place struct {
	Value   float64 // of the order's own column; unused ByStart
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

	sorted float64
}

// Place returns the position of the row in the log.
func (r Row) Place() Place { return Place{r.sorted, r.Started, r.ID} }

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
	Sorted      float64               `db:"sorted"`
}

const logColumns = `brews.id, bag_name, status, brewer_name, setting, dose, water, temperature, brews.drawdown, tds, brews.yield,
	yield_error, cup, plan, brews.started_at, zone, brewed_by, ` + tastesColumn

// logConditions are the conditions of a filter, by the numbers of its arguments. The index of a query adds one of them again, as
// its first.
const logConditions = `(?1 = '' OR e.bag_id = ?1) AND (?2 = '' OR e.brewer_id = ?2) AND (?3 = '' OR e.grinder_id = ?3) AND
	(?4 = '' OR e.style = ?4) AND (?5 = '' OR e.person = ?5) AND
	e.mark >= ?8 AND e.mark <= ?9 AND (?10 = '' OR instr(e.faults, '"' || ?10 || '"')) AND (?11 < 0 OR e.tasted = ?11) AND
	e.traced >= ?12 AND e.tried >= ?13`

// logOrders holds the column of each order, other than the start.
var logOrders = map[Sort]string{ByMark: "mark", ByYield: "yield", ByDrawdown: "drawdown"}

// logIndexes holds the indexes of the log in its order of start, the most selective first, with the condition that each needs. The
// index is named because SQLite would otherwise prefer another one with a sort, whose cost grows with the history.
var logIndexes = []struct {
	name, condition string
	when            func(Filter) bool
}{
	{"entries_tried", "e.tried = 1", func(f Filter) bool { return f.Tried }},
	{"entries_untasted", "e.tasted = 0", func(f Filter) bool { return f.Tasted == No }},
	{"entries_of_bag", "e.bag_id = ?1", func(f Filter) bool { return f.Bag != "" }},
	{"entries_faulty", "e.faults <> '[]'", func(f Filter) bool { return f.Fault != "" }},
	{"entries_of_grinder", "e.grinder_id = ?3", func(f Filter) bool { return f.Grinder != "" }},
	{"entries_of_brewer", "e.brewer_id = ?2", func(f Filter) bool { return f.Brewer != "" }},
	{"entries_of_style", "e.style = ?4", func(f Filter) bool { return f.Style != "" }},
	{"entries_of_person", "e.person = ?5", func(f Filter) bool { return f.Person != "" }},
	{"entries_traced", "e.traced = 1", func(f Filter) bool { return f.Traced }},
	{"entries_by_start", "true", func(Filter) bool { return true }},
}

// manyMatches is the number of matches from which the log is walked in its order and each row asked for the words, instead of
// sorting the matches.
const manyMatches = 1500

// logQuery returns the query of a filter. matches is the largest possible number of brews with its words.
func logQuery(f Filter, matches int64) string {
	order, start := "e.started_at DESC, e.brew_id DESC", "0.0"
	after := "(e.started_at, e.brew_id) < (?15, ?16)"
	index, condition, dates := "", "true", "e.started_at >= ?6 AND e.started_at < ?7"
	if column := logOrders[f.Sort]; column != "" {
		dates = "+e.started_at >= ?6 AND +e.started_at < ?7" // not by the index: its order is another one
		index, order, start = "entries_by_"+column, "e."+column+" DESC, "+order, "e."+column
		after = fmt.Sprintf("(e.%s, e.started_at, e.brew_id) < (?14, ?15, ?16)", column)
	} else {
		for _, i := range logIndexes {
			if i.when(f) {
				index, condition = i.name, i.condition
				break
			}
		}
	}
	from := "entries e INDEXED BY " + index
	switch {
	case f.Words == "":
	case matches < manyMatches:
		from, condition = "words w CROSS JOIN entries e ON e.n = w.rowid", "w.words MATCH ?17"
	default:
		condition += " AND EXISTS (SELECT 1 FROM words w WHERE w.words MATCH ?17 AND w.rowid = e.n)"
	}
	return "SELECT " + logColumns + ", " + start + " AS sorted FROM " + from + " CROSS JOIN brews ON brews.id = e.brew_id WHERE " + condition + " AND " +
		after + " AND " + dates + " AND " + logConditions + " ORDER BY " + order + " LIMIT ?18"
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

// matches returns an upper limit of the number of brews with all words of an expression: the smallest number of brews with one
// of them. Accents and cases count as in the index.
const selectMatches = `
	SELECT COALESCE(MIN(n), 0) FROM (
		SELECT (SELECT COALESCE(SUM(doc), 0) FROM vocabulary WHERE term >= w.value AND term < w.value || char(1114111)) AS n FROM json_each(?) w)`

func (s *Store) matches(ctx context.Context, words string) (n int64, err error) {
	list, err := json.Marshal(strings.FieldsFunc(strings.ToLower(words), func(r rune) bool { return r == '"' || r == ' ' || r == '*' }))
	if err != nil {
		return 0, err
	}
	err = s.read.get(ctx, &n, selectMatches, string(list))
	return n, err
}

// Log returns a page of brews.
func (s *Store) Log(ctx context.Context, f Filter) ([]Row, error) {
	at, id, value := any("~"), "~", math.Inf(1) // sort after every moment and value
	if f.After.ID != "" {
		at, id, value = instant{f.After.Started}, f.After.ID, f.After.Value
	}
	from, to := any(""), any("~")
	if !f.From.IsZero() {
		from = instant{f.From}
	}
	if !f.To.IsZero() {
		to = instant{f.To}
	}
	const everyMark = 100
	words, many := match(f.Words), int64(0)
	if f.Words != "" {
		if words == "" {
			return nil, nil
		}
		var err error
		if many, err = s.matches(ctx, words); err != nil {
			return nil, err
		}
	}
	tasted := map[Answer]int{NotAsked: -1, Yes: 1, No: 0}[f.Tasted]
	var rows []logRow
	err := s.read.all(ctx, &rows, logQuery(f, many), f.Bag, f.Brewer, f.Grinder, string(f.Style), f.Person, from, to, f.Lowest,
		cmp.Or(f.Topmost, everyMark), string(f.Fault), tasted, f.Traced, f.Tried, value, at, id, words, f.Limit)
	if err != nil {
		return nil, err
	}
	out := make([]Row, len(rows))
	for i, r := range rows {
		b := withTastings(brew.Brew{}, r.Tastings.V).Preferring(f.For)
		out[i] = Row{r.ID, r.BagName, r.Status, r.BrewerName, r.Setting, r.Dose, r.Water, r.Temperature, r.Drawdown, r.TDS,
			cup.Figure{Value: r.Yield, Error: r.YieldError}, b.Cup.Taste, b.Taster, string(r.BrewedBy), r.Plan.V.Core().Steps,
			inZone(r.Started.Time, r.Zone), r.Cup.V.Simulated, r.Sorted}
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

package store

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"yardbloom/core/brew"
)

// manyBags returns a store with many bags of many brews, analyzed. SQLite chooses other plans for it than
// for a single bag.
func manyBags(t *testing.T) *Store {
	t.Helper()
	s, bagID, id := yard(t)
	_, err := s.Begin(ctx, id, brew.Event{Key: "s", Kind: brew.Start, Instant: noon}, nil)
	must(t, err)
	copies := func(table, id string, times int, changed map[string]string) {
		var columns []string
		must(t, s.read.Select(&columns, `SELECT name FROM pragma_table_info(?)`, table))
		values := slices.Clone(columns)
		for i, c := range columns {
			if v, ok := changed[c]; ok {
				values[i] = v
			}
		}
		_, err := s.write.Exec(fmt.Sprintf(`WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < %d)
			INSERT INTO %s (%s) SELECT %s FROM %[2]s, n WHERE id = ?`,
			times, table, strings.Join(columns, ", "), strings.Join(values, ", ")), id)
		must(t, err)
	}
	const bags, each = 100, 40 // SQLite considers a skip-scan from 18 rows per value on
	copies("bags", bagID, bags, map[string]string{"id": "'bag-' || i"})
	copies("brews", id, bags*each, map[string]string{"id": "'brew-' || i", "bag_id": fmt.Sprintf("'bag-' || (1 + (i - 1) / %d)", each),
		"started_at": "strftime('%Y-%m-%dT%H:%M:%fZ', '2024-01-01', '+' || (i * 7) || ' hours')", "status": "'done'", "beverage": "260"})
	_, err = s.write.Exec(`ANALYZE`) // other connections use the statistics only after reopening
	must(t, err)
	return s
}

// Queries of a page use an index for every limit: no scan of a table that grows with the history (people and claims of
// most MaxPeople),
// and no sort. Mutation caught: a query whose index is not named, which is skip-scanned and sorted
// for small limits.
func TestNoQueryOfAPageScansTheHistory(t *testing.T) {
	t.Parallel()
	s := manyBags(t)
	for name, c := range map[string]struct {
		query   string
		args    []any
		limited bool // the last argument is a limit
	}{
		"the shelf":             {selectShelf, []any{"~", "~"}, true},
		"one bag":               {selectShelved + ` WHERE b.id = ?`, []any{"bag-1"}, false},
		"names of bags":         {selectBagNames, nil, true},
		"a palate":              {selectPalate, []any{""}, true},
		"the coach's record":    {selectRecord, []any{""}, true},
		"the path of a bag":     {selectPath, []any{"bag-1"}, true},
		"the last brew":         {selectLast, []any{"bag-1"}, false},
		"the recipes of a bag":  {selectDrafts, []any{"bag-1"}, true},
		"notes of flavour":      {selectFlavours, nil, true},
		"documents":             {selectDocuments, []any{Flights}, true},
		"a document":            {selectDocument, []any{"one", Flights}, false},
		"every page":            {selectSettings, []any{""}, false},
		"what a brewer retains": {selectWeighed, []any{"cone"}, false},
		"a brew":                {`SELECT ` + brewColumns + ` FROM brews WHERE id = ?`, []any{"one"}, false},
		"its readings":          {selectReadings, []any{"one"}, false},
		"its events":            {selectEvents, []any{`["one","two"]`}, false},
		"the untasted brew":     {selectUntasted, []any{"2026"}, false},
		"what is being poured":  {selectRunning, nil, true},
	} {
		limits := []int{0}
		if c.limited {
			limits = []int{1, 2, 24}
		}
		for _, limit := range limits {
			args := slices.Clone(c.args)
			if c.limited {
				args = append(args, limit)
			}
			checkPlan(t, s, fmt.Sprintf("%s, limit %d", name, limit), c.query, args)
		}
	}
}

func checkPlan(t *testing.T, s *Store, name, query string, args []any) {
	t.Helper()
	var steps []struct {
		ID      int    `db:"id"`
		Parent  int    `db:"parent"`
		Notused int    `db:"notused"`
		Detail  string `db:"detail"`
	}
	must(t, s.write.Select(&steps, `EXPLAIN QUERY PLAN `+query, args...))
	found := false
	for _, step := range steps {
		inOrder := false // a scan in index order that ends at the limit, or of a small partial index
		for _, index := range []string{"brews_running", "brews_untasted", "bags_on_shelf", "entries_"} {
			inOrder = inOrder || strings.Contains(step.Detail, "USING INDEX "+index)
		}
		found = found || inOrder || strings.HasPrefix(step.Detail, "SEARCH")
		small := []string{"SCAN settings", "SCAN people", "SCAN c", "SCAN CONSTANT ROW", // c are the claims of scales
			"SCAN imports USING COVERING INDEX imports_open"}
		// The words are walked in the order of the log, or are a set of numbers.
		inOrder = inOrder || strings.HasPrefix(step.Detail, "SCAN w VIRTUAL TABLE INDEX 192:") ||
			strings.HasPrefix(step.Detail, "SCAN words VIRTUAL TABLE INDEX 0:M1")
		scans := strings.HasPrefix(step.Detail, "SCAN") && !slices.Contains(small, step.Detail) && !strings.HasPrefix(step.Detail, "SCAN json_each")
		if scans && !inOrder || strings.Contains(step.Detail, "TEMP B-TREE") || strings.Contains(step.Detail, "ANY(") {
			t.Errorf("%s: %s", name, step.Detail)
		}
	}
	if !found {
		t.Errorf("%s finds nothing by an index: %+v", name, steps)
	}
}

package store

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"yardbloom/core/brew"
)

// What a page asks must be found by an index: nothing may walk through a table
// that grows with the history.
func TestNoQueryOfAPageScansTheHistory(t *testing.T) {
	t.Parallel()
	s, bagID, _ := yard(t)
	for i := range 40 {
		id := plan(t, s, bagID, fmt.Sprintf("brew-%02d", i))
		_, err := s.Begin(ctx, id, brew.Event{Key: "s", Kind: brew.Start, Instant: noon.Add(time.Duration(i) * time.Hour)}, nil)
		must(t, err)
	}
	_, err := s.write.Exec(`ANALYZE`)
	must(t, err)
	for name, c := range map[string]struct {
		query string
		args  []any
	}{
		"the shelf":             {selectShelf, []any{"~", "~", 30}},
		"one bag":               {selectShelved + ` WHERE b.id = ?`, []any{bagID}},
		"the log":               {selectLog, []any{"~", "~", 24}},
		"the log of a bag":      {selectLogOfBag, []any{bagID, "~", "~", 24}},
		"who brews":             {selectPerson, []any{60}},
		"the coach's record":    {selectRecord, []any{60}},
		"the path of a bag":     {selectPath, []any{bagID, 12}},
		"the recipes of a bag":  {selectDrafts, []any{bagID, 12}},
		"notes of flavour":      {selectTasted, []any{60}},
		"cups side by side":     {selectFlights, []any{60}},
		"trials":                {selectTrials, []any{60}},
		"every page":            {selectSettings, nil},
		"what a brewer retains": {selectWeighed, []any{"cone"}},
		"a brew":                {`SELECT ` + brewColumns + ` FROM brews WHERE id = ?`, []any{"one"}},
		"its readings":          {selectReadings, []any{"one"}},
		"its events":            {selectEvents, []any{`["one","two"]`}},
		"the untasted brew":     {`SELECT id, bag_name FROM brews WHERE status = 'poured' AND started_at > ? ORDER BY started_at DESC LIMIT 1`, []any{"2026"}},
	} {
		var steps []struct {
			ID      int    `db:"id"`
			Parent  int    `db:"parent"`
			Notused int    `db:"notused"`
			Detail  string `db:"detail"`
		}
		must(t, s.read.Select(&steps, `EXPLAIN QUERY PLAN `+c.query, c.args...))
		searches := 0
		for _, step := range steps {
			if strings.HasPrefix(step.Detail, "SEARCH") {
				searches++
			}
			scans := strings.HasPrefix(step.Detail, "SCAN") && step.Detail != "SCAN settings" && step.Detail != "SCAN CONSTANT ROW" && !strings.HasPrefix(step.Detail, "SCAN json_each")
			ordered := strings.Contains(step.Detail, "USING INDEX brews_running") || strings.Contains(step.Detail, "USING INDEX brews_untasted") // partial indexes: only what runs or waits
			if scans && !ordered || strings.Contains(step.Detail, "TEMP B-TREE") {
				t.Errorf("%s: %s", name, step.Detail)
			}
		}
		if searches == 0 {
			t.Errorf("%s finds nothing by an index: %+v", name, steps)
		}
	}
}

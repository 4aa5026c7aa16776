package store

import (
	"context"
	"encoding/json"

	"yardbloom/core/brew"
)

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

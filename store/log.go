package store

import (
	"context"
	"strings"

	"github.com/jmoiron/sqlx"

	"yardbloom/core/brew"
)

// Filter narrows the log.
type Filter struct {
	Bag      int64         // 0: every bag
	Statuses []brew.Status // none: every brew that was begun
	Limit    int           // 0: all
	Oldest   bool          // the oldest first
}

// Log returns brews without their events, the latest first.
func (s *Store) Log(ctx context.Context, f Filter) ([]brew.Brew, error) {
	where, args := []string{"1 = 1"}, []any{}
	if f.Bag != 0 {
		where, args = append(where, "bag_id = ?"), append(args, f.Bag)
	}
	if len(f.Statuses) == 0 {
		where = append(where, "started_at IS NOT NULL")
	} else {
		in, inArgs, err := sqlx.In("status IN (?)", f.Statuses)
		if err != nil {
			return nil, err
		}
		where, args = append(where, in), append(args, inArgs...)
	}
	order := "DESC"
	if f.Oldest {
		order = "ASC"
	}
	query := `SELECT ` + brewColumns + ` FROM brews WHERE ` + strings.Join(where, " AND ") + ` ORDER BY COALESCE(started_at, created_at) ` + order + `, id ` + order
	if f.Limit > 0 {
		query, args = query+" LIMIT ?", append(args, f.Limit)
	}
	var rows []brewRow
	if err := s.read.SelectContext(ctx, &rows, query, args...); err != nil {
		return nil, err
	}
	out := make([]brew.Brew, len(rows))
	for i, r := range rows {
		out[i] = r.brew()
	}
	return out, nil
}

// PlannedFor returns the id of the recipe in the making for a bag, or 0.
func (s *Store) PlannedFor(ctx context.Context, bagID int64) (id int64, err error) {
	err = s.read.GetContext(ctx, &id, `SELECT COALESCE(MAX(id), 0) FROM brews WHERE bag_id = ? AND status = 'planned'`, bagID)
	return id, err
}

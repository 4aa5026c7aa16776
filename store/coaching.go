package store

import (
	"context"
	"slices"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/store/document"
)

// recentBrews is the number of recent brews that characterize a person.
const recentBrews = 60

// anyTime is a condition that every brew meets. SQLite uses the index that INDEXED BY names only if
// a condition restricts one of its columns.
const anyTime = `started_at < '~'`

const selectPerson = `SELECT bag_id, tds, status, coffee,
	advice FROM brews INDEXED BY brews_by_start WHERE ` + anyTime + ` ORDER BY started_at DESC, id DESC LIMIT ?`

// Person derives the coach's view of the person from the yard's recent brews: whether they measure, and
// their aim for other bags of the kind.
func (s *Store) Person(ctx context.Context, bag coffee.Bag) (who coach.Person, err error) {
	var rows []struct {
		BagID  string                   `db:"bag_id"`
		TDS    float64                  `db:"tds"`
		Status brew.Status              `db:"status"`
		Coffee column[document.Bag]     `db:"coffee"`
		Advice column[*document.Advice] `db:"advice"`
	}
	if err := s.read.all(ctx, &rows, selectPerson, recentBrews); err != nil {
		return who, err
	}
	for _, r := range rows {
		who.Measures = who.Measures || r.TDS > 0
		if who.Known != nil || r.Status != brew.Done || r.BagID == bag.ID {
			continue
		}
		other := r.Coffee.V.Core()
		if a := r.Advice.V.Core(); other.Roast == bag.Roast && other.Process == bag.Process && a != nil && a.Map != nil {
			who.Known = a.Map.Aim.Widened()
		}
	}
	return who, nil
}

// A Record counts the advised and followed changes of the last tasted brews, and those that helped.
type Record struct{ Changes, Helped int }

// maxRecorded is the maximum number of changes in a Record.
const maxRecorded = 14

const selectRecord = `
	SELECT b.status, b.cup, b.asked IS NOT NULL AND b.asked != 'null' AS followed, COALESCE(p.cup, 'null') AS before
	FROM brews b LEFT JOIN brews p ON p.id = b.parent_id
	WHERE b.` + anyTime + ` ORDER BY b.started_at DESC, b.id DESC LIMIT ?`

// Record returns the coach's record over the last brews.
func (s *Store) Record(ctx context.Context) (record Record, err error) {
	var rows []struct {
		Status   brew.Status           `db:"status"`
		Cup      column[document.Cup]  `db:"cup"`
		Followed bool                  `db:"followed"`
		Before   column[*document.Cup] `db:"before"`
	}
	if err := s.read.all(ctx, &rows, selectRecord, recentBrews); err != nil {
		return record, err
	}
	for _, r := range rows {
		if !r.Followed || r.Status != brew.Done || r.Before.V == nil || record.Changes == maxRecorded {
			continue
		}
		if after := r.Cup.V.Core(); !after.SkippedChange && after.Taste.IsRecorded() {
			record.Changes++
			if coach.Helped(r.Before.V.Core(), after) {
				record.Helped++
			}
		}
	}
	return record, nil
}

const selectTasted = `SELECT cup FROM brews INDEXED BY brews_by_start WHERE ` + anyTime + ` ORDER BY started_at DESC, id DESC LIMIT ?`

// OwnFlavours returns the distinct notes of the last brews that are not in the built-in list.
func (s *Store) OwnFlavours(ctx context.Context) ([]string, error) {
	var cups []column[document.Cup]
	if err := s.read.all(ctx, &cups, selectTasted, recentBrews); err != nil {
		return nil, err
	}
	var out []string
	for _, c := range cups {
		for _, flavour := range c.V.Flavours {
			if !cup.IsListed(flavour) && !slices.Contains(out, flavour) {
				out = append(out, flavour)
			}
		}
	}
	return out, nil
}

// PathWithEvents returns the last brews of a bag with their events, the oldest first.
func (s *Store) PathWithEvents(ctx context.Context, bagID string, limit int) ([]brew.Brew, error) {
	path, err := s.Path(ctx, bagID, limit)
	if err != nil {
		return nil, err
	}
	return path, addEvents(ctx, s.read, path)
}

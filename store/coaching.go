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

// recentBrews is the number of recent brews that characterize a palate.
const recentBrews = 60

// anyTime is a condition that every brew meets. SQLite uses the index that INDEXED BY names only if
// a condition restricts one of its columns.
const anyTime = `started_at < '~'`

const selectPalate = `SELECT bag_id, tds, status, coffee, COALESCE(t.advice, 'null') AS advice
	FROM brews INDEXED BY brews_by_start LEFT JOIN tastings t ON t.brew_id = brews.id AND COALESCE(t.taster, '') = ?
	WHERE ` + anyTime + ` AND ` + visible + ` ORDER BY started_at DESC, id DESC LIMIT ?`

// Palate derives the coach's view of a person from the yard's recent brews: whether brews are measured, and
// the person's aim for other bags of the kind and their use of words. An empty taster is the yard.
func (s *Store) Palate(ctx context.Context, bag coffee.Bag, taster string) (who coach.Person, err error) {
	var rows []struct {
		BagID  string                   `db:"bag_id"`
		TDS    float64                  `db:"tds"`
		Status brew.Status              `db:"status"`
		Coffee column[document.Bag]     `db:"coffee"`
		Advice column[*document.Advice] `db:"advice"`
	}
	if err := s.read.all(ctx, &rows, selectPalate, taster, recentBrews); err != nil {
		return who, err
	}
	for _, r := range rows {
		who.Measures = who.Measures || r.TDS > 0
		a := r.Advice.V.Core()
		if a == nil || r.Status != brew.Done || r.BagID == bag.ID {
			continue
		}
		if who.Tongue == nil {
			who.Tongue = a.Tongue
		}
		if other := r.Coffee.V.Core(); who.Known == nil && other.Roast == bag.Roast && other.Process == bag.Process && a.Map != nil {
			who.Known = a.Map.Aim.Widened()
		}
	}
	return who, nil
}

// A Record counts the changes that were advised to a person and followed in the last tasted brews, and those
// that helped.
type Record struct{ Changes, Helped int }

// maxRecorded is the maximum number of changes in a Record.
const maxRecorded = 14

const selectRecord = `
	SELECT b.status, b.cup AS measured, b.asked, COALESCE(t.cup, 'null') AS after, COALESCE(p.cup, 'null') AS before
	FROM brews b
	LEFT JOIN tastings t ON t.brew_id = b.id AND COALESCE(t.taster, '') = ?1
	LEFT JOIN tastings p ON p.brew_id = b.parent_id AND COALESCE(p.taster, '') = ?1
	WHERE b.` + anyTime + ` AND b.` + visible + ` ORDER BY b.started_at DESC, b.id DESC LIMIT ?2`

// Record returns the coach's record with a person over the last brews. An empty taster is the yard.
func (s *Store) Record(ctx context.Context, taster string) (record Record, err error) {
	var rows []struct {
		Status   brew.Status                `db:"status"`
		Measured column[document.Cup]       `db:"measured"`
		Asked    column[*document.Proposal] `db:"asked"`
		After    column[*document.Cup]      `db:"after"`
		Before   column[*document.Cup]      `db:"before"`
	}
	if err := s.read.all(ctx, &rows, selectRecord, taster, recentBrews); err != nil {
		return record, err
	}
	for _, r := range rows {
		followed := r.Asked.V.Core()
		if followed == nil || followed.For != "" && followed.For != taster || r.Status != brew.Done || r.Before.V == nil || r.After.V == nil ||
			record.Changes == maxRecorded {
			continue
		}
		if after := r.After.V.Core(); !r.Measured.V.NotDone && after.Taste.IsRecorded() {
			record.Changes++
			if coach.Helped(r.Before.V.Core(), after) {
				record.Helped++
			}
		}
	}
	return record, nil
}

const selectFlavours = `SELECT t.cup FROM brews INDEXED BY brews_by_start JOIN tastings t ON t.brew_id = brews.id
	WHERE ` + anyTime + ` AND ` + visible + ` ORDER BY started_at DESC, id DESC LIMIT ?`

// OwnFlavours returns the distinct notes of the last brews that are not in the built-in list.
func (s *Store) OwnFlavours(ctx context.Context) ([]string, error) {
	var cups []column[document.Cup]
	if err := s.read.all(ctx, &cups, selectFlavours, recentBrews); err != nil {
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

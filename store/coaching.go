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

// lately is how many brews back a person is known by.
const lately = 60

const selectPerson = `SELECT bag_id, tds, status, coffee, advice FROM brews INDEXED BY brews_by_start WHERE started_at < '~' ORDER BY started_at DESC, id DESC LIMIT ?`

// Person is what the last brews of a yard say of who brews there, as the coach asks for it:
// whether they measure, and where their aim was with other bags of the kind.
func (s *Store) Person(ctx context.Context, bag coffee.Bag) (who coach.Person, err error) {
	var rows []struct {
		BagID  string                   `db:"bag_id"`
		TDS    float64                  `db:"tds"`
		Status brew.Status              `db:"status"`
		Coffee column[document.Bag]     `db:"coffee"`
		Advice column[*document.Advice] `db:"advice"`
	}
	if err := s.read.all(ctx, &rows, selectPerson, lately); err != nil {
		return who, err
	}
	for _, r := range rows {
		who.Measures = who.Measures || r.TDS > 0
		if who.Known != nil || r.Status != brew.Done || r.BagID == bag.ID {
			continue
		}
		other := r.Coffee.V.Core()
		if a := r.Advice.V.Core(); other.Roast == bag.Roast && other.Process == bag.Process && a != nil && a.Map != nil {
			who.Known = a.Map.Aim.Wider()
		}
	}
	return who, nil
}

// A Record is what became of the changes that were advised and made, of the last ones that were tasted.
type Record struct{ Changes, Helped int }

// recorded is how many changes a Record looks back on.
const recorded = 14

const selectRecord = `
	SELECT b.status, b.cup, b.asked IS NOT NULL AND b.asked != 'null' AS followed, COALESCE(p.cup, 'null') AS before
	FROM brews b LEFT JOIN brews p ON p.id = b.parent_id
	WHERE b.started_at < '~' ORDER BY b.started_at DESC, b.id DESC LIMIT ?`

// Record is the coach's own, by the changes of the last brews.
func (s *Store) Record(ctx context.Context) (record Record, err error) {
	var rows []struct {
		Status   brew.Status           `db:"status"`
		Cup      column[document.Cup]  `db:"cup"`
		Followed bool                  `db:"followed"`
		Before   column[*document.Cup] `db:"before"`
	}
	if err := s.read.all(ctx, &rows, selectRecord, lately); err != nil {
		return record, err
	}
	for _, r := range rows {
		if !r.Followed || r.Status != brew.Done || r.Before.V == nil || record.Changes == recorded {
			continue
		}
		if after := r.Cup.V.Core(); !after.NotDone && after.Taste.Said() {
			record.Changes++
			if coach.Helped(r.Before.V.Core(), after) {
				record.Helped++
			}
		}
	}
	return record, nil
}

const selectTasted = `SELECT cup FROM brews INDEXED BY brews_by_start WHERE started_at < '~' ORDER BY started_at DESC, id DESC LIMIT ?`

// OwnFlavours are the notes of the last brews that are not on the product's list, each once.
func (s *Store) OwnFlavours(ctx context.Context) ([]string, error) {
	var cups []column[document.Cup]
	if err := s.read.all(ctx, &cups, selectTasted, lately); err != nil {
		return nil, err
	}
	var out []string
	for _, c := range cups {
		for _, flavour := range c.V.Flavours {
			if !cup.Listed(flavour) && !slices.Contains(out, flavour) {
				out = append(out, flavour)
			}
		}
	}
	return out, nil
}

// Past returns the last brews of a bag with their events, the oldest first.
func (s *Store) Past(ctx context.Context, bagID string, limit int) ([]brew.Brew, error) {
	path, err := s.Path(ctx, bagID, limit)
	if err != nil {
		return nil, err
	}
	return path, addEvents(ctx, s.read, path)
}

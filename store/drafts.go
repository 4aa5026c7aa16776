package store

import (
	"context"
	"errors"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/water"
	"yardbloom/store/document"
)

// draftRow is a row of the table of drafts and kept recipes.
type draftRow struct {
	ID      string                     `db:"id"`
	BagID   string                     `db:"bag_id"`
	Parent  reference                  `db:"parent_id"`
	Name    string                     `db:"name"`
	Brewer  string                     `db:"brewer_id"`
	Grinder string                     `db:"grinder_id"`
	Kettle  string                     `db:"kettle_id"`
	Water   reference                  `db:"water_id"`
	Recipe  column[document.Recipe]    `db:"recipe"`
	Asked   column[*document.Proposal] `db:"asked"`
	Draft   column[document.Draft]     `db:"draft"`
	Created instant                    `db:"created_at"`
	Changed instant                    `db:"changed_at"`
	Zone    string                     `db:"zone"`
	Version int64                      `db:"version"`
	// Of kept recipes only.
	Code      string    `db:"code"`
	Number    int       `db:"number"`
	Favourite bool      `db:"favourite"`
	Forked    string    `db:"forked"`
	By        reference `db:"by"`
}

func draftRowOf(d brew.Draft, now time.Time) draftRow {
	doc := document.Draft{V: document.Version, Held: []string{string(d.Held[0]), string(d.Held[1])}, Ratio: d.SetRatio, Typed: d.Typed,
		Tab: d.Tab, Checked: d.Checked, Timers: d.Timers, Past: document.OfUndoSteps(d.UndoSteps), Future: document.OfUndoSteps(d.RedoSteps),
		Aimed: (*document.Liking)(d.Aimed), Second: d.Gear.Second.ID}
	return draftRow{
		ID: d.ID, BagID: d.BagID, Parent: reference(d.Parent), Name: d.Name, Brewer: d.Gear.Brewer.ID, Grinder: d.Gear.Grinder.ID,
		Kettle: d.Gear.Kettle.ID, Water: reference(d.Gear.Water.ID),
		Recipe: column[document.Recipe]{document.OfRecipe(d.Recipe)}, Asked: column[*document.Proposal]{document.OfProposal(d.Advised)},
		Draft:   column[document.Draft]{doc},
		Created: instant{d.Created}, Changed: instant{now}, Zone: zoneOf(d.Created), Version: d.Version, Code: d.Code,
		Number: max(1, d.Number), Favourite: d.Favourite, Forked: d.Forked, By: reference(d.By),
	}
}

func (r draftRow) draft() brew.Draft {
	doc := r.Draft.V
	d := brew.Draft{Name: r.Name, Held: document.Held(doc.Held), SetRatio: doc.Ratio, Typed: doc.Typed, Tab: doc.Tab, Checked: doc.Checked,
		Timers: doc.Timers, UndoSteps: document.UndoSteps(doc.Past), RedoSteps: document.UndoSteps(doc.Future), Version: r.Version,
		Code: r.Code, Number: r.Number, Favourite: r.Favourite, Forked: r.Forked, Aimed: (*forecast.Liking)(doc.Aimed)}
	d.ID, d.BagID, d.Parent, d.By, d.Created = r.ID, r.BagID, string(r.Parent), string(r.By), inZone(r.Created.Time, r.Zone)
	d.Recipe, d.Advised = r.Recipe.V.Core(), r.Asked.V.Core()
	d.Gear = gear.Set{Brewer: gear.Brewer{ID: r.Brewer}, Grinder: gear.Grinder{ID: r.Grinder}, Kettle: gear.Kettle{ID: r.Kettle},
		Water: water.Water{ID: string(r.Water)}, Second: gear.Kettle{ID: doc.Second}}
	return d
}

const draftColumns = `id, bag_id, parent_id, name, brewer_id, grinder_id, kettle_id, water_id, recipe, asked, draft, created_at,
	changed_at, zone, version, code, number, favourite, forked, by`

// Draft returns a draft or a kept recipe with its present bag and gear.
func (s *Store) Draft(ctx context.Context, id string) (brew.Draft, Bag, error) {
	return loadDraft(ctx, s.read, id)
}

func loadDraft(ctx context.Context, q querier, id string) (brew.Draft, Bag, error) {
	return findDraft(ctx, q, id, `deleted_at IS NULL`)
}

// findDraft returns a draft with an id and a condition.
func findDraft(ctx context.Context, q querier, id, condition string) (brew.Draft, Bag, error) {
	var row draftRow
	if err := q.get(ctx, &row, `SELECT `+draftColumns+` FROM recipes WHERE id = ? AND `+condition, id); err != nil {
		return brew.Draft{}, Bag{}, err
	}
	d := row.draft()
	on, err := bag(ctx, q, d.BagID)
	if err != nil {
		return d, on, err
	}
	d.Bag = on.Bag
	d.Gear, err = gearSet(ctx, q, d.Gear.IDs())
	return d, on, err
}

// AddDraft stores a new draft. Its bag must be on the shelf.
func (s *Store) AddDraft(ctx context.Context, d brew.Draft, now time.Time) error {
	return s.transact(ctx, func(t *tx) error { return addDraft(ctx, t, draftRowOf(d, now)) })
}

// OpenDraft stores a new draft or kept recipe, unless an equal, unchanged one exists, so that a repeated
// request creates one. It returns the id of the draft.
func (s *Store) OpenDraft(ctx context.Context, d brew.Draft, now time.Time) (id string, err error) {
	row := draftRowOf(d, now)
	err = s.transact(ctx, func(t *tx) error {
		err := t.get(ctx, &id, `
			SELECT id FROM recipes
			WHERE bag_id = ? AND name = ? AND parent_id IS ? AND brewer_id = ? AND grinder_id = ? AND kettle_id = ? AND
				water_id IS ? AND recipe = ? AND asked = ? AND draft = ?
				AND version = 1 AND deleted_at IS NULL LIMIT 1`,
			row.BagID, row.Name, row.Parent, row.Brewer, row.Grinder, row.Kettle, row.Water, row.Recipe, row.Asked, row.Draft)
		if !errors.Is(err, ErrNotFound) {
			return err
		}
		id = row.ID
		return addDraft(ctx, t, row)
	})
	return id, err
}

func addDraft(ctx context.Context, t *tx, row draftRow) error {
	on, err := bag(ctx, t, row.BagID)
	if err != nil {
		return err
	}
	if on.Deleted {
		return ErrNotFound
	}
	return insertDraft(ctx, t, row)
}

func insertDraft(ctx context.Context, t *tx, row draftRow) error {
	_, err := t.put(ctx, `
		INSERT INTO recipes (id, bag_id, parent_id, name, brewer_id, grinder_id, kettle_id, water_id, recipe, asked, draft, created_at,
			changed_at, zone, code, number, forked, by)
		VALUES (:id, :bag_id, :parent_id, :name, :brewer_id, :grinder_id, :kettle_id, :water_id, :recipe, :asked, :draft, :created_at,
			:changed_at, :zone, :code, :number, :forked, (SELECT id FROM people WHERE id = :by))`, row)
	return err
}

// SaveDraft stores a changed draft and returns it with its new version. It returns ErrConflict if the
// version is outdated.
func (s *Store) SaveDraft(ctx context.Context, d brew.Draft, now time.Time) (brew.Draft, error) {
	err := s.change(ctx, `
		UPDATE recipes SET brewer_id = :brewer_id, grinder_id = :grinder_id, kettle_id = :kettle_id, water_id = :water_id,
			recipe = :recipe, asked = :asked, draft = :draft, name = :name,
			by = COALESCE((SELECT id FROM people WHERE id = :by), by),
			changed_at = :changed_at, version = version + 1
		WHERE id = :id AND version = :version AND deleted_at IS NULL`, draftRowOf(d, now), ErrConflict)
	d.Version++
	return d, err
}

// DiscardDraft archives a draft, or restores it.
func (s *Store) DiscardDraft(ctx context.Context, id string, discard bool, now time.Time) error {
	return s.archiveRow(ctx, "recipes", id, discard, now)
}

// UndoBegin undoes Begin: it deletes the brew, which was only the rinse, and restores the draft. It returns
// ErrNotFound if there is no such brew.
func (s *Store) UndoBegin(ctx context.Context, d brew.Draft, now time.Time) error {
	return s.transact(ctx, func(t *tx) error {
		b, err := loadBrew(ctx, t, d.ID)
		if err != nil {
			return err
		}
		if !b.LooksLikeRinse(now) {
			return ErrNotFound
		}
		for _, statement := range []string{
			`DELETE FROM brew_readings WHERE brew_id = ?`,
			`DELETE FROM brew_events WHERE brew_id = ?`,
			`DELETE FROM brews WHERE id = ?`,
		} {
			if _, err := t.do(ctx, statement, d.ID); err != nil {
				return err
			}
		}
		if d.Bag.OpenedOn == "" { // this brew had opened it
			if _, err := t.do(ctx, `UPDATE bags SET opened_on = '' WHERE id = ? AND opened_on = ?`, d.BagID,
				b.Started.Format(coffee.Day)); err != nil {
				return err
			}
		}
		if err := addHappenings(ctx, t, d.ID, brew.Happening{Kind: brew.BrewEnded}); err != nil {
			return err
		}
		return addDraft(ctx, t, draftRowOf(d, now))
	})
}

const selectDrafts = `
	SELECT ` + draftColumns + ` FROM recipes WHERE bag_id = ? AND deleted_at IS NULL
	ORDER BY changed_at DESC, id DESC LIMIT ?`

// Drafts returns the latest drafts and kept recipes of a bag, without their bag; of their gear it returns
// only the ids.
func (s *Store) Drafts(ctx context.Context, bagID string, limit int) ([]brew.Draft, error) {
	var rows []draftRow
	if err := s.read.all(ctx, &rows, selectDrafts, bagID, limit); err != nil {
		return nil, err
	}
	out := make([]brew.Draft, len(rows))
	for i, r := range rows {
		out[i] = r.draft()
	}
	return out, nil
}

// Begin turns a draft into a brew at its first water. It marks the bag as opened and the gear as last used.
// If it has begun already, the start is added to the running brew, as seen on another screen. A draft that was archived meanwhile, or whose
// bag was removed, begins too, because the water has been poured. believe returns the yard's beliefs about it; it may be nil.
func (s *Store) Begin(ctx context.Context, id string, start brew.Event, believe func(brew.Sheet) *forecast.Beliefs) (b brew.Brew,
	err error) {
	err = s.transact(ctx, func(t *tx) error {
		b, err = begin(ctx, t, id, start, believe)
		return err
	})
	return b, err
}

// BeginCopy stores a draft, unless it is known, and begins it like Begin, for a brew that began on a device while the server was away.
func (s *Store) BeginCopy(ctx context.Context, d brew.Draft, start brew.Event, believe func(brew.Sheet) *forecast.Beliefs) (b brew.Brew,
	err error) {
	err = s.transact(ctx, func(t *tx) error {
		var known bool
		if err := t.get(ctx, &known, `SELECT EXISTS (SELECT 1 FROM recipes WHERE id = ?1) OR EXISTS (SELECT 1 FROM brews WHERE id = ?1)`, d.ID); err != nil {
			return err
		}
		if !known {
			if err := insertDraft(ctx, t, draftRowOf(d, d.Created)); err != nil {
				return err
			}
		}
		b, err = begin(ctx, t, d.ID, start, believe)
		return err
	})
	return b, err
}

// begin is Begin in a transaction.
func begin(ctx context.Context, t *tx, id string, start brew.Event, believe func(brew.Sheet) *forecast.Beliefs) (b brew.Brew, err error) {
	d, _, err := findDraft(ctx, t, id, `true`)
	if errors.Is(err, ErrNotFound) { // a second tap, or a second tablet
		was, err := loadBrew(ctx, t, id)
		if err != nil {
			return b, err
		}
		if b, err = was.Apply(start, start.Instant); err != nil {
			return b, err
		}
		return b, updateBrew(ctx, t, was, &b)
	}
	if err != nil {
		return b, err
	}
	if believe != nil {
		d.Beliefs = believe(d.Sheet)
	}
	return brewDraft(ctx, t, d, func(d brew.Draft) (brew.Brew, error) { return brew.Begin(d, start) })
}

// RecordBrew turns a draft into a brew that was made away from any screen. believe returns the yard's beliefs about it. Errors are
// ErrNotFound for a draft that is not there or has begun, and those of brew.Record.
func (s *Store) RecordBrew(ctx context.Context, id string, r brew.Recorded, believe func(brew.Sheet) *forecast.Beliefs) (b brew.Brew, err error) {
	err = s.transact(ctx, func(t *tx) error {
		d, on, err := loadDraft(ctx, t, id)
		switch {
		case err != nil:
			return err
		case on.Deleted:
			return ErrNotFound
		}
		d.Beliefs = believe(d.Sheet)
		b, err = brewDraft(ctx, t, d, func(d brew.Draft) (brew.Brew, error) { return brew.Record(d, r) })
		return err
	})
	return b, err
}

// brewDraft replaces a draft by a brew.
func brewDraft(ctx context.Context, t *tx, d brew.Draft, begin func(brew.Draft) (brew.Brew, error)) (brew.Brew, error) {
	b, err := begin(d)
	if err != nil {
		return b, err
	}
	if err := insertBrew(ctx, t, b); err != nil {
		return b, err
	}
	if _, err := t.do(ctx, `DELETE FROM recipes WHERE id = ?`, d.ID); err != nil {
		return b, err
	}
	if b.Status == brew.Running {
		if err := addHappenings(ctx, t, b.ID, brew.Happening{Kind: brew.BrewStarted}); err != nil {
			return b, err
		}
	}
	return b, markUsed(ctx, t, b)
}

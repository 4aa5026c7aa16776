package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"

	"yardbloom/store/document"
)

// Apply imports staged records in short transactions, so that other writers do not wait long:
//
//  1. New records are inserted, hidden. An import that is interrupted in this phase is rolled back.
//  2. One transaction makes them visible. From here on an interrupted import is completed.
//  3. Changed and deleted records are updated.
//  4. The new brews are added to the totals of the log.

// visible is the SQL condition that excludes brews of imports in their first phase.
const visible = `import NOT IN (SELECT n FROM hidden_imports)`

// The states of an import.
const (
	adding     = "adding"
	finishing  = "finishing"
	done       = "done"
	rolledBack = "undone"
)

// stepTime is the target duration of a transaction. The batch size adapts to it.
const stepTime = 150 * time.Millisecond

// stepper adapts the batch size to stepTime.
type stepper struct{ size int }

func (s *stepper) timed(f func() error) error {
	began := time.Now()
	err := f()
	switch took := time.Since(began); {
	case took > stepTime:
		s.size = max(1, s.size/2)
	case took < stepTime/2:
		s.size = min(500, s.size*2)
	}
	return err
}

// Apply imports the staged records according to Plan. An error in the first phase leaves the yard unchanged. progress receives the number
// of processed records and the total.
func (st *Staging) Apply(ctx context.Context, name, by string, now time.Time, progress func(done, all int)) error {
	counts, err := st.counts(ctx)
	if err != nil {
		return err
	}
	refused, err := st.Decisions(ctx, Refused, maxListed)
	if err != nil {
		return err
	}
	report, err := json.Marshal(importReport{counts, refused})
	if err != nil {
		return err
	}
	err = st.into.transact(ctx, func(t *tx) error {
		_, err := t.do(ctx, `INSERT INTO imports (id, name, state, report, began_at, by) VALUES (?, ?, ?, ?, ?, (SELECT id FROM people WHERE id = ?))`,
			st.id, name, adding, string(report), instant{now}, by)
		return err
	})
	if err != nil {
		return err
	}
	all := 0
	for _, c := range counts {
		if c.Action == Add || c.Action == Change || c.Action == Keep || c.Action == Delete {
			all += c.Records
		}
	}
	done := 0
	if err := st.add(ctx, now, func(n int) { done += n; progress(done, all) }); err != nil {
		return errors.Join(err, st.into.rollBack(context.WithoutCancel(ctx), st.id, st))
	}
	return st.finish(ctx, now, func(n int) { done += n; progress(min(done, all), all) })
}

// importReport summarizes an import.
type importReport struct {
	Counts  []Count    `json:"counts"`
	Refused []Decision `json:"refused,omitempty"`
}

// number returns the number of an import.
func (s *Store) importNumber(ctx context.Context, q querier, id string) (n int64, err error) {
	err = q.get(ctx, &n, `SELECT n FROM imports WHERE id = ?`, id)
	return n, err
}

// add inserts the new records, hidden, and then makes them visible.
func (st *Staging) add(ctx context.Context, now time.Time, progress func(int)) error {
	n, err := st.into.importNumber(ctx, st.into.read, st.id)
	if err != nil {
		return err
	}
	shown := []statement{}
	for _, r := range records {
		if r.kind == Deleted {
			continue
		}
		var ids []string
		err := st.eachPlanned(ctx, r.kind, Add, func(step []Document, photos []Image, readings map[string]string) error {
			for _, d := range step {
				ids = append(ids, d.ID)
			}
			progress(len(step))
			return st.into.transact(ctx, func(t *tx) error { return addHidden(ctx, t, r, step, n, now, photos, readings) })
		})
		if err != nil {
			return err
		}
		if r.hidden != "" && len(ids) > 0 {
			list, err := json.Marshal(ids)
			if err != nil {
				return err
			}
			show := fmt.Sprintf(`UPDATE %s SET %s = NULL WHERE id IN (SELECT value FROM json_each(?)) AND %[2]s = ?`, r.table, r.hidden)
			shown = append(shown, statement{show, []any{string(list), hiddenAt(now)}})
		}
	}
	return st.into.transact(ctx, func(t *tx) error {
		if err := t.doAll(ctx, shown); err != nil {
			return err
		}
		if err := st.linkParents(ctx, t); err != nil {
			return err
		}
		_, err := t.do(ctx, `UPDATE imports SET state = ? WHERE n = ?`, finishing, n)
		return err
	})
}

// hiddenAt is the deletion time of hidden records. It is a century ahead, so that it differs from real deletions.
func hiddenAt(now time.Time) instant { return instant{now.AddDate(100, 0, 0)} }

func addHidden(ctx context.Context, t *tx, r record, step []Document, n int64, now time.Time, photos []Image, readings map[string]string) error {
	for _, d := range step {
		if err := putRecord(ctx, t, d, n, false); err != nil {
			return fmt.Errorf("%s %s: %w", d.Kind, d.ID, err)
		}
		if r.hidden != "" {
			if _, err := t.do(ctx, fmt.Sprintf(`UPDATE %s SET %s = ? WHERE id = ? AND %[2]s IS NULL`, r.table, r.hidden), hiddenAt(now), d.ID); err != nil {
				return err
			}
		}
		if err := saveHashes(ctx, t, d); err != nil {
			return err
		}
		if trace := readings[d.ID]; trace != "" {
			if _, err := t.do(ctx, `INSERT INTO brew_readings (brew_id, n, readings) VALUES (?, 0, ?)`, d.ID, trace); err != nil {
				return err
			}
		}
		if _, err := t.do(ctx, `DELETE FROM removed WHERE id = ?`, d.ID); err != nil { // an older version
			return err
		}
	}
	return putPhotos(ctx, t, photos)
}

func putPhotos(ctx context.Context, t *tx, photos []Image) error {
	for _, p := range photos {
		if _, err := t.do(ctx, `INSERT INTO photos (id, brew_id, width, height, added_at, by, small, full)
			VALUES (?, ?, ?, ?, ?, (SELECT id FROM people WHERE id = ?), ?, ?) ON CONFLICT DO NOTHING`, p.ID, p.BrewID, p.Width, p.Height, p.Added, p.By,
			p.Small, p.Full); err != nil {
			return err
		}
	}
	return nil
}

// saveHashes stores the hash of an imported version and of the resulting record. They differ if references were dropped.
func saveHashes(ctx context.Context, t *tx, d Document) error {
	now, err := documentsOf(ctx, t, d.Kind, []string{d.ID})
	if err != nil {
		return err
	}
	_, err = t.do(ctx, `INSERT OR REPLACE INTO imported (kind, id, hash, became) VALUES (?, ?, ?, ?)`, d.Kind, d.ID, hashOf(d.Text),
		hashOf(now[d.ID].Text))
	return err
}

// linkParents sets parents that were inserted after their children.
func (st *Staging) linkParents(ctx context.Context, t *tx) error {
	var rows []struct {
		ID     string `db:"id"`
		Parent string `db:"parent_id"`
	}
	if err := st.yard.read.all(ctx, &rows, `SELECT b.id, b.parent_id FROM brews b JOIN brews p ON p.id = b.parent_id
		JOIN plan n ON n.kind = 'brew' AND n.id = b.id AND n.action = 'add' WHERE (p.started_at, p.id) > (b.started_at, b.id)`); err != nil {
		return err
	}
	for _, row := range rows {
		if _, err := t.do(ctx, `UPDATE brews SET parent_id = (SELECT id FROM brews WHERE id = ?) WHERE id = ? AND parent_id IS NULL`, row.Parent,
			row.ID); err != nil {
			return err
		}
	}
	return nil
}

// eachPlanned calls each for batches of staged records with a kind and an action, with their photos and readings.
func (st *Staging) eachPlanned(ctx context.Context, kind Kind, a Action, each func([]Document, []Image, map[string]string) error) error {
	pace, last := &stepper{10}, int64(0)
	for {
		var rows []struct {
			N  int64  `db:"n"`
			ID string `db:"id"`
		}
		if err := st.yard.read.all(ctx, &rows, `SELECT n, id FROM plan WHERE kind = ? AND action = ? AND n > ? ORDER BY n LIMIT ?`, kind, a, last,
			pace.size); err != nil || len(rows) == 0 {
			return err
		}
		ids := make([]string, len(rows))
		for i, row := range rows {
			ids[i] = row.ID
		}
		last = rows[len(rows)-1].N
		found, err := documentsOf(ctx, st.yard.read, kind, ids)
		if err != nil {
			return err
		}
		step := make([]Document, 0, len(ids))
		for _, id := range ids {
			step = append(step, found[id])
		}
		var photos []Image
		readings := map[string]string{}
		if kind == Brews {
			if photos, readings, err = st.attachments(ctx, ids); err != nil {
				return err
			}
		}
		if err := pace.timed(func() error { return each(step, photos, readings) }); err != nil {
			return err
		}
	}
}

// attachments returns the photos and readings of staged brews.
func (st *Staging) attachments(ctx context.Context, ids []string) (photos []Image, readings map[string]string, err error) {
	list, err := json.Marshal(ids)
	if err != nil {
		return nil, nil, err
	}
	var files []struct {
		Photo
		By    reference `db:"by"`
		Small []byte    `db:"small"`
		Full  []byte    `db:"full"`
	}
	if err := st.yard.read.all(ctx, &files, `SELECT id, brew_id, width, height, added_at, by, small, full FROM photos
		WHERE brew_id IN (SELECT value FROM json_each(?))`, string(list)); err != nil {
		return nil, nil, err
	}
	for _, f := range files {
		photos = append(photos, Image{f.Photo, string(f.By), f.Small, f.Full})
	}
	readings = map[string]string{}
	for _, id := range ids {
		all, err := storedReadings(ctx, st.yard.read, id)
		if err != nil {
			return nil, nil, err
		}
		if len(all) == 0 {
			continue
		}
		text, err := json.Marshal(document.OfTrace(all))
		if err != nil {
			return nil, nil, err
		}
		readings[id] = string(text)
	}
	return photos, readings, nil
}

// finish runs the phases after the new records are visible.
func (st *Staging) finish(ctx context.Context, now time.Time, progress func(int)) error {
	n, err := st.into.importNumber(ctx, st.into.read, st.id)
	if err != nil {
		return err
	}
	for _, r := range records {
		for _, a := range []Action{Change, Keep} {
			err := st.eachPlanned(ctx, r.kind, a, func(step []Document, photos []Image, readings map[string]string) error {
				progress(len(step))
				return st.into.transact(ctx, func(t *tx) error {
					for _, d := range step {
						if err := merge(ctx, t, d, n, readings[d.ID]); err != nil {
							return fmt.Errorf("%s %s: %w", d.Kind, d.ID, err)
						}
					}
					return putPhotos(ctx, t, photos)
				})
			})
			if err != nil {
				return err
			}
		}
	}
	for _, a := range []Action{Add, Delete} {
		err := st.eachPlanned(ctx, Deleted, a, func(step []Document, _ []Image, _ map[string]string) error {
			progress(len(step))
			for _, d := range step {
				if err := st.into.applyDeletion(ctx, d, now); err != nil {
					return fmt.Errorf("deletion %s: %w", d.ID, err)
				}
			}
			return nil
		})
		if err != nil {
			return err
		}
	}
	if err := st.into.countImported(ctx, n); err != nil {
		return err
	}
	return st.into.transact(ctx, func(t *tx) error {
		_, err := t.do(ctx, `UPDATE imports SET state = ?, ended_at = ? WHERE n = ?`, done, instant{now}, n)
		return err
	})
}

// merge applies a Change or Keep to a record. The action is determined again, because the record may have changed since Plan.
func merge(ctx context.Context, t *tx, d Document, n int64, readings string) error {
	here, err := stateOf(ctx, t, d.Kind, []string{d.ID})
	if err != nil {
		return err
	}
	action, conflict := here.action(d)
	current := here.current[d.ID]
	switch action {
	case Change:
		if conflict != "" {
			if err := keepVersion(ctx, t, current, n, true); err != nil {
				return err
			}
		}
		return replace(ctx, t, d, readings)
	case Keep:
		return keepVersion(ctx, t, d, n, false)
	}
	return nil
}

func keepVersion(ctx context.Context, t *tx, d Document, n int64, ours bool) error {
	_, err := t.do(ctx, `INSERT OR IGNORE INTO other_versions (kind, id, hash, revision, doc, import, ours) VALUES (?, ?, ?, ?, ?, ?, ?)`, d.Kind, d.ID,
		hashOf(d.Text), d.Revision, d.Text, n, ours)
	return err
}

// replace replaces a record by another version.
func replace(ctx context.Context, t *tx, d Document, readings string) error {
	var from int64
	var before string
	if d.Kind == Brews {
		// A brew is deleted and inserted again. Foreign keys are checked at the end of the transaction.
		if _, err := t.do(ctx, `PRAGMA defer_foreign_keys = 1`); err != nil {
			return err
		}
		if err := t.get(ctx, &from, `SELECT import FROM brews WHERE id = ?`, d.ID); err != nil {
			return err
		}
		if err := t.get(ctx, &before, `SELECT COALESCE((SELECT json_group_array(json_array(n, readings)) FROM brew_readings WHERE brew_id = ?), '[]')`,
			d.ID); err != nil {
			return err
		}
		if err := t.doAll(ctx, []statement{
			{`INSERT OR REPLACE INTO removed (id, kind, name, removed_at, contents) VALUES (?, 'brew', '', '', '')`, []any{d.ID}},
			// lets the trigger permit the deletion of events
			{`DELETE FROM brew_readings WHERE brew_id = ?`, []any{d.ID}},
		}); err != nil {
			return err
		}
	}
	if err := putRecord(ctx, t, d, from, false); err != nil {
		return err
	}
	if d.Kind == Brews {
		insert := statement{`INSERT INTO brew_readings (brew_id, n, readings) SELECT ?, value ->> 0, value ->> 1 FROM json_each(?)`, []any{d.ID, before}}
		if readings != "" {
			insert = statement{`INSERT INTO brew_readings (brew_id, n, readings) VALUES (?, 0, ?)`, []any{d.ID, readings}}
		}
		if err := t.doAll(ctx, []statement{insert, {`DELETE FROM removed WHERE id = ?`, []any{d.ID}}}); err != nil {
			return err
		}
	}
	return saveHashes(ctx, t, d)
}

// applyDeletion applies the deletion of a record in another yard: it deletes the record or stores a tombstone. A record that changed in
// this yard since is kept.
func (s *Store) applyDeletion(ctx context.Context, d Document, now time.Time) error {
	var doc struct {
		Of        Kind   `json:"of"`
		RemovedAt string `json:"removed_at"`
	}
	if err := json.Unmarshal([]byte(d.Text), &doc); err != nil {
		return err
	}
	here, err := stateOf(ctx, s.read, Deleted, []string{d.ID})
	if err != nil {
		return err
	}
	switch action, _ := here.action(d); action {
	case Delete:
		if doc.Of == Persons {
			return s.RemovePerson(ctx, d.ID)
		}
		err := s.Remove(ctx, here.current[d.ID].Kind, d.ID, "", now)
		if errors.Is(err, ErrRunning) {
			return nil
		}
		return err
	case Add:
		return s.transact(ctx, func(t *tx) error {
			_, err := t.do(ctx, `INSERT OR IGNORE INTO removed (id, kind, name, removed_at, contents, revision) VALUES (?, ?, '', ?, '', ?)`, d.ID, doc.Of,
				doc.RemovedAt, d.Revision)
			return err
		})
	}
	return nil
}

// countImported adds the brews of an import to the totals of the log.
func (s *Store) countImported(ctx context.Context, n int64) error {
	pace, left := &stepper{100}, int64(1)
	for left > 0 {
		err := pace.timed(func() error {
			return s.transact(ctx, func(t *tx) error {
				res, err := t.do(ctx, `UPDATE entries SET counted = 1 WHERE n IN (SELECT n FROM entries INDEXED BY entries_uncounted
					WHERE import = ? AND counted = 0 LIMIT ?)`, n, pace.size)
				if err == nil {
					left, err = res.RowsAffected()
				}
				return err
			})
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// rollBack deletes the hidden records of an import. If st is nil because the staging is lost, hidden bags and gear remain hidden.
func (s *Store) rollBack(ctx context.Context, id string, st *Staging) error {
	n, err := s.importNumber(ctx, s.read, id)
	if err != nil {
		return err
	}
	pace, left := &stepper{20}, 1
	for left > 0 {
		err := pace.timed(func() error {
			return s.transact(ctx, func(t *tx) error {
				if _, err := t.do(ctx, `PRAGMA defer_foreign_keys = 1`); err != nil {
					return err
				}
				var ids []string // latest first, so that children precede their parents
				if err := t.all(ctx, &ids, `SELECT id FROM brews WHERE import = ? ORDER BY started_at DESC, id DESC LIMIT ?`, n, pace.size); err != nil {
					return err
				}
				left = len(ids)
				for _, brewID := range ids {
					for _, p := range append([]part{{"photos", "brew_id"}}, partsOf[Brews][1:]...) {
						if _, err := t.do(ctx, fmt.Sprintf(`DELETE FROM %s WHERE %s = ?`, p.table, p.column), brewID); err != nil {
							return err
						}
					}
					if _, err := t.do(ctx, `DELETE FROM brews WHERE id = ?`, brewID); err != nil {
						return err
					}
				}
				return nil
			})
		})
		if err != nil {
			return err
		}
	}
	for i := len(records) - 1; i >= 0 && st != nil; i-- {
		r := records[i]
		if r.kind == Deleted || r.kind == Brews {
			continue
		}
		err := st.eachPlanned(ctx, r.kind, Add, func(step []Document, _ []Image, _ map[string]string) error {
			return s.transact(ctx, func(t *tx) error {
				for _, d := range step {
					for _, l := range r.lists {
						if _, err := t.do(ctx, fmt.Sprintf(`DELETE FROM %s WHERE %s = ?`, l.table, l.column), d.ID); err != nil {
							return err
						}
					}
					if err := t.doAll(ctx, []statement{{`DELETE FROM imported WHERE kind = ? AND id = ?`, []any{d.Kind, d.ID}},
						{fmt.Sprintf(`DELETE FROM %s WHERE id = ?`, r.table), []any{d.ID}}}); err != nil {
						return err
					}
					if r.kind == Persons { // remove the tombstone of the trigger
						if _, err := t.do(ctx, `DELETE FROM removed WHERE id = ?`, d.ID); err != nil {
							return err
						}
					}
				}
				return nil
			})
		})
		if err != nil {
			return err
		}
	}
	return s.transact(ctx, func(t *tx) error {
		return t.doAll(ctx, []statement{
			{`DELETE FROM imported WHERE kind = 'brew' AND NOT EXISTS (SELECT 1 FROM brews b WHERE b.id = imported.id)`, nil},
			{`UPDATE imports SET state = ?, ended_at = began_at WHERE n = ?`, []any{rolledBack, n}}})
	})
}

// ResumeImports rolls back interrupted imports whose records are hidden, and completes the others. It returns the number of each.
func (s *Store) ResumeImports(ctx context.Context, now time.Time) (undone, completed int, err error) {
	var open []struct {
		ID    string `db:"id"`
		State string `db:"state"`
	}
	if err := s.read.all(ctx, &open, `SELECT id, state FROM imports WHERE state IN ('adding', 'finishing')`); err != nil {
		return 0, 0, err
	}
	for _, row := range open {
		st, err := s.openStaging(ctx, row.ID)
		var inUse *Trouble
		if errors.As(err, &inUse) { // active in another process
			continue
		}
		if errors.Is(err, fs.ErrNotExist) {
			st, err = nil, nil
		}
		if err != nil {
			return undone, completed, err
		}
		switch {
		case row.State == adding:
			undone++
			err = s.rollBack(ctx, row.ID, st)
		case st == nil:
			completed++
			err = s.finishWithout(ctx, row.ID, now)
		default:
			completed++
			err = st.finish(ctx, now, func(int) {})
		}
		if st != nil {
			err = errors.Join(err, st.Close())
		}
		if err != nil {
			return undone, completed, err
		}
	}
	return undone, completed, s.dropStagings()
}

// finishWithout completes an import whose staging is lost, for example after a restore. New records are complete; updates are lost.
func (s *Store) finishWithout(ctx context.Context, id string, now time.Time) error {
	n, err := s.importNumber(ctx, s.read, id)
	if err == nil {
		err = s.countImported(ctx, n)
	}
	if err != nil {
		return err
	}
	return s.transact(ctx, func(t *tx) error {
		_, err := t.do(ctx, `UPDATE imports SET state = ?, ended_at = ? WHERE n = ?`, done, instant{now}, n)
		return err
	})
}

// dropStagings deletes the staging folders of inactive imports.
func (s *Store) dropStagings() error {
	entries, err := os.ReadDir(s.dir())
	for _, e := range entries {
		dir := filepath.Join(s.dir(), e.Name())
		if !e.IsDir() || !strings.HasPrefix(e.Name(), StagingPrefix) {
			continue
		}
		if lock, lockErr := lockYard(dir); lockErr == nil { // else active in another process
			err = errors.Join(err, lock.Close(), os.RemoveAll(dir))
		}
	}
	return err
}

// An Imported is an entry of the import history.
type Imported struct {
	N       int64
	Name    string // of the file
	By      string // id of a person; empty: the yard
	Began   time.Time
	Undone  bool // interrupted and rolled back
	Open    bool // not finished
	Counts  []Count
	Refused []Decision
	Others  int // number of conflicting versions
}

// Imports returns the import history, newest first.
func (s *Store) Imports(ctx context.Context) ([]Imported, error) {
	var rows []struct {
		N      int64                `db:"n"`
		Name   string               `db:"name"`
		State  string               `db:"state"`
		Report column[importReport] `db:"report"`
		Began  instant              `db:"began_at"`
		By     reference            `db:"by"`
		Others int                  `db:"others"`
	}
	const most = 20
	err := s.read.all(ctx, &rows, `SELECT n, name, state, report, began_at, by, (SELECT COUNT(*) FROM other_versions o WHERE o.import = i.n) AS others
		FROM imports i ORDER BY n DESC LIMIT ?`, most)
	out := make([]Imported, len(rows))
	for i, r := range rows {
		out[i] = Imported{r.N, r.Name, string(r.By), r.Began.Time, r.State == rolledBack, r.State == adding || r.State == finishing, r.Report.V.Counts,
			r.Report.V.Refused, r.Others}
	}
	return out, err
}

// An OtherVersion is a conflicting version of a record that is not current.
type OtherVersion struct {
	Document
	Import  string // name of the imported file
	ImportN int64
	When    time.Time
	Ours    bool // from this yard, replaced by the import
}

const selectVersions = `SELECT o.kind, o.id, o.revision, o.doc, o.ours, o.import, i.name, i.began_at FROM other_versions o JOIN imports i ON i.n = o.import`

type otherRow struct {
	Kind     Kind    `db:"kind"`
	ID       string  `db:"id"`
	Revision int64   `db:"revision"`
	Doc      string  `db:"doc"`
	Ours     bool    `db:"ours"`
	Import   int64   `db:"import"`
	Name     string  `db:"name"`
	Began    instant `db:"began_at"`
}

// OtherVersions returns the conflicting versions of a record.
func (s *Store) OtherVersions(ctx context.Context, kind Kind, id string) ([]OtherVersion, error) {
	var rows []otherRow
	err := s.read.all(ctx, &rows, selectVersions+` WHERE o.kind = ? AND o.id = ? ORDER BY o.import DESC`, kind, id)
	return otherVersions(rows), err
}

// VersionsOf returns the conflicting versions of an import.
func (s *Store) VersionsOf(ctx context.Context, importN int64) ([]OtherVersion, error) {
	var rows []otherRow
	err := s.read.all(ctx, &rows, selectVersions+` WHERE o.import = ? LIMIT ?`, importN, maxListed)
	return otherVersions(rows), err
}

func otherVersions(rows []otherRow) []OtherVersion {
	out := make([]OtherVersion, len(rows))
	for i, r := range rows {
		out[i] = OtherVersion{Document{Kind: r.Kind, ID: r.ID, Revision: r.Revision, Text: r.Doc}, r.Name, r.Import, r.Began.Time, r.Ours}
	}
	return out
}

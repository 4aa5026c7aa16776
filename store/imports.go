package store

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/trace"
	"yardbloom/store/document"
)

// An import uses a second database, the staging, in a folder beside the yard's own. The file is loaded into the staging, validated, and
// compared with the yard record by record. The yard does not change before Apply.

// A Staging holds the records of a file before they are imported.
type Staging struct {
	yard *Store // of the records
	into *Store
	id   string
	dir  string
}

// Stage returns an empty staging for an import.
func (s *Store) Stage(ctx context.Context) (*Staging, error) {
	id := NewID()
	dir := filepath.Join(s.dir(), StagingPrefix+id)
	yard, err := OpenAlone(ctx, dir, func(s *Store) { s.loose = true }) // the lock tells other processes that the import is active
	if err != nil {
		return nil, err
	}
	st := &Staging{yard: yard, into: s, id: id, dir: dir}
	// Search words and totals are not needed here. Totals skip brews of unfinished imports.
	_, err = yard.write.ExecContext(ctx, `DROP TRIGGER a_tasting_enters_the_log; DROP TRIGGER readings_enter_the_log;
		INSERT INTO imports (n, id, name, state, began_at) VALUES (1, 'staging', '', 'adding', '');
		CREATE TABLE plan (n INTEGER PRIMARY KEY, kind TEXT NOT NULL, id TEXT NOT NULL, action TEXT NOT NULL, why TEXT NOT NULL);
		CREATE INDEX plan_by_action ON plan (kind, action, n);
		CREATE TABLE photo_list (id TEXT PRIMARY KEY, brew_id TEXT NOT NULL, added_at TEXT NOT NULL, by TEXT)`)
	if err != nil {
		return nil, errors.Join(err, st.Close())
	}
	return st, nil
}

// openStaging opens the staging of an interrupted import.
func (s *Store) openStaging(ctx context.Context, id string) (*Staging, error) {
	dir := filepath.Join(s.dir(), StagingPrefix+id)
	if _, err := os.Stat(filepath.Join(dir, FileName)); err != nil {
		return nil, err
	}
	yard, err := OpenAlone(ctx, dir, func(s *Store) { s.loose = true })
	return &Staging{yard: yard, into: s, id: id, dir: dir}, err
}

func (s *Store) dir() string { return filepath.Dir(s.path) }

// ID returns the id of the import.
func (st *Staging) ID() string { return st.id }

// Close closes the staging and deletes its folder.
func (st *Staging) Close() error { return errors.Join(st.yard.Close(), os.RemoveAll(st.dir)) }

// ErrTwice is returned for a duplicate id in a file.
var ErrTwice = errors.New("duplicate id: it occurs twice in the file")

// AddBag adds a bag of a table. A bag that is used up is archived.
func (st *Staging) AddBag(ctx context.Context, b coffee.Bag, archived bool, last time.Time) error {
	_, err := st.yard.AddBag(ctx, b)
	if err == nil && archived {
		err = st.yard.DeleteBag(ctx, b.ID, last)
	}
	return err
}

// AddBrews adds the brews of a table. Their bags and gear may be in the importing yard.
func (st *Staging) AddBrews(ctx context.Context, brews []brew.Brew) error {
	return st.yard.AddBrews(ctx, brews...)
}

// SaveBrewer adds a brewer.
func (st *Staging) SaveBrewer(ctx context.Context, b gear.Brewer) error {
	return st.yard.SaveBrewer(ctx, b, 0)
}

// SaveGrinder adds a grinder.
func (st *Staging) SaveGrinder(ctx context.Context, g gear.Grinder) error {
	return st.yard.SaveGrinder(ctx, g, 0)
}

// Refuse marks a document as invalid.
func (st *Staging) Refuse(ctx context.Context, d Document, why string) error {
	return st.yard.transact(ctx, func(t *tx) error { return decide(ctx, t, d, Refused, why) })
}

// Put stages records. Records that violate a constraint are refused.
func (st *Staging) Put(ctx context.Context, documents []Document) error {
	if len(documents) == 0 {
		return nil
	}
	return st.yard.transact(ctx, func(t *tx) error {
		for _, d := range documents {
			if _, err := t.ExecContext(ctx, `SAVEPOINT record`); err != nil {
				return err
			}
			err := st.put(ctx, t, d)
			end := `RELEASE record`
			if err != nil {
				end = `ROLLBACK TO record; RELEASE record`
			}
			if _, endErr := t.ExecContext(ctx, end); endErr != nil {
				return endErr
			}
			if err != nil {
				why := "invalid values"
				if invalid := new(InvalidError); errors.As(err, &invalid) || errors.Is(err, ErrTwice) {
					why = err.Error()
				}
				if err := decide(ctx, t, d, Refused, why); err != nil {
					return err
				}
			}
		}
		return nil
	})
}

func (st *Staging) put(ctx context.Context, t *tx, d Document) error {
	r := recordOf(d.Kind)
	if r == nil {
		return ErrNotFound
	}
	var twice bool
	if err := t.get(ctx, &twice, `SELECT EXISTS (SELECT 1 FROM `+r.table+` WHERE id = ?)`, d.ID); err != nil {
		return err
	}
	if twice {
		return ErrTwice
	}
	if d.Kind == Deleted {
		_, err := t.do(ctx, `INSERT INTO removed (id, kind, name, removed_at, contents, revision)
			SELECT ?1 ->> '$.id', ?1 ->> '$.of', '', ?1 ->> '$.removed_at', '', ?1 ->> '$.revision'`, d.Text)
		return err
	}
	const staged = 1
	if err := putRecord(ctx, t, d, staged, true); err != nil {
		return err
	}
	if d.Kind == Brews {
		if _, err := t.do(ctx, `INSERT OR IGNORE INTO photo_list (id, brew_id, added_at, by)
			SELECT p.value ->> '$.id', ?1, p.value ->> '$.added_at', p.value ->> '$.by' FROM json_each(?2, '$.photos') p`, d.ID, d.Text); err != nil {
			return err
		}
	}
	return readable(ctx, t, d)
}

// An InvalidError says why a record of a file cannot have been made by this program.
type InvalidError struct{ Err error }

func (e *InvalidError) Error() string { return e.Err.Error() }

// Unwrap returns the reason.
func (e *InvalidError) Unwrap() error { return e.Err }

// readable loads a staged record and returns an error if its columns cannot be decoded, an *InvalidError if the use cases cannot have
// made it, so that screens could not show it.
func readable(ctx context.Context, t *tx, d Document) (err error) {
	defer func() {
		if v := recover(); v != nil { // of a conversion: a file can contain anything
			err = fmt.Errorf("%s %s: %v", d.Kind, d.ID, v)
		}
	}()
	switch d.Kind {
	case Persons:
		var row personRow
		return t.get(ctx, &row, `SELECT `+personColumns+` FROM people WHERE id = ?`, d.ID)
	case Brews:
		b, err := loadBrew(ctx, t, d.ID)
		return valid(err, b.Valid)
	case Recipes:
		var row draftRow
		err := t.get(ctx, &row, `SELECT `+draftColumns+` FROM recipes WHERE id = ?`, d.ID)
		return valid(err, func() error { return row.draft().Recipe.Valid() })
	case Flights:
		f, err := stagedDocument(ctx, t, flights, d)
		return valid(err, f.Valid)
	case Trials:
		it, err := stagedDocument(ctx, t, trials, d)
		return valid(err, it.Valid)
	case Scripts:
		_, err := stagedDocument(ctx, t, scripts, d)
		return err
	case Rushes:
		r, err := stagedDocument(ctx, t, rushes, d)
		return valid(err, r.Valid)
	case Tries:
		_, err := stagedDocument(ctx, t, tries, d)
		return err
	}
	return nil // rows without embedded documents
}

// valid returns err, or the error of check as an *InvalidError.
func valid(err error, check func() error) error {
	if err != nil {
		return err
	}
	if err := check(); err != nil {
		return &InvalidError{err}
	}
	return nil
}

// stagedDocument returns a staged document of a kind.
func stagedDocument[T, D any](ctx context.Context, t *tx, of documents[T, D], d Document) (T, error) {
	var row documentRow[D]
	if err := t.get(ctx, &row, selectDocument, d.ID, d.Kind); err != nil {
		var none T
		return none, err
	}
	return of.load(row), nil
}

// PutReadings stages scale readings. Readings of unknown brews are dropped.
func (st *Staging) PutReadings(ctx context.Context, brewID string, readings []trace.Reading) error {
	return st.yard.transact(ctx, func(t *tx) error {
		_, err := t.do(ctx, `INSERT INTO brew_readings (brew_id, n, readings)
			SELECT ?1, COALESCE((SELECT MAX(n) + 1 FROM brew_readings WHERE brew_id = ?1), 0),
				?2 WHERE EXISTS (SELECT 1 FROM brews WHERE id = ?1)`, brewID, column[document.Trace]{document.OfTrace(readings)})
		return err
	})
}

// PutPhoto stages a JPEG photo for the brew that lists its id. A photo without a brew is dropped.
func (st *Staging) PutPhoto(ctx context.Context, id string, width, height int, small, full []byte) error {
	return st.yard.transact(ctx, func(t *tx) error {
		_, err := t.do(ctx, `INSERT OR IGNORE INTO photos (id, brew_id, width, height, added_at, by, small, full)
			SELECT id, brew_id, ?2, ?3, added_at, by, ?4, ?5 FROM photo_list WHERE id = ?1`, id, width, height, small, full)
		return err
	})
}

// An Action is the effect of an import on a record.
type Action string

// The actions.
const (
	Add     Action = "add"
	Change  Action = "change" // replace the current version
	Keep    Action = "keep"   // store as another version; the current one is newer
	Same    Action = "same"   // no change
	Delete  Action = "delete" // deleted in the other yard
	Refused Action = "refuse"
)

// Actions lists the actions.
func Actions() []Action { return []Action{Add, Change, Keep, Delete, Same, Refused} }

func decide(ctx context.Context, t *tx, d Document, a Action, why string) error {
	_, err := t.do(ctx, `INSERT INTO plan (kind, id, action, why) VALUES (?, ?, ?, ?)`, d.Kind, d.ID, a, why)
	return err
}

// A Count is the number of records with the same kind and action.
type Count struct {
	Kind    Kind   `db:"kind" json:"kind"`
	Action  Action `db:"action" json:"action"`
	Records int    `db:"records" json:"records"`
}

// A Decision is the action for one record, with its reason.
type Decision struct {
	Kind   Kind   `db:"kind" json:"kind"`
	ID     string `db:"id" json:"id"`
	Action Action `db:"action" json:"action"`
	Why    string `db:"why" json:"why,omitempty"`
}

// Plan determines the action for each staged record and returns the counts.
func (st *Staging) Plan(ctx context.Context) ([]Count, error) {
	for _, r := range records {
		var step []Document
		flush := func() error {
			err := st.planStep(ctx, r, step)
			step = step[:0]
			return err
		}
		err := st.yard.EachRecord(ctx, r.kind, time.Time{}, time.Time{}, func(d Document) error {
			if step = append(step, d); len(step) < transferStep {
				return nil
			}
			return flush()
		})
		if err == nil {
			err = flush()
		}
		if err != nil {
			return nil, err
		}
	}
	return st.counts(ctx)
}

// counts returns the number of records for each kind and action.
func (st *Staging) counts(ctx context.Context) ([]Count, error) {
	var out []Count
	err := st.yard.read.all(ctx, &out, `SELECT kind, action, COUNT(*) AS records FROM plan GROUP BY kind, action ORDER BY kind, action`)
	return out, err
}

// Decisions returns up to limit records with an action that has a reason.
func (st *Staging) Decisions(ctx context.Context, a Action, limit int) ([]Decision, error) {
	var out []Decision
	err := st.yard.read.all(ctx, &out, `SELECT kind, id, action, why FROM plan WHERE action = ? AND why <> '' ORDER BY n LIMIT ?`, a, limit)
	return out, err
}

// planStep plans records of one kind.
func (st *Staging) planStep(ctx context.Context, r record, staged []Document) error {
	if len(staged) == 0 {
		return nil
	}
	ids := make([]string, len(staged))
	for i, d := range staged {
		ids[i] = d.ID
	}
	here, err := stateOf(ctx, st.into.read, r.kind, ids)
	if err != nil {
		return err
	}
	return st.yard.transact(ctx, func(t *tx) error {
		for _, d := range staged {
			action, why := here.action(d)
			if action == Add || action == Change {
				missing, err := st.missing(ctx, t, d)
				if err != nil {
					return err
				}
				if missing != "" {
					action, why = Refused, missing
				} else if why == "" {
					if why, err = lostParent(ctx, t, d); err != nil {
						return err
					}
				}
			}
			if err := decide(ctx, t, d, action, why); err != nil {
				return err
			}
		}
		return nil
	})
}

// needs lists required references by kind: the field and the kind of the referenced record.
var needs = map[Kind]map[string]Kind{
	Brews:   {"bag": Bags},
	Recipes: {"bag": Bags, "brewer": Brewers, "grinder": Grinders, "kettle": Kettles, "water": Waters},
}

// missing returns a message for the first missing required reference of a staged record, or an empty string.
func (st *Staging) missing(ctx context.Context, t *tx, d Document) (string, error) {
	for name, kind := range needs[d.Kind] {
		var id reference
		if err := t.get(ctx, &id, `SELECT ? ->> ?`, d.Text, "$."+name); err != nil || id == "" {
			return "", err
		}
		query := `SELECT EXISTS (SELECT 1 FROM ` + recordOf(kind).table + ` WHERE id = ?)`
		var there bool
		if err := t.get(ctx, &there, query, string(id)); err != nil {
			return "", err
		}
		if !there {
			if err := st.into.read.get(ctx, &there, query, string(id)); err != nil {
				return "", err
			}
		}
		if there {
			continue
		}
		refused, err := isRefused(ctx, t, kind, string(id))
		if err != nil {
			return "", err
		}
		if refused {
			return fmt.Sprintf("its %s %q is refused", kind, string(id)), nil
		}
		return fmt.Sprintf("its %s %q is missing from the file and from this yard", kind, string(id)), nil
	}
	return "", nil
}

// lostParent returns a message for a record whose parent is refused, or an empty string.
func lostParent(ctx context.Context, t *tx, d Document) (string, error) {
	if d.Kind != Brews && d.Kind != Recipes {
		return "", nil
	}
	var parent reference
	if err := t.get(ctx, &parent, `SELECT ? ->> '$.parent'`, d.Text); err != nil || parent == "" {
		return "", err
	}
	refused, err := isRefused(ctx, t, Brews, string(parent))
	if err != nil || !refused {
		return "", err
	}
	return fmt.Sprintf("it comes without the brew before it, %q, which is refused", string(parent)), nil
}

// isRefused reports whether a record of the file is refused.
func isRefused(ctx context.Context, t *tx, kind Kind, id string) (refused bool, err error) {
	err = t.get(ctx, &refused, `SELECT EXISTS (SELECT 1 FROM plan WHERE kind = ? AND id = ? AND action = ?)`, kind, id, Refused)
	return refused, err
}

// recordState holds the yard's versions of some records, and their import history.
type recordState struct {
	current  map[string]Document
	imported map[string]importedRow
	removed  map[string]int64 // revision
	others   map[string]bool  // by id and hash
}

type importedRow struct {
	ID     string `db:"id"`
	Hash   []byte `db:"hash"`
	Became []byte `db:"became"`
}

func hashOf(text string) []byte {
	sum := sha256.Sum256([]byte(text))
	return sum[:]
}

func stateOf(ctx context.Context, q querier, kind Kind, ids []string) (*recordState, error) {
	list, err := json.Marshal(ids)
	if err != nil {
		return nil, err
	}
	s := &recordState{imported: map[string]importedRow{}, removed: map[string]int64{}, others: map[string]bool{}}
	if s.current, err = documentsOf(ctx, q, kind, ids); err != nil {
		return nil, err
	}
	if kind == Deleted { // the records that were deleted there
		for _, other := range RecordKinds() {
			if other == Deleted {
				continue
			}
			found, err := documentsOf(ctx, q, other, ids)
			if err != nil {
				return nil, err
			}
			for id, d := range found {
				if _, gone := s.current[id]; !gone {
					s.current[id] = d
				}
			}
		}
		return s, nil
	}
	var imported []importedRow
	if err := q.all(ctx, &imported, `SELECT id, hash, became FROM imported WHERE kind = ? AND id IN (SELECT value FROM json_each(?))`, kind,
		string(list)); err != nil {
		return nil, err
	}
	for _, row := range imported {
		s.imported[row.ID] = row
	}
	var removed []struct {
		ID       string `db:"id"`
		Revision int64  `db:"revision"`
	}
	if err := q.all(ctx, &removed, `SELECT id, revision FROM removed WHERE id IN (SELECT value FROM json_each(?))`, string(list)); err != nil {
		return nil, err
	}
	for _, row := range removed {
		s.removed[row.ID] = row.Revision
	}
	var others []importedRow
	if err := q.all(ctx, &others, `SELECT id, hash, hash AS became FROM other_versions WHERE kind = ? AND id IN (SELECT value FROM json_each(?))`, kind,
		string(list)); err != nil {
		return nil, err
	}
	for _, row := range others {
		s.others[row.ID+string(row.Hash)] = true
	}
	return s, nil
}

// action returns the action for a record of another yard, with a reason.
//
// Versions of a record are ordered by revision, then by the time of the last change. If the yard's version is unchanged since an earlier
// import, the new version replaces it. Otherwise both changed: the newer version becomes current and the older one is stored beside it.
func (s *recordState) action(d Document) (Action, string) {
	here, there := s.current[d.ID]
	if d.Kind == Deleted {
		switch {
		case !there:
			return Add, ""
		case here.Kind == Deleted:
			return Same, ""
		case here.Revision > d.Revision:
			return Same, "deleted elsewhere, but changed in this yard since"
		}
		return Delete, ""
	}
	if gone, deleted := s.removed[d.ID]; deleted && gone >= d.Revision {
		return Same, "deleted in this yard"
	}
	if !there {
		return Add, ""
	}
	hash, before := hashOf(d.Text), s.imported[d.ID]
	switch {
	case here.Text == d.Text, withoutTrace(here.Text) == d.Text, string(before.Hash) == string(hash), s.others[d.ID+string(hash)]:
		return Same, ""
	case before.Became != nil && string(before.Became) == string(hashOf(here.Text)):
		return Change, ""
	case newer(d, here):
		return Change, "changed in both yards; the version of this yard is kept for reference"
	}
	return Keep, "changed in both yards; the version of this yard is newer"
}

// readingsOf matches the number of readings in the document of a brew.
var readingsOf = regexp.MustCompile(`"readings":\d+`)

// withoutTrace returns the document of a brew as it is if its readings did not come with it, as in a file of one record.
func withoutTrace(text string) string {
	if at := readingsOf.FindStringIndex(text); at != nil {
		return text[:at[0]] + `"readings":0` + text[at[1]:]
	}
	return text
}

// newer reports whether a is newer than b.
func newer(a, b Document) bool {
	if a.Revision != b.Revision {
		return a.Revision > b.Revision
	}
	return lastChange(a) > lastChange(b)
}

// lastChange returns the latest time of change in a document, or an empty string.
func lastChange(d Document) string {
	var doc struct {
		ChangedAt   string `json:"changed_at"`
		EndedAt     string `json:"ended_at"`
		DeletedAt   string `json:"deleted_at"`
		ArchivedAt  string `json:"archived_at"`
		CountedAt   string `json:"counted_at"`
		Corrections []struct {
			At string `json:"at"`
		} `json:"corrections"`
	}
	_ = json.Unmarshal([]byte(d.Text), &doc) // valid: SQLite wrote it
	last := max(doc.ChangedAt, doc.EndedAt, doc.DeletedAt, doc.ArchivedAt, doc.CountedAt)
	for _, c := range doc.Corrections {
		last = max(last, c.At)
	}
	return last
}

// SaveTableMapping stores the column mapping for a set of headers. Old mappings are deleted.
func (s *Store) SaveTableMapping(ctx context.Context, headers, mapping string, now time.Time) error {
	const most = 50
	return s.transact(ctx, func(t *tx) error {
		return t.doAll(ctx, []statement{
			{`INSERT OR REPLACE INTO table_mappings (headers, mapping, saved_at) VALUES (?, ?, ?)`, []any{hashOf(headers), mapping, instant{now}}},
			{`DELETE FROM table_mappings WHERE headers NOT IN (SELECT headers FROM table_mappings ORDER BY saved_at DESC LIMIT ?)`, []any{most}},
		})
	})
}

// TableMapping returns the stored column mapping for a set of headers, or ErrNotFound.
func (s *Store) TableMapping(ctx context.Context, headers string) (mapping string, err error) {
	err = s.read.get(ctx, &mapping, `SELECT mapping FROM table_mappings WHERE headers = ?`, hashOf(headers))
	return mapping, err
}

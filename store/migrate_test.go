package store

import (
	"bytes"
	"database/sql"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"os"
	"path/filepath"
	"reflect"
	"strings"
	"testing"
	"testing/fstest"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/flight"
	"yardbloom/core/recipe"
	"yardbloom/core/trace"
)

// nextMigration is a sample of a future schema change.
const nextMigration = `-- +goose Up
ALTER TABLE brews ADD COLUMN next TEXT NOT NULL DEFAULT 'new';
UPDATE bags SET notes = notes || ' (migrated)';
-- +goose Down
ALTER TABLE brews DROP COLUMN next;
`

// A yard with a brew, events, readings and documents is migrated. Mutation caught: a migration that
// runs outside its transaction, or a program that does not run it.
func TestNextMigrationKeepsWhatWasEntered(t *testing.T) {
	t.Parallel()
	s, bagID, id := yard(t)
	before := start(t, s, id)
	must(t, errOf(tap(s, id, advance("next", 30))))
	must(t, s.AppendReadings(ctx, map[string][]trace.Reading{id: {{At: 1, Grams: 2}}}))
	must(t, s.AddFlight(ctx, flight.Flight{ID: "table", Name: "Blind"}, noon))
	files := fstest.MapFS{"00099_next.sql": {Data: []byte(nextMigration)}}
	names, err := fs.Glob(migrations, "*.sql")
	must(t, err)
	for _, name := range names {
		b, err := fs.ReadFile(migrations, name)
		must(t, err)
		files[name] = &fstest.MapFile{Data: b}
	}
	broken := maps.Clone(files)
	drop := strings.Replace(nextMigration, "-- +goose Down", "DROP TABLE nothing;\n-- +goose Down", 1)
	broken["00099_next.sql"] = &fstest.MapFile{Data: []byte(drop)}
	if err := migrate(ctx, s.write.DB.DB, broken, nil); err == nil {
		t.Error("a broken migration succeeds")
	}
	if b, err := s.Bag(ctx, bagID); err != nil || strings.Contains(b.Notes, "migrated") {
		t.Errorf("a broken migration leaves %q (%v)", b.Notes, err)
	}
	must(t, migrate(ctx, s.write.DB.DB, files, nil))
	var added string
	must(t, s.read.get(ctx, &added, `SELECT next FROM brews WHERE id = ?`, id))
	after, err := s.Brew(ctx, id)
	must(t, err)
	readings, err := s.Readings(ctx, id)
	must(t, err)
	table, err := s.Flight(ctx, "table")
	must(t, err)
	bag, err := s.Bag(ctx, bagID)
	must(t, err)
	if added != "new" || !strings.HasSuffix(bag.Notes, "(migrated)") {
		t.Errorf("it was not migrated: %q, %q", added, bag.Notes)
	}
	if len(after.Events) != len(before.Events)+1 || !reflect.DeepEqual(after.Recipe, before.Recipe) || len(readings) != 1 ||
		table.Name != "Blind" {
		t.Errorf("after the migration: %+v, %d readings, flight %+v", after, len(readings), table)
	}
	if err := migrate(ctx, s.write.DB.DB, migrations, nil); err == nil || !strings.Contains(err.Error(), "newer version of Yard Bloom") {
		t.Errorf("an older program opens it: %v", err)
	}
}

// A database from before the first release is refused with a sentence and not changed.
func TestOutdatedDatabaseIsRefused(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	s := open(t, dir)
	must(t, errOf(s.write.Exec(fmt.Sprintf(`UPDATE goose_db_version SET version_id = %d WHERE version_id = %d`, firstVersion-1,
		firstVersion))))
	must(t, errOf(s.write.Exec(fmt.Sprintf(`DELETE FROM goose_db_version WHERE version_id > %d`, firstVersion))))
	must(t, s.Close())
	_, err := Open(ctx, dir)
	var trouble *Trouble
	if !errors.As(err, &trouble) || !errors.Is(err, ErrOutdated) || !strings.Contains(trouble.Sentence, "before its first release") {
		t.Errorf("%v", err)
	}
}

func errOf[T any](_ T, err error) error { return err }

// Stored advice keeps its words even if the tables change.
func TestStoredAdviceKeepsItsWords(t *testing.T) {
	t.Parallel()
	s, _, id := yard(t)
	b := start(t, s, id)
	_, err := tap(s, id, brew.Event{Key: "end", Kind: brew.Finish, At: 200})
	must(t, err)
	said := coach.Advice{Rule: "a rule that is gone", Verdict: "As it was said then", Sure: coach.Perhaps,
		First: &coach.Proposal{Change: recipe.Change{Address: recipe.AddressOf(recipe.Grind), From: 650, To: 610}, Say: "2 clicks finer"}}
	_, err = s.Change(ctx, id, func(b brew.Brew) (brew.Brew, error) {
		b.Status, b.Tastings = brew.Done, []brew.Tasting{{Advice: &said}}
		return b, nil
	})
	must(t, err)
	got, err := s.Brew(ctx, id)
	must(t, err)
	if got.Advice.Verdict != said.Verdict || got.Advice.First.Say != said.First.Say || got.Advice.First.To != 610 ||
		*got.Forecast != *b.Forecast {
		t.Errorf("came back as %+v", got.Advice)
	}
}

// oldYard makes a yard with the previous schema, with a tasted and a running brew.
func oldYard(t *testing.T, dir string) {
	t.Helper()
	path := filepath.Join(dir, FileName)
	db, err := sql.Open("sqlite", path)
	must(t, err)
	first, err := fs.ReadFile(migrations, "00012_schema.sql")
	must(t, err)
	must(t, migrate(ctx, db, fstest.MapFS{"00012_schema.sql": {Data: first}}, nil))
	for _, statement := range []string{
		`INSERT INTO bags (id, name, roaster, process, roast, altitude, roasted_on, opened_on, weight, price, currency, notes, window_from, window_to)
			VALUES ('slate', 'Slate Terrace', '', 'washed', 2, 0, '2026-04-20', '', 250, 0, '', 'kept', 0, 0)`,
		`INSERT INTO brews (id, bag_id, status, bag_name, style, brewer_id, brewer_name, setting, dose, water, temperature, dose_used,
			drawdown, beverage, tds, yield, yield_error, overall, recipe, coffee, gear, plan, forecast, asked, cup, advice, created_at, started_at, zone)
			SELECT value ->> 0, 'slate', value ->> 1, 'Slate Terrace', 'three-rounds', 'cone', 'Cone', '30', 18, 297, 94, 18, 200, 260, 1.3, 19,
				0.5, 7, '{"v":3}', '{"v":3}', '{"v":3}', '{"v":3}', 'null', 'null', value -> 2, value -> 3, '2026-05-12T10:00:00.000Z',
				'2026-05-12T10:00:00.000Z', '+02:00'
			FROM json_each('[["tasted", "done",
				{"v":3,"tds_percent":1.3,"drawdown_s":200,"overall":7,"steps":{"acidity":5},"notes":"Sharp.","wants":["sweeter"],"bad_pour":true},
				{"v":3,"verdict":"Under-extracted","because":"","rule":"too little"}], ["running", "running", {"v":3}, null]]')`,
		`INSERT INTO brew_events (brew_id, n, key, kind, at, instant, mark, grams)
			VALUES ('running', 0, 'start', 'start', 0, '2026-05-12T10:00:00.000Z', '', 0)`,
	} {
		_, err := db.Exec(statement)
		must(t, err)
	}
	must(t, db.Close())
}

// A yard of the previous schema is copied aside and migrated by the server alone: tastings become the yard's, what was
// measured stays with the brew. Mutations caught: a command beside the server that migrates, a migration without a
// copy, a taste that is lost or counted twice.
func TestPreviousSchemaIsUpdatedByTheServerAlone(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	oldYard(t, dir)
	before, err := os.ReadFile(filepath.Join(dir, FileName))
	must(t, err)
	var trouble *Trouble
	if _, err := OpenCurrent(ctx, dir); !errors.As(err, &trouble) || !strings.Contains(trouble.Sentence, "start this version once") {
		t.Errorf("a command beside the server: %v", err)
	}
	copied := filepath.Join(t.TempDir(), "backup.db")
	if n, err := BackupOf(ctx, dir, copied); err != nil || n != 2 {
		t.Errorf("a backup: %d brews, %v", n, err)
	}
	if now, err := os.ReadFile(filepath.Join(dir, FileName)); err != nil || !bytes.Equal(now, before) {
		t.Errorf("the commands changed the yard: %v", err)
	}
	s, err := OpenAlone(ctx, dir)
	must(t, err)
	b, err := s.Brew(ctx, "tasted")
	must(t, err)
	if len(b.Tastings) != 1 || b.Cup.Overall != 7 || b.Cup.Notes != "Sharp." || !b.Cup.BadPour || b.Cup.TDS != 1.3 || b.Advice.Verdict != "Under-extracted" ||
		len(b.Cup.Wants) != 1 || b.For("ada").Cup.IsRecorded() || !b.For("ada").Cup.BadPour {
		t.Errorf("the tasted brew: %+v, %d tastings", b.Cup, len(b.Tastings))
	}
	if running, err := s.Brew(ctx, "running"); err != nil || len(running.Tastings) != 0 || len(running.Events) != 1 {
		t.Errorf("the running brew: %+v, %v", running.Tastings, err)
	}
	kept := s.OldCopy
	must(t, s.Close())
	if _, err := OpenCurrent(ctx, dir); err != nil {
		t.Errorf("afterwards: %v", err)
	}
	// Back again: the copy is a whole yard of the previous schema.
	back := t.TempDir()
	if _, _, err := Restore(ctx, kept, back, false, noon); err != nil {
		t.Fatalf("the copy %q: %v", kept, err)
	}
	db, err := sql.Open("sqlite", filepath.Join(back, FileName))
	must(t, err)
	defer db.Close()
	var overall int
	if err := db.QueryRow(`SELECT overall FROM brews WHERE id = 'tasted'`).Scan(&overall); err != nil || overall != 7 {
		t.Errorf("in the copy: %d, %v", overall, err)
	}
}

package store

import (
	"errors"
	"fmt"
	"io/fs"
	"maps"
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
	if err := migrate(ctx, s.write.DB.DB, broken); err == nil {
		t.Error("a broken migration succeeds")
	}
	if b, err := s.Bag(ctx, bagID); err != nil || strings.Contains(b.Notes, "migrated") {
		t.Errorf("a broken migration leaves %q (%v)", b.Notes, err)
	}
	must(t, migrate(ctx, s.write.DB.DB, files))
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
	if err := migrate(ctx, s.write.DB.DB, migrations); err == nil || !strings.Contains(err.Error(), "newer version of Yard Bloom") {
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

package store

import (
	"bytes"
	"database/sql"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/pressly/goose/v3"

	"yardbloom/core/brew"
)

// trouble fails the test unless err is a *Trouble with a text in its sentence.
func trouble(t *testing.T, what string, err error, says string) {
	t.Helper()
	var met *Trouble
	if !errors.As(err, &met) || !strings.Contains(met.Sentence, says) {
		t.Errorf("%s: %v, want a sentence with %q", what, err, says)
	}
}

// A problem while the program runs is reported as at start, nothing is half saved, and later writes
// succeed.
func TestTroubleWhileServing(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct{ begin, end, says string }{
		"the disk is full":  {`PRAGMA max_page_count = 1`, `PRAGMA max_page_count = 1000000`, "is full"},
		"it became closed":  {`PRAGMA query_only = 1`, `PRAGMA query_only = 0`, "is not writable"},
		"another has begun": {``, ``, "locked by another program"},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			s, _, id := yard(t)
			start(t, s, id)
			end := func() { _, err := s.write.Exec(c.end); must(t, err) }
			if c.begin == "" {
				other, err := sql.Open("sqlite", address(s.path)+"?_txlock=immediate")
				must(t, err)
				defer other.Close()
				holds, err := other.Begin()
				must(t, err)
				end = func() { must(t, holds.Rollback()) }
			} else {
				_, err := s.write.Exec(c.begin)
				must(t, err)
			}
			_, err := s.Change(ctx, id, func(b brew.Brew) (brew.Brew, error) {
				e := advance("before", 3)
				e.Note = strings.Repeat("a note that needs pages of its own ", 4000)
				return b.Apply(e, noon.Add(3*time.Second))
			})
			trouble(t, name, err, c.says)
			end()
			if kept, err := s.Brew(ctx, id); err != nil || len(kept.Events) != 1 || kept.Version != 1 {
				t.Errorf("partly stored: %d events, version %d, %v", len(kept.Events), kept.Version, err)
			}
			if _, err := tap(s, id, advance("after", 4)); err != nil {
				t.Errorf("afterwards: %v", err)
			}
		})
	}
}

// A removed file stays writable for the program that has it open. Mutation caught: no check of the path,
// which acknowledges taps that are gone at the next start.
func TestRemovedFileAcknowledgesNothing(t *testing.T) {
	t.Parallel()
	for name, remove := range map[string]func(t *testing.T, path string){
		"deleted": func(t *testing.T, path string) { must(t, os.Remove(path)) },
		"replaced": func(t *testing.T, path string) {
			must(t, copyFile(path, path+".new"))
			must(t, os.Rename(path+".new", path))
		},
		"moved":   func(t *testing.T, path string) { must(t, os.Rename(path, path+".old")) },
		"its log": func(t *testing.T, path string) { must(t, os.Remove(path+"-wal")) },
	} {
		s, _, id := yard(t)
		start(t, s, id)
		remove(t, s.path)
		_, err := tap(s, id, advance("tap", 3))
		trouble(t, name+": a tap", err, "removed or replaced")
		_, err = s.Settings(ctx, "")
		trouble(t, name+": a page", err, "removed or replaced")
	}
}

// Mutations caught: a check that blocks Open, damage that is found and ignored, a clean end that
// counts as unclean.
func TestDamagedDatabaseIsReported(t *testing.T) {
	t.Parallel()
	s, bagID, _ := yard(t)
	killed := t.TempDir() // the state after a kill
	path := filepath.Join(killed, FileName)
	for _, end := range []string{"", "-wal"} {
		must(t, copyFile(s.path+end, path+end))
	}
	dir := filepath.Dir(s.path)
	must(t, s.Close())
	clean, err := Open(ctx, dir)
	must(t, err)
	if clean.Unclean {
		t.Error("a database that was closed counts as left open")
	}
	must(t, clean.Check(ctx))
	must(t, clean.Close())

	// Fold the log into the file, then damage an index that Open does not read.
	whole, err := Open(ctx, killed)
	must(t, err)
	if !whole.Unclean {
		t.Error("a database that was left open counts as closed")
	}
	var root int
	must(t, whole.read.Get(&root, `SELECT rootpage FROM sqlite_schema WHERE name = 'brews_of_bag'`))
	must(t, whole.Close())
	b, err := os.ReadFile(path)
	must(t, err)
	const page = 4096
	copy(b[(root-1)*page:], bytes.Repeat([]byte{0xa5}, page))
	must(t, os.WriteFile(path, b, 0o600))
	broken, err := Open(ctx, killed)
	must(t, err)
	defer broken.Close()
	_, err = broken.Bag(ctx, bagID)
	trouble(t, "a damaged page that is read", err, "is damaged")
	_, err = broken.Settings(ctx, "")
	must(t, err)
	trouble(t, "the check", broken.Check(ctx), "is damaged")
	_, err = broken.Settings(ctx, "")
	trouble(t, "a page after the check", err, "is damaged")
}

// A database of another program is not changed, with any files left by a crash.
func TestForeignDatabaseIsNotChanged(t *testing.T) {
	t.Parallel()
	for name, statements := range map[string]string{
		"tables":            `CREATE TABLE plants (name TEXT)`,
		"with a log":        `PRAGMA journal_mode = WAL; CREATE TABLE plants (name TEXT)`,
		"a table like ours": `CREATE TABLE bags (name TEXT)`,
		"a mark of its own": `PRAGMA application_id = 7; CREATE TABLE bags (n); CREATE TABLE brews (n); CREATE TABLE brew_events (n);
			CREATE TABLE goose_db_version (n)`,
		"a mark, no table":    `PRAGMA application_id = 7; CREATE TABLE t (n); DROP TABLE t`,
		"everything in a log": `PRAGMA journal_mode = WAL; PRAGMA wal_autocheckpoint = 0; CREATE TABLE plants (name TEXT)`,
	} {
		dir := t.TempDir()
		path := filepath.Join(dir, FileName)
		db, err := sql.Open("sqlite", address(path))
		must(t, err)
		_, err = db.Exec(statements)
		must(t, err)
		if name == "everything in a log" { // as left by a killed program
			killed := t.TempDir()
			for _, end := range []string{"", "-wal"} {
				must(t, copyFile(path+end, filepath.Join(killed, FileName+end)))
			}
			dir, path = killed, filepath.Join(killed, FileName)
		}
		must(t, db.Close())
		before, err := os.ReadFile(path)
		must(t, err)
		_, err = Open(ctx, dir)
		trouble(t, name, err, "belongs to another program")
		if after, err := os.ReadFile(path); err != nil || !bytes.Equal(before, after) {
			t.Errorf("%s: the file changed, %v", name, err)
		}
	}
}

// Opening a yard while its program writes, ends and begins again never reports damage. Mutation caught:
// reading without SQLite's locks, in the middle of a checkpoint.
func TestYardInUseIsNotReportedAsDamaged(t *testing.T) {
	t.Parallel()
	s, bag, _ := yard(t)
	dir, path := filepath.Dir(s.path), s.path
	must(t, s.Close())
	stop, stopped := make(chan bool), make(chan error)
	go func() {
		for i := 0; ; i++ {
			select {
			case <-stop:
				stopped <- nil
				return
			default:
			}
			s, err := Open(ctx, dir)
			if err == nil {
				var b Bag
				if b, err = s.Bag(ctx, bag); err == nil {
					b.Notes = strings.Repeat("a note that needs pages of its own ", 300*(1+i%5))
					err = s.SaveBag(ctx, b)
				}
				err = errors.Join(err, s.Close())
			}
			if err != nil {
				stopped <- err
				return
			}
		}
	}()
	looks := 0
	for end := time.Now().Add(time.Second); time.Now().Before(end); looks++ {
		if err := checkOwner(ctx, path); err != nil {
			t.Errorf("look %d: %v", looks, explain(path, err))
			break
		}
	}
	close(stop)
	if err := <-stopped; err != nil {
		t.Error(err)
	}
}

// A first start that was killed after creating the version table is repeated.
func TestYardKilledBeforeItsTablesIsRecognized(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	db, err := sql.Open("sqlite", address(filepath.Join(dir, FileName)))
	must(t, err)
	p, err := goose.NewProvider(goose.DialectSQLite3, db, migrations)
	must(t, err)
	_, err = p.GetDBVersion(ctx) // creates the table
	must(t, err)
	must(t, db.Close())
	if s := open(t, dir); !s.New {
		t.Error("it is not new")
	}
}

// A killed yard with all its data in the log is recognized and complete.
func TestKilledYardIsRecognized(t *testing.T) {
	t.Parallel()
	s, _, id := yard(t)
	start(t, s, id)
	killed := t.TempDir()
	for _, end := range []string{"", "-wal"} {
		must(t, copyFile(s.path+end, filepath.Join(killed, FileName+end)))
	}
	if _, err := open(t, killed).Brew(ctx, id); err != nil {
		t.Error(err)
	}
}

// Looking up a session does not wait for the writer.
func TestSessionsDoNotWaitForTheWriter(t *testing.T) {
	t.Parallel()
	s := open(t, t.TempDir())
	keep := s.Sessions()
	must(t, keep.Commit("token", []byte("who"), time.Now().Add(time.Hour)))
	holds, err := s.write.Begin()
	must(t, err)
	found := make(chan bool)
	go func() {
		data, there, err := keep.Find("token")
		found <- err == nil && there && string(data) == "who"
	}()
	select {
	case ok := <-found:
		if !ok {
			t.Error("the session was not found")
		}
	case <-time.After(writeTimeout):
		t.Error("finding a session waits for the writer")
	}
	must(t, holds.Rollback())
}

// Temporary files that a killed program left are removed at the next start. Mutation caught: uploads of half a gigabyte that stay for ever.
func TestTemporaryFilesAreRemovedAtTheStart(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	s, err := OpenAlone(ctx, dir)
	must(t, err)
	folder, err := s.TempDir()
	must(t, err)
	left := filepath.Join(folder, "upload-1")
	must(t, os.WriteFile(left, []byte("half"), 0o600))
	if free, err := s.Free(); err != nil || free == 0 {
		t.Errorf("%d bytes free, %v", free, err)
	}
	must(t, s.Close())
	s, err = OpenAlone(ctx, dir)
	must(t, err)
	defer s.Close()
	if _, err := os.Stat(left); !errors.Is(err, os.ErrNotExist) {
		t.Errorf("it is still there: %v", err)
	}
}

// Package store keeps everything that people enter in one SQLite file.
//
// There is one writer and a pool of readers over a write-ahead log, so that a
// reader never waits and a write is on disk before it is acknowledged. What is
// kept has a file of its own here; its tables are in migrations/.
package store

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"
	"slices"

	"github.com/jmoiron/sqlx"
)

// FileName is the name of the database in a data folder.
const FileName = "yardbloom.db"

var (
	// ErrNotFound is returned for an id that does not exist or was deleted.
	ErrNotFound = errors.New("not found")
	// ErrConflict is returned where somebody else saved since the record was read.
	ErrConflict = errors.New("changed by somebody else since it was read")
)

// A Store is an open database. It is safe for concurrent use.
type Store struct {
	write *pool // one connection
	read  *pool // connections that cannot write
	path  string
	// New says that nothing was entered in the database yet: Open made it, or an
	// earlier start was ended before it put anything in.
	New bool
	// Unclean reports that the last process did not close the database, or still has it open.
	// Call Check to verify the file.
	Unclean bool
}

// Open opens the database in a data folder, or makes a new one where the folder
// is missing or empty. A database that is missing from a folder with other
// files in it, cannot be written, is in use by a writer that does not let go, is
// belongs to another program or comes from a newer version is a *Trouble. Open does not read
// the whole file; see Check.
func Open(ctx context.Context, dir string) (*Store, error) {
	path := filepath.Join(dir, FileName)
	if err := prepare(dir, path); err != nil {
		return nil, err
	}
	if err := ours(ctx, path); err != nil {
		return nil, explain(path, err)
	}
	s := &Store{path: path, Unclean: logLeft(path)}
	if err := s.open(ctx); err != nil {
		s.Close()
		return nil, explain(path, err)
	}
	return s, nil
}

func (s *Store) open(ctx context.Context) error {
	const pragmas = "_pragma=busy_timeout(3000)&_pragma=foreign_keys(1)&_pragma=synchronous(FULL)"
	file := address(s.path) + "?" + pragmas
	write, err := sqlx.Open("sqlite", file+"&_pragma=journal_mode(WAL)&_txlock=immediate")
	if err != nil {
		return err
	}
	write.SetMaxOpenConns(1)
	s.write = &pool{DB: write}
	if err := s.begin(ctx); err != nil {
		return err
	}
	if s.write.file, err = watch(s.path); err != nil {
		return err
	}
	read, err := sqlx.Open("sqlite", file+"&_pragma=query_only(1)")
	if err != nil {
		return err
	}
	const readers = 8
	s.read = &pool{DB: read, file: s.write.file}
	s.read.SetMaxOpenConns(readers)
	s.read.SetMaxIdleConns(readers) // so that prepared statements stay
	return s.read.get(ctx, &s.New, `SELECT NOT EXISTS (SELECT 1 FROM brewers) AND NOT EXISTS (SELECT 1 FROM grinders) AND NOT EXISTS (SELECT 1 FROM kettles) AND NOT EXISTS (SELECT 1 FROM bags)`)
}

// begin migrates the database to the newest schema and verifies that it is writable.
func (s *Store) begin(ctx context.Context) error {
	if err := migrate(ctx, s.write.DB.DB); err != nil {
		return err
	}
	_, err := s.write.ExecContext(ctx, "UPDATE settings SET id = 1 WHERE id = 1; DELETE FROM sessions WHERE expiry < julianday('now'); PRAGMA optimize=0x10002")
	return err
}

// beside are the files that the program itself puts into a data folder.
var beside = []string{DemoMark, BackupFolder}

const (
	// DemoMark is the file that tells a folder of demo data from somebody's own yard.
	DemoMark = "demo-data.txt"
	// BackupFolder is where a yard keeps its own backups.
	BackupFolder = "backups"
)

// address is how SQLite is told a path: without it, a # or a ? would end the path.
func address(path string) string { return "file:" + (&url.URL{Path: path}).EscapedPath() }

// prepare checks that there is a database that can be written, or makes the folder
// for a new one.
func prepare(dir, path string) error {
	info, err := os.Stat(path)
	switch {
	case err == nil && info.Mode().Perm()&0o200 == 0:
		return &Trouble{Sentence: fmt.Sprintf("The database %s may not be written. Make it writable (chmod u+w %[1]s), or start with another folder after --data.", path)}
	case err == nil:
		return nil
	case !errors.Is(err, fs.ErrNotExist):
		return &Trouble{fmt.Sprintf("The database %s cannot be reached: %v. Check the folder after --data.", path, err), err}
	}
	entries, _ := os.ReadDir(dir)
	if slices.ContainsFunc(entries, func(e fs.DirEntry) bool { return !slices.Contains(beside, e.Name()) }) {
		return &Trouble{Sentence: fmt.Sprintf("There is no %s in %s, though there are other files. Check the folder after --data, put the database back from a backup, or name an empty folder to begin a new yard.", FileName, dir)}
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return &Trouble{fmt.Sprintf("The folder %s cannot be made: %v. Choose another after --data.", dir, err), err}
	}
	// SQLite would make a file that others on the machine can read; its log takes the rights of the file.
	f, err := os.OpenFile(path, os.O_CREATE|os.O_WRONLY, 0o600)
	if err != nil {
		return &Trouble{fmt.Sprintf("The database %s cannot be made: %v. Choose another folder after --data.", path, err), err}
	}
	return f.Close()
}

// Close closes the database.
func (s *Store) Close() error {
	var errs []error
	for _, p := range []*pool{s.read, s.write} {
		if p != nil {
			errs = append(errs, p.Close())
		}
	}
	return errors.Join(errs...)
}

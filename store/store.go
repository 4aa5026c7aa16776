// Package store keeps all data in one SQLite file.
//
// There is one writer and a pool of readers over a write-ahead log, so that a reader never waits and a
// write is on disk before it is acknowledged. There is one file per kind of record; the tables are in
// migrations/.
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
	"strings"

	"github.com/gofrs/flock"
	"github.com/jmoiron/sqlx"
)

// FileName is the name of the database in a data folder.
const FileName = "yardbloom.db"

var (
	// ErrNotFound is returned for an id that does not exist or was deleted.
	ErrNotFound = errors.New("not found")
	// ErrRunning is returned for a deletion of a brew that is being poured.
	ErrRunning = errors.New("the brew is being poured")
	// ErrConflict is returned if the record was saved since it was read.
	ErrConflict = errors.New("changed by another writer since it was read")
)

// A Store is an open database. It is safe for concurrent use.
type Store struct {
	write   *pool // one connection
	read    *pool // connections that cannot write
	path    string
	counted counters
	// New is true if nothing was entered yet: Open created the database, or an earlier start ended before
	// it added anything.
	New bool
	// Unclean reports that the last process did not close the database, or still has it open.
	// Call Check to verify the file.
	Unclean bool
	// OldCopy is the copy of the database from before Open migrated it; empty if it had the newest schema.
	OldCopy string
	lock    *flock.Flock // nil unless it was opened by OpenAlone
	// checkpointing is the pragma that sets when the log is moved into the database; empty for SQLite's default.
	checkpointing string
	loose         bool // a staging, whose records may refer to records that it does not have, and that is lost with the power
}

// An Option changes how a database is opened.
type Option func(*Store)

// Replicated leaves the write-ahead log to a program that replicates it, which moves it into the database itself.
func Replicated(s *Store) { s.checkpointing = "&_pragma=wal_autocheckpoint(0)" }

// Open opens the database in a data folder, or creates one if the folder is missing or empty. It returns a
// *Trouble for a database that is missing from a folder with other files, is not writable, is locked by
// another writer, belongs to another program, or comes from a newer version. Open does not read the whole
// file; see Check.
func Open(ctx context.Context, dir string, options ...Option) (*Store, error) {
	path := filepath.Join(dir, FileName)
	if err := prepare(dir, path); err != nil {
		return nil, err
	}
	if err := checkOwner(ctx, path); err != nil {
		return nil, explain(path, err)
	}
	s := &Store{path: path, Unclean: logLeft(path)}
	for _, option := range options {
		option(s)
	}
	if err := s.open(ctx); err != nil {
		s.Close()
		return nil, explain(path, err)
	}
	return s, nil
}

func (s *Store) open(ctx context.Context) error {
	pragmas := "_pragma=busy_timeout(3000)&_pragma=foreign_keys(1)&_pragma=synchronous(FULL)"
	if s.loose {
		pragmas = "_pragma=busy_timeout(3000)&_pragma=synchronous(OFF)"
	}
	file := address(s.path) + "?" + pragmas
	write, err := sqlx.Open("sqlite", file+"&_pragma=journal_mode(WAL)&_txlock=immediate"+s.checkpointing)
	if err != nil {
		return err
	}
	write.SetMaxOpenConns(1)
	s.write = &pool{DB: write, counted: &s.counted}
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
	s.read = &pool{DB: read, file: s.write.file, counted: &s.counted}
	s.read.SetMaxOpenConns(readers)
	s.read.SetMaxIdleConns(readers) // keeps prepared statements
	return s.read.get(ctx, &s.New, `SELECT NOT EXISTS (SELECT 1 FROM brewers) AND NOT EXISTS (SELECT 1 FROM grinders) AND
		NOT EXISTS (SELECT 1 FROM kettles) AND NOT EXISTS (SELECT 1 FROM bags)`)
}

// begin migrates the database to the newest schema and verifies that it is writable.
func (s *Store) begin(ctx context.Context) error {
	err := migrate(ctx, s.write.DB.DB, migrations, func(schema int64) (err error) {
		s.OldCopy, err = keepOldCopy(ctx, s.path, schema)
		return err
	})
	if err != nil {
		return err
	}
	_, err = s.write.ExecContext(ctx, "UPDATE settings SET id = 1 WHERE id = 1; DELETE FROM sessions WHERE expiry < julianday('now'); "+
		"PRAGMA optimize=0x10002")
	return err
}

// ownFiles lists the files that the program itself puts into a data folder.
var ownFiles = []string{DemoMark, BackupFolder, lockName}

const (
	// DemoMark is the name of the file that marks a folder of demo data.
	DemoMark = "demo-data.txt"
	// BackupFolder is the folder of daily backups.
	BackupFolder = "backups"
	// StagingPrefix begins the names of folders of imports.
	StagingPrefix = "import-"
)

// address returns a path as a SQLite URI. Unescaped, a # or a ? would end the path.
func address(path string) string { return "file:" + (&url.URL{Path: path}).EscapedPath() }

// prepare checks that there is a writable database, or creates the folder for a new one.
func prepare(dir, path string) error {
	info, err := os.Stat(path)
	switch {
	case err == nil && info.Mode().Perm()&0o200 == 0:
		return &Trouble{Sentence: fmt.Sprintf("The database %s is not writable. Make it writable (chmod u+w %[1]s), or start with "+
			"another folder after --data.", path)}
	case err == nil:
		return nil
	case !errors.Is(err, fs.ErrNotExist):
		return &Trouble{fmt.Sprintf("The database %s cannot be reached: %v. Check the folder after --data.", path, err), err}
	}
	entries, _ := os.ReadDir(dir)
	if slices.ContainsFunc(entries, func(e fs.DirEntry) bool {
		return !slices.Contains(ownFiles, e.Name()) && !strings.HasPrefix(e.Name(), StagingPrefix)
	}) {
		return &Trouble{Sentence: fmt.Sprintf("There is no %s in %s, though there are other files. Check the folder after --data, put "+
			"the database back from a backup, or name an empty folder to create a new yard.", FileName, dir)}
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return &Trouble{fmt.Sprintf("The folder %s cannot be created: %v. Choose another after --data.", dir, err), err}
	}
	// SQLite would create a file readable by other users; its log gets the permissions of the file.
	f, err := os.OpenFile(path, os.O_CREATE|os.O_WRONLY, 0o600)
	if err != nil {
		return &Trouble{fmt.Sprintf("The database %s cannot be created: %v. Choose another folder after --data.", path, err), err}
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
	if s.lock != nil {
		errs = append(errs, s.lock.Close())
	}
	return errors.Join(errs...)
}

// Ready reports whether the yard can be read; nil if it can.
func (s *Store) Ready(ctx context.Context) error {
	var one int
	return s.read.get(ctx, &one, `SELECT 1 FROM settings`)
}

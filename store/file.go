package store

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"runtime"
	"sync/atomic"

	"github.com/gofrs/flock"
	"github.com/jmoiron/sqlx"
	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"

	"yardbloom/store/disk"
)

// applicationID marks a database as a yard in its header, where SQLite keeps the id of the application. The
// first migration sets it.
const applicationID = 0x59426c6d // "YBlm"

// checkOwner returns a *Trouble for a database of another program. It does not write to the file.
func checkOwner(ctx context.Context, path string) error {
	h, err := readHeader(ctx, path)
	switch {
	case err != nil:
		return err
	case h.ID == applicationID, h.ID == 0 && h.Tables == h.Begun: // empty, or killed before its first table
		return nil
	case h.ID == 0 && h.YardTables == yardTables:
		return outdated("no mark")
	}
	return &Trouble{Sentence: fmt.Sprintf("The database %s belongs to another program. It was not changed. Start with another folder "+
		"after --data.", path)}
}

// readHeader reads the header of a file. If there is a write-ahead log, another process may be writing or was
// killed: it uses SQLite's locks and includes the log. Otherwise it reads the file directly, without taking
// a lock.
func readHeader(ctx context.Context, path string) (header, error) {
	if _, err := os.Stat(path + "-wal"); err != nil {
		if h, err := queryHeader(ctx, address(path)+"?immutable=1"); err == nil {
			return h, nil
		}
	}
	return queryHeader(ctx, address(path)+"?mode=ro&_pragma=busy_timeout(3000)")
}

// A header identifies a database.
type header struct {
	ID     int64 `db:"id"`
	Tables int   `db:"tables"`
	// Yard counts tables that every yard has. The first ones had no application ID.
	YardTables int `db:"yard"`
	// Begun counts the table that a first start makes before all others.
	Begun int `db:"begun"`
}

const yardTables = 4

// queryHeader reads the header of a database at an address.
func queryHeader(ctx context.Context, address string) (h header, err error) {
	db, err := sqlx.Open("sqlite", address)
	if err != nil {
		return h, err
	}
	err = db.GetContext(ctx, &h, `
		SELECT (SELECT application_id FROM pragma_application_id) AS id, COUNT(*) AS tables,
			COUNT(*) FILTER (WHERE name IN ('bags', 'brews', 'brew_events', 'goose_db_version')) AS yard,
			COUNT(*) FILTER (WHERE name = 'goose_db_version') AS begun
		FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%'`)
	return h, errors.Join(err, db.Close())
}

// A watcher detects that the opened file was removed or replaced. Such a file stays readable and writable
// for the program that has it open, and everything written to it is lost with the last connection.
type watcher struct {
	path    string
	opened  fs.FileInfo
	logged  bool                    // has a write-ahead log, which SQLite removes with the last connection only
	damaged atomic.Pointer[Trouble] // damage found by Check
}

func watch(path string) (*watcher, error) {
	info, err := os.Stat(path)
	_, noLog := os.Stat(path + "-wal")
	return &watcher{path: path, opened: info, logged: noLog == nil}, err
}

// verify returns a *Trouble if Check found damage, or if the file at the path or its log is no
// longer the one that was opened.
func (w *watcher) verify() error {
	if found := w.damaged.Load(); found != nil {
		return found
	}
	info, err := os.Stat(w.path)
	if err == nil && w.logged {
		_, err = os.Stat(w.path + "-wal")
	}
	switch {
	case errors.Is(err, fs.ErrNotExist), err == nil && !os.SameFile(info, w.opened):
		return &Trouble{fmt.Sprintf("The database %s was removed or replaced while the program ran. Stop it, put the file back or "+
			"restore a backup, then start again.", w.path), err}
	case err != nil:
		return &Trouble{fmt.Sprintf("The database %s cannot be reached. Check the disk and the folder.", w.path), err}
	}
	return nil
}

// logLeft reports whether a database has a non-empty write-ahead log. SQLite removes the log when the last
// process closes the database.
func logLeft(path string) bool {
	info, err := os.Stat(path + "-wal")
	return err == nil && info.Size() > 0
}

// Check verifies the whole database. If it is damaged, Check returns a *Trouble, and so does every later
// statement. It takes about 15 s per gigabyte and does not block other statements; run it in the background
// after an unclean end.
func (s *Store) Check(ctx context.Context) error {
	own, err := sqlx.Open("sqlite", address(s.path)+"?mode=ro&_pragma=busy_timeout(3000)")
	if err != nil {
		return err
	}
	defer own.Close()
	var said string
	if err = own.GetContext(ctx, &said, `PRAGMA quick_check(1)`); err == nil && said != "ok" {
		err = &Trouble{fmt.Sprintf(isBroken, s.path), fmt.Errorf("quick check: %s", said)}
	}
	err = explain(s.path, err)
	var found *Trouble
	if errors.As(err, &found) && found.Sentence == fmt.Sprintf(isBroken, s.path) {
		s.read.file.damaged.Store(found)
	}
	return err
}

// Exposed returns the paths in a data folder that other users of the machine can access: the folder, the
// database and its log, and the backups.
func Exposed(dir string) []string {
	if runtime.GOOS == "windows" {
		return nil // Windows does not use permission bits
	}
	names := []string{"", FileName, FileName + "-wal", FileName + "-shm", BackupFolder}
	backups, _ := ownBackups(filepath.Join(dir, BackupFolder)) // none without the folder
	for _, b := range backups {
		names = append(names, filepath.Join(BackupFolder, b))
	}
	var out []string
	for _, name := range names {
		path := filepath.Join(dir, name)
		const others = 0o077
		if info, err := os.Stat(path); err == nil && info.Mode().Perm()&others != 0 {
			out = append(out, path)
		}
	}
	return out
}

// lockName is the name of the file that the program that serves a yard has locked. The database itself cannot carry
// the lock: closing any descriptor of it would drop SQLite's own locks.
const lockName = "yardbloom.lock"

// OpenAlone opens a yard that this program serves until Close. It returns a *Trouble if another program serves it.
// The lock ends with the process, however it ends.
func OpenAlone(ctx context.Context, dir string, options ...Option) (*Store, error) {
	_, err := os.Stat(filepath.Join(dir, FileName))
	var held *flock.Flock
	if err == nil { // before Open, which may migrate it; a folder without a yard is checked by Open first
		if held, err = lockYard(dir); err != nil {
			return nil, err
		}
	}
	s, err := Open(ctx, dir, options...)
	if err == nil && held == nil {
		if held, err = lockYard(dir); err != nil {
			err = errors.Join(err, s.Close())
		}
	}
	if err != nil {
		if held != nil {
			err = errors.Join(err, held.Close())
		}
		return nil, err
	}
	s.lock = held
	return s, os.RemoveAll(s.tempDir()) // what a killed process left there
}

// TempDir returns the folder for uploads and downloads in progress, in the data folder, and makes it if it is missing. OpenAlone
// removes what a killed process left in it.
func (s *Store) TempDir() (string, error) { return s.tempDir(), os.MkdirAll(s.tempDir(), 0o700) }

func (s *Store) tempDir() string { return filepath.Join(s.dir(), "temporary") }

// Free returns the number of bytes that can still be written to the disk with the yard.
func (s *Store) Free() (uint64, error) { return disk.Free(s.dir()) }

// NotServed returns a *Trouble if a program serves the yard in a folder.
func NotServed(dir string) error {
	if _, err := os.Stat(filepath.Join(dir, lockName)); err != nil {
		return nil // never served
	}
	lock, err := lockYard(dir)
	if err != nil {
		return err
	}
	return lock.Close()
}

func lockYard(dir string) (*flock.Flock, error) {
	lock := flock.New(filepath.Join(dir, lockName), flock.SetPermissions(0o600))
	locked, err := lock.TryLock()
	if err == nil && !locked {
		err = &Trouble{Sentence: fmt.Sprintf("Another program serves the yard in %s. Stop it first, or start with another folder after --data.", dir)}
	}
	if err != nil {
		return nil, errors.Join(err, lock.Close())
	}
	return lock, nil
}

// A Trouble is a reason why the database cannot be used, with advice for the person. A write that returns
// it has stored nothing.
type Trouble struct {
	Sentence string
	Err      error // nil if there is no underlying error
}

func (e *Trouble) Error() string { return e.Sentence }
func (e *Trouble) Unwrap() error { return e.Err }

const (
	inUse    = "The database %s is locked by another program. Close it, then try again."
	isBusy   = "The yard is busy: it got more to store than it can write at once. Nothing was changed; try again in a moment."
	isClosed = "The database %s is not writable. Check the permissions of the file and its folder."
	isBroken = "The database %s is damaged. Keep the file, and put back a backup (yardbloom restore)."
)

// troubles maps primary result codes of SQLite to advice.
var troubles = map[int]string{
	sqlite3.SQLITE_BUSY:     inUse,
	sqlite3.SQLITE_LOCKED:   inUse,
	sqlite3.SQLITE_READONLY: isClosed,
	sqlite3.SQLITE_PERM:     isClosed,
	sqlite3.SQLITE_CANTOPEN: "The database %s cannot be opened. Check the permissions of the file and its folder.",
	sqlite3.SQLITE_NOTADB:   "The file %s is not a database. Put it back from a backup, or start with another folder after --data.",
	sqlite3.SQLITE_CORRUPT:  isBroken,
	sqlite3.SQLITE_FULL:     "The disk with the database %s is full. Make room, then try again.",
	sqlite3.SQLITE_IOERR:    "The disk with the database %s cannot be read or written. Check the disk, then try again.",
}

// explain converts an SQLite error to a *Trouble. It returns other errors unchanged.
func explain(path string, err error) error {
	var already *Trouble
	if err == nil || errors.As(err, &already) {
		return err
	}
	var lite *sqlite.Error
	if errors.As(err, &lite) {
		if s, ok := troubles[lite.Code()&0xff]; ok {
			return &Trouble{fmt.Sprintf(s, path), err}
		}
	}
	if errors.Is(err, errWriteTimeout) {
		return &Trouble{isBusy, err}
	}
	return err
}

// errWriteTimeout means that a write did not get the single writer in time.
var errWriteTimeout = errors.New("timeout waiting for the writer")

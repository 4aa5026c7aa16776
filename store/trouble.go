package store

import (
	"errors"
	"fmt"

	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"
)

// A Trouble is a reason why the database cannot be used, at start or later, with
// what a person can do about it. Nothing was kept of what met it.
type Trouble struct {
	Sentence string
	Err      error // nil where nothing is behind it
}

func (e *Trouble) Error() string { return e.Sentence }
func (e *Trouble) Unwrap() error { return e.Err }

const (
	inUse    = "The database %s is in use by another program that does not let go. Close it, then try again."
	isClosed = "The database %s may not be written. Check the rights of the file and its folder."
	isBroken = "The database %s is damaged. Keep the file, and put back a backup (yardbloom restore)."
)

// troubles are the primary result codes of SQLite that a person can do something about.
var troubles = map[int]string{
	sqlite3.SQLITE_BUSY:     inUse,
	sqlite3.SQLITE_LOCKED:   inUse,
	sqlite3.SQLITE_READONLY: isClosed,
	sqlite3.SQLITE_PERM:     isClosed,
	sqlite3.SQLITE_CANTOPEN: "The database %s cannot be opened. Check the rights of the file and its folder.",
	sqlite3.SQLITE_NOTADB:   "The file %s is not a database. Put it back from a backup, or start with another folder after --data.",
	sqlite3.SQLITE_CORRUPT:  isBroken,
	sqlite3.SQLITE_FULL:     "The disk with the database %s is full. Make room, then try again.",
	sqlite3.SQLITE_IOERR:    "The disk with the database %s cannot be read or written. Check the disk, then try again.",
}

// explain turns what SQLite says of a database into a *Trouble. Other errors stay
// as they are.
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
	if errors.Is(err, errWaited) {
		return &Trouble{fmt.Sprintf(inUse, path), err}
	}
	return err
}

// errWaited is what a write meets that did not get the one writer in time.
var errWaited = errors.New("the writer did not become free")

package store

import (
	"errors"
	"fmt"

	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"
)

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

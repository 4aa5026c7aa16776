package demo

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"time"

	"yardbloom/store"
)

// File returns the database of a new demo yard as bytes, for tests that need many copies. Without names it is a
// yard of one person.
func File(ctx context.Context, now time.Time, named bool) (_ []byte, err error) {
	dir, err := os.MkdirTemp("", "yard")
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, os.RemoveAll(dir)) }()
	st, err := store.Open(ctx, dir)
	if err != nil {
		return nil, err
	}
	err = Fill(ctx, st, now)
	if err == nil && named {
		err = Name(ctx, st)
	}
	if err := errors.Join(err, st.Close()); err != nil {
		return nil, err
	}
	return os.ReadFile(filepath.Join(dir, store.FileName))
}

package store

import (
	"errors"
	"testing"
	"time"

	"yardbloom/core/brew"
)

// A panic in a transaction goes on to the caller, its changes are rolled back, and the next write does not wait. Mutations caught: a
// transaction that is left open, which blocks the writer, one that is committed, a panic that is swallowed.
func TestPanicInATransactionFreesTheWriter(t *testing.T) {
	t.Parallel()
	s, bagID, id := yard(t)
	start(t, s, id)
	panicked := make(chan any, 1)
	go func() {
		defer func() { panicked <- recover() }()
		s.transact(ctx, func(tx *tx) error {
			if _, err := tx.do(ctx, `UPDATE bags SET notes = 'half'`); err != nil {
				return err
			}
			panic("a shelf fell")
		})
	}()
	select {
	case v := <-panicked:
		if v != "a shelf fell" {
			t.Errorf("the caller sees %v", v)
		}
	case <-time.After(time.Minute):
		t.Fatal("the transaction is never closed")
	}
	func() {
		defer func() { _ = recover() }()
		s.Change(ctx, id, func(brew.Brew) (brew.Brew, error) { panic("another one") })
	}()
	must(t, errOf(tap(s, id, advance("next", 30))))
	if b, err := s.Bag(ctx, bagID); err != nil || b.Notes == "half" {
		t.Errorf("half a change is stored: %q, %v", b.Notes, err)
	}
	if err := s.transact(ctx, func(*tx) error { return errNone }); !errors.Is(err, errNone) {
		t.Errorf("an error becomes %v", err)
	}
}

var errNone = errors.New("none of them")

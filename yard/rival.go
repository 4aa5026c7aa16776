package yard

import (
	"context"
	"crypto/rand"

	"yardbloom/core/brew"
	"yardbloom/store"
)

// SameBrew confirms that a rival start belongs to the brew: the earlier start counts or, with later, the rival. Errors are
// those of Tap.
func (y *Yard) SameBrew(ctx context.Context, brewID, startKey, by string, later bool) (brew.Brew, error) {
	b, err := y.Store.Brew(ctx, brewID)
	if err != nil {
		return b, err
	}
	undone := startKey
	if later {
		undone = b.StartKey()
	}
	return y.Tap(ctx, brewID, brew.Event{Key: rand.Text(), Kind: brew.Undo, Undoes: undone, Start: b.StartKey(), At: b.Elapsed(y.Moment(&b)), By: by})
}

// SplitBrew moves a rival start and its events to a new brew, and returns that. Errors are those of brew.Split and of the
// store.
func (y *Yard) SplitBrew(ctx context.Context, brewID, startKey string) (brew.Brew, error) {
	rest, other, err := y.Store.Split(ctx, brewID, func(b brew.Brew) (rest, other brew.Brew, err error) {
		return b.Split(startKey, store.NewID(), rand.Text(), y.Moment(&b))
	})
	if err != nil {
		return other, err
	}
	y.propagate(ctx, rest)
	return y.propagate(ctx, other), nil
}

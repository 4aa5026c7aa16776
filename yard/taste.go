package yard

import (
	"context"
	"errors"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
	"yardbloom/store"
)

// pathLength is the number of earlier brews of a bag that advice considers.
const pathLength = 8

// errChanged means that a brew changed while advice on it was computed.
var errChanged = errors.New("the brew changed meanwhile")

// Taste changes the cup of a brew, has the coach advise and the yard learn. change gets the stored
// cup and the version of the brew, and may be called more than once. Errors are those of change
// and of the store.
func (y *Yard) Taste(ctx context.Context, of brew.Sheet, set store.Settings, change func(c cup.Cup, version int64) (cup.Cup, error)) error {
	path, err := y.Store.PathWithEvents(ctx, of.BagID, pathLength)
	if err != nil {
		return err
	}
	who, err := y.Store.Person(ctx, of.Bag)
	if err != nil {
		return err
	}
	habits := set.Habits()
	who.Prefs, who.Order, who.Good = set.Prefs(), habits.First, habits.Good
	y.advising.Lock() // one at a time: advice uses all cores
	defer y.advising.Unlock()
	for {
		b, err := y.Store.Brew(ctx, of.ID)
		if err != nil {
			return err
		}
		c, err := change(b.Cup, b.Version)
		if err != nil {
			return err
		}
		b.Beliefs = y.BeliefsOf(b.Sheet)
		tasted, err := b.Taste(c, who, path...)
		if err != nil {
			return err
		}
		// The advice is ready before the transaction begins, so that no other writer waits for it.
		_, err = y.Store.Change(ctx, of.ID, func(now brew.Brew) (brew.Brew, error) {
			if now.Version != b.Version {
				return now, errChanged
			}
			return tasted, nil
		})
		switch {
		case errors.Is(err, errChanged):
			continue
		case err == nil:
			y.Learn()
		}
		return err
	}
}

package yard

import (
	"context"
	"errors"
	"fmt"

	"yardbloom/core/brew"
	"yardbloom/store"
)

// Tap applies an event to a running brew, adapts the rest of its plan, lets the kettle follow and
// notifies the screens. A brew that has not begun is a brew.ErrStatus; other errors are those of
// brew.Apply and of the store.
func (y *Yard) Tap(ctx context.Context, brewID string, e brew.Event) (brew.Brew, error) {
	b, err := y.Store.Change(ctx, brewID, func(b brew.Brew) (brew.Brew, error) { return b.Apply(e, y.Moment(&b)) })
	if errors.Is(err, store.ErrNotFound) {
		err = brew.ErrStatus
	}
	if err != nil {
		return b, err
	}
	if b.Status == brew.Running {
		b = y.bend(ctx, b)
		if was, next, changes := b.At(y.Moment(&b)).KettleChange(); changes {
			y.followWithKettle(was, next)
		}
	}
	y.sessions.Update(b)
	y.Hub.Notify(brewID)
	return b, nil
}

// bend adapts the rest of a brew's plan to what has happened. If that fails, the plan stays.
func (y *Yard) bend(ctx context.Context, b brew.Brew) brew.Brew {
	y.completeSheet(ctx, &b.Sheet, b.BrewedBy)
	kettle, _ := y.KettleState()
	bent, ok := b.Bend(b.Elapsed(y.Moment(&b)), kettle.Celsius)
	if !ok {
		return b
	}
	e := brew.Event{Key: fmt.Sprintf("bend-%d", b.Version), Kind: brew.Bend, At: b.Elapsed(y.Moment(&b)), Plan: &bent.Plan, Note: bent.Description}
	after, err := y.Store.Change(ctx, b.ID, func(b brew.Brew) (brew.Brew, error) { return b.Apply(e, y.Moment(&b)) })
	if err != nil {
		y.Log.Error("a plan was not revised", "brew", b.ID, "err", err)
		return b
	}
	return after
}

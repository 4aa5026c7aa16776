package yard

import (
	"context"
	"crypto/rand"
	"errors"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/units"
	"yardbloom/store"
)

// Tap applies an event to a running brew, adapts the rest of its plan, lets the kettle follow and
// notifies the screens. A brew that has not begun is a brew.ErrStatus; other errors are those of
// brew.Apply and of the store.
func (y *Yard) Tap(ctx context.Context, brewID string, e brew.Event) (brew.Brew, error) {
	kettle, _ := y.KettleState()
	b, err := y.Store.Change(ctx, brewID, func(b brew.Brew) (brew.Brew, error) {
		now := y.Moment(&b)
		b, err := b.Apply(e, now)
		if err == nil && e.Kind != brew.Bend {
			b = withKettle(b, kettle.Celsius, now)
		}
		return b, err
	})
	if errors.Is(err, store.ErrNotFound) {
		err = brew.ErrStatus
	}
	if err != nil {
		return b, err
	}
	return y.propagate(ctx, b), nil
}

// propagate lets the plan, the kettle, the sessions and the screens follow a changed brew, and returns it.
func (y *Yard) propagate(ctx context.Context, b brew.Brew) brew.Brew {
	if b.Status == brew.Running {
		b = y.revise(ctx, b)
		if was, next, changes := b.At(y.Moment(&b)).KettleChange(); changes {
			y.followWithKettle(was, next)
		}
	}
	y.sessions.Update(b)
	y.Hub.Notify(b.ID)
	y.Hub.Notify(HappeningsTopic)
	return b
}

// withKettle adds the temperature of the kettle to a running brew if it has changed since the last time.
func withKettle(b brew.Brew, kettle units.Celsius, now time.Time) brew.Brew {
	const noticeable units.Celsius = 1
	if last := b.Kettle(); b.Status != brew.Running || kettle <= 0 || kettle < last+noticeable && kettle > last-noticeable {
		return b
	}
	after, err := b.Apply(brew.Event{Key: rand.Text(), Kind: brew.Heated, Start: b.StartKey(), At: b.Elapsed(now), Celsius: kettle}, now)
	if err != nil { // it has ended
		return b
	}
	return after
}

// revise stores the revisions of the plan that follow from the events. If that fails, the plan stays.
func (y *Yard) revise(ctx context.Context, b brew.Brew) brew.Brew {
	y.completeSheet(ctx, &b.Sheet, b.BrewedBy)
	revised := b.Revised()
	if len(revised.Events) == len(b.Events) {
		return b
	}
	after, err := y.Store.Change(ctx, b.ID, func(now brew.Brew) (brew.Brew, error) {
		for _, e := range revised.Events[len(b.Events):] {
			var err error
			if now, err = now.Apply(e, y.Moment(&now)); err != nil {
				return now, err
			}
		}
		return now, nil
	})
	if err != nil {
		y.Log.Error("a plan was not revised", "brew", b.ID, "err", err)
		return b
	}
	return after
}

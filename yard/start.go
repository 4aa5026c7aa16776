package yard

import (
	"context"
	"crypto/rand"
	"sync"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/units"
	"yardbloom/live"
)

// Start begins a brew by a person, or the yard, from a draft whose first water ran some time ago. If it has begun, the start
// is added to it, as another screen saw it: the earliest counts. Errors are those of store.Begin.
func (y *Yard) Start(ctx context.Context, draftID, by, key string, ago time.Duration) (brew.Brew, error) {
	now := y.Now()
	if b, err := y.Store.Brew(ctx, draftID); err == nil && b.Status == brew.Running { // on the clock of the brew
		now = y.Moment(&b)
	}
	return y.startAt(ctx, draftID, by, key, now.Add(-ago))
}

// StartCopy begins a brew of a draft that a device copied from a recipe while the server was away. The draft is stored with it, unless it is known.
// Errors are those of store.BeginCopy.
func (y *Yard) StartCopy(ctx context.Context, d brew.Draft, key string, at time.Time) (brew.Brew, error) {
	b, err := y.Store.BeginCopy(ctx, d, brew.Event{Key: key, Kind: brew.Start, Instant: at, By: d.By}, y.BeliefsOf)
	return y.begun(ctx, b, err)
}

func (y *Yard) startAt(ctx context.Context, draftID, by, key string, at time.Time) (brew.Brew, error) {
	b, err := y.Store.Begin(ctx, draftID, brew.Event{Key: key, Kind: brew.Start, Instant: at, By: by}, y.BeliefsOf)
	return y.begun(ctx, b, err)
}

// begun starts the clock of a brew that has begun, and notifies its screens.
func (y *Yard) begun(ctx context.Context, b brew.Brew, err error) (brew.Brew, error) {
	if err != nil {
		return b, err
	}
	y.clocks.Moment(&b) // starts its clock
	if err := y.sessions.Begun(b); err != nil {
		y.Log.Error("readings from before the first water", "brew", b.ID, "err", err)
	}
	return y.propagate(ctx, b), nil
}

// undoableStarts holds the drafts of brews that were started by their scale. The supposed first water may
// have been the rinse, or the coffee. It is safe for concurrent use.
type undoableStarts struct {
	uptime func() time.Duration
	mu     sync.Mutex
	drafts map[string]brew.Draft // by brew ID
}

func (u *undoableStarts) put(d brew.Draft) {
	u.mu.Lock()
	defer u.mu.Unlock()
	if u.drafts == nil {
		u.drafts = map[string]brew.Draft{}
	}
	u.drafts[d.ID] = d
}

func (u *undoableStarts) get(id string) (brew.Draft, bool) {
	u.mu.Lock()
	defer u.mu.Unlock()
	d, ok := u.drafts[id]
	return d, ok
}

func (u *undoableStarts) drop(id string) {
	u.mu.Lock()
	defer u.mu.Unlock()
	delete(u.drafts, id)
}

// startByScale starts the brew whose first water a scale has seen. Whoever wrote its recipe brews it.
func (y *Yard) startByScale(ctx context.Context, r live.Report) error {
	d, _, err := y.Store.Draft(ctx, r.BrewID)
	if err == nil {
		y.undo.put(d)
		_, err = y.Start(ctx, r.BrewID, d.By, rand.Text(), y.undo.uptime()-r.Uptime)
	}
	if err != nil {
		y.undo.drop(r.BrewID)
		y.sessions.NotBegun(r.BrewID)
	}
	return err
}

// undoStart makes a brew a draft again if its scale started it by mistake. tared was tared away
// in between.
func (y *Yard) undoStart(ctx context.Context, id string, tared units.Grams, mistaken func(brew.Brew, time.Time) bool) error {
	d, ok := y.undo.get(id)
	if !ok {
		return nil
	}
	b, err := y.Store.Brew(ctx, id)
	if err != nil || !mistaken(b, y.Moment(&b)) {
		return err
	}
	return y.takeBackStart(ctx, b, d, tared)
}

// takeBackStart makes a brew the draft again that it began from.
func (y *Yard) takeBackStart(ctx context.Context, b brew.Brew, d brew.Draft, tared units.Grams) error {
	if err := y.Store.UndoBegin(ctx, d, y.Moment(&b)); err != nil {
		return err
	}
	y.undo.drop(d.ID)
	y.clocks.Forget(d.ID)
	y.sessions.Undone(d.ID, tared)
	y.Hub.Notify(d.ID)
	y.Hub.Notify(HappeningsTopic)
	return nil
}

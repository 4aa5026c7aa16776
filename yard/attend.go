package yard

import (
	"context"
	"errors"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/trace"
	"yardbloom/core/units"
	"yardbloom/live"
	"yardbloom/store"
)

// followSessions acts on the reports of sessions, one after the other, and stores their readings
// in batches. Both happen here so that no reading of an undone brew is stored.
func (y *Yard) followSessions() {
	tick := time.NewTicker(storeEvery)
	defer tick.Stop()
	for {
		select {
		case <-y.Hub.Closed():
			return
		case <-y.sessions.Reports():
			for r, ok := y.sessions.Next(); ok && y.Hub.Context().Err() == nil; r, ok = y.sessions.Next() {
				y.act(r)
			}
		case <-tick.C:
			y.storeReadings()
			y.sessions.Tend()
		}
	}
}

// act acts on one report.
func (y *Yard) act(r live.Report) {
	ctx := y.Hub.Context()
	var err error
	switch r.Kind {
	case live.Happened:
		_, err = y.Tap(ctx, r.BrewID, r.Event)
		if errors.Is(err, brew.ErrStatus) { // too late: the brew has ended or was undone
			err = nil
		}
	case live.FirstWater:
		err = y.startByScale(ctx, r)
	case live.Emptied:
		err = y.undoStart(ctx, r.BrewID, 0, brew.Brew.LooksLikeRinse)
	case live.Tared:
		err = y.undoStart(ctx, r.BrewID, r.Tared, func(b brew.Brew, now time.Time) bool { return b.LooksLikeDosing(r.Tared, now) })
	}
	if err != nil && ctx.Err() == nil {
		y.Log.Error("a report of a scale failed", "brew", r.BrewID, "kind", r.Kind, "event", r.Event.Kind, "err", err)
	}
}

// storeReadings stores the readings of all running brews in one transaction. If that fails, they
// stay in memory and are stored later.
func (y *Yard) storeReadings() {
	batch := y.sessions.TakePending()
	if len(batch) == 0 {
		return
	}
	if err := y.Store.AppendReadings(context.Background(), batch); err != nil {
		y.Log.Error("readings were not stored; trying again", "err", err)
		y.sessions.Requeue(batch)
	}
}

// open opens the session of a brew, running or not.
func (y *Yard) open(brewID string) error {
	ctx := y.Hub.Context()
	return y.sessions.Open(brewID, func() (*brew.Brew, []trace.Reading, error) {
		b, err := y.Store.Brew(ctx, brewID)
		if errors.Is(err, store.ErrNotFound) { // not begun
			return nil, nil, nil
		}
		if err != nil {
			return nil, nil, err
		}
		stored, err := y.Store.Readings(ctx, brewID)
		return &b, stored, err
	})
}

// Follow returns a channel with the numbers of the scale under a brew, and a function that ends
// it.
func (y *Yard) Follow(brewID string) (<-chan live.Numbers, func(), error) {
	for { // an idle session may be closed in between
		if err := y.open(brewID); err != nil {
			return nil, nil, err
		}
		numbers, cancel, err := y.sessions.Follow(brewID)
		if !errors.Is(err, live.ErrNoSession) {
			return numbers, cancel, err
		}
	}
}

// ReadAt takes in a reading of a simulated scale, which knows the age of its running brew. tared is
// the weight that it carried when it was tared.
func (y *Yard) ReadAt(brewID, scaleID string, tared units.Grams, x trace.Reading) error {
	err := y.sessions.ReadAt(brewID, scaleID, tared, x)
	if !errors.Is(err, live.ErrNoSession) {
		return err
	}
	if err := y.open(brewID); err != nil {
		return err
	}
	return y.sessions.ReadAt(brewID, scaleID, tared, x)
}

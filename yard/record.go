package yard

import (
	"context"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/units"
	"yardbloom/store"
)

// Record turns a draft into a brew that a person, or the yard, made away from any screen. Errors are those of store.RecordBrew.
func (y *Yard) Record(ctx context.Context, draftID, by string, at time.Time, drawdown units.Seconds) (brew.Brew, error) {
	return y.Store.RecordBrew(ctx, draftID, brew.Recorded{Key: store.NewID(), By: by, Started: at, Drawdown: drawdown, Now: y.Now()}, y.BeliefsOf)
}

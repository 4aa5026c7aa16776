// Package yard holds the use cases of the product, such as beginning a recipe, tapping, tasting and putting
// a brewer on a scale. It joins the rules in core with the database, the sessions of running brews and the
// devices, and knows nothing of pages, HTTP or SQL.
package yard

import (
	"context"
	"errors"
	"log/slog"
	"sync"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/forecast"
	"yardbloom/core/learn"
	"yardbloom/core/recipe"
	"yardbloom/core/trace"
	"yardbloom/device"
	"yardbloom/live"
	"yardbloom/store"
)

// Config describes a yard. Store, Log and Now are required.
type Config struct {
	Store *store.Store
	Log   *slog.Logger
	// Now is the wall clock.
	Now func() time.Time
	// Uptime is a monotonic clock for running brews; nil: they follow the wall clock.
	Uptime func() time.Duration
	// Demo marks a yard of made-up data: simulated devices are offered and learned from.
	Demo bool
	// Filling reports how many of the brews of a demo yard are made while it is being filled; nil for other yards.
	Filling func() (made, of int)
}

// A Yard carries out use cases. It is safe for concurrent use.
type Yard struct {
	Config
	// Hub notifies screens. Its topics are IDs of brews; see also RushTopic and StageTopic.
	Hub *live.Hub
	// Bench holds the connections to the yard's devices.
	Bench *device.Bench

	clocks   *live.Clocks
	sessions *live.Sessions
	placed   placements
	teacher  *teacher
	plans    cupsPlans
	undo     undoableStarts
	imports  imports
	closing  context.Context // until Close
	stop     context.CancelFunc
	advising chan struct{} // of capacity one: full while advice is computed
	decoding sync.Mutex    // held while a photo is decoded
	running  sync.WaitGroup
}

// storeEvery is how often readings are stored and silent scales are looked for.
const storeEvery = 500 * time.Millisecond

// Open returns a yard that is connected to its devices. Running brews are back on the scales that
// they stood on before a restart. The caller closes it before the store.
func Open(ctx context.Context, c Config) (*Yard, error) {
	y := &Yard{Config: c, Hub: live.NewHub(), Bench: &device.Bench{}, clocks: live.NewClocks(c.Now, c.Uptime),
		advising: make(chan struct{}, 1)}
	y.closing, y.stop = context.WithCancel(context.Background())
	uptime := c.Uptime
	if opened := time.Now(); uptime == nil {
		uptime = func() time.Duration { return time.Since(opened) }
	}
	y.sessions = live.NewSessions(y.clocks, uptime)
	y.undo.uptime = uptime
	var err error
	if y.teacher, err = newTeacher(c); err != nil {
		return nil, err
	}
	y.running.Go(y.followSessions)
	y.running.Go(y.resumeImports)
	if err := errors.Join(y.Connect(ctx), y.restorePlacements(ctx)); err != nil {
		y.Close()
		return nil, err
	}
	return y, nil
}

// Close ends all background work. Readings that are not stored yet are stored.
func (y *Yard) Close() {
	y.stop()
	y.Hub.Close()
	y.Bench.Close()
	y.running.Wait()
	y.dropWaiting()
	y.teacher.close()
	y.storeReadings()
}

// Learned returns the yard's knowledge; nil if there is none.
func (y *Yard) Learned() *learn.Knowledge { return y.teacher.learned() }

// Learn learns from measured brews in the background.
func (y *Yard) Learn() { y.teacher.learn() }

// Learning reports whether learning is in progress.
func (y *Yard) Learning() bool { return y.teacher.busy() }

// WaitForLearning returns when no learning is in progress.
func (y *Yard) WaitForLearning() { y.teacher.wait() }

// BeliefsOf returns the beliefs about the gear and coffee of a sheet.
func (y *Yard) BeliefsOf(s brew.Sheet) *forecast.Beliefs { return y.teacher.beliefsOf(s) }

// CompleteSheet completes a loaded sheet with data that is not stored with it: beliefs, habits and units.
func (y *Yard) CompleteSheet(sheet *brew.Sheet, set store.Settings) {
	if set.Spoons { // a level tablespoon of this coffee
		set.SpoonWeight = recipe.UsualSpoonful(sheet.Bag.Roast)
	}
	sheet.Beliefs, sheet.Habits, sheet.Prefs = y.BeliefsOf(*sheet), set.Habits(), set.Prefs()
}

// completeSheet is CompleteSheet with the stored settings of a person.
func (y *Yard) completeSheet(ctx context.Context, sheet *brew.Sheet, personID string) error {
	set, err := y.Store.Settings(ctx, personID)
	if err == nil {
		y.CompleteSheet(sheet, set)
	}
	return err
}

// Moment returns the current time on the clock of a brew.
func (y *Yard) Moment(b *brew.Brew) time.Time { return y.clocks.Moment(b) }

// Speed returns the speed of a brew's clock: 1, or more for a simulated brew.
func (y *Yard) Speed(brewID string) float64 { return y.clocks.Speed(brewID) }

// Trace returns the readings of a brew so far; none if its scale has seen no water.
func (y *Yard) Trace(ctx context.Context, brewID string) ([]trace.Reading, error) {
	readings, err := y.sessions.Trace(brewID)
	if errors.Is(err, live.ErrNoSession) {
		return y.Store.Readings(ctx, brewID)
	}
	return readings, err
}

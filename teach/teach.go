// Package teach lets a yard learn from its measured brews: it loads them, fits the
// beliefs and keeps these.
package teach

import (
	"context"
	"log/slog"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/forecast"
	"yardbloom/core/learn"
	"yardbloom/store"
)

// Once learns from all measured brews and stores the result. Brews measured by a simulated device
// are excluded.
func Once(ctx context.Context, st *store.Store, now time.Time) (*learn.Yard, error) {
	return follow(ctx, st, nil, now, false)
}

// follow updates y with brews measured since and stores the result. Brews measured by a simulated
// device are excluded unless simulated is set.
func follow(ctx context.Context, st *store.Store, y *learn.Yard, now time.Time, simulated bool) (*learn.Yard, error) {
	samples, err := st.Measured(ctx, learn.Most)
	if err != nil {
		return nil, err
	}
	if !simulated {
		samples = slices.DeleteFunc(samples, func(s learn.Sample) bool { return s.Simulated })
	}
	y = y.Follow(samples)
	return y, st.SaveLearned(ctx, y, now)
}

// A Teacher holds what a yard has taught, and learns anew in the background when it is
// told that something was measured. It is safe for concurrent use.
type Teacher struct {
	store *store.Store
	log   *slog.Logger
	now   func() time.Time
	yard  atomic.Pointer[learn.Yard]
	// simulated includes brews measured by simulated devices; set in a demo yard.
	simulated bool

	mu      sync.Mutex
	running bool
	again   bool
	done    sync.WaitGroup
	ctx     context.Context
	stop    context.CancelFunc
}

// New returns a teacher with the stored beliefs. A demo yard also learns from simulated devices.
func New(st *store.Store, log *slog.Logger, now func() time.Time, demo bool) (*Teacher, error) {
	t := &Teacher{store: st, log: log, now: now, simulated: demo}
	t.ctx, t.stop = context.WithCancel(context.Background())
	y, err := st.Learned(t.ctx)
	if err != nil {
		return nil, err
	}
	t.yard.Store(y)
	if y == nil {
		t.Learn()
	}
	return t, nil
}

// Yard is what the yard has taught up to now; nil for nothing.
func (t *Teacher) Yard() *learn.Yard { return t.yard.Load() }

// Believe is what the yard believes of a sheet's gear and coffee.
func (t *Teacher) Believe(s brew.Sheet) *forecast.Beliefs { return t.Yard().Beliefs(s.Subject()) }

// Learn begins to learn anew in the background. Told again meanwhile, it does so once more.
func (t *Teacher) Learn() {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.running {
		t.again = true
		return
	}
	t.running = true
	t.done.Go(t.learn)
}

func (t *Teacher) learn() {
	for {
		y, err := follow(t.ctx, t.store, t.Yard(), t.now(), t.simulated)
		switch {
		case err == nil:
			t.yard.Store(y)
		case t.ctx.Err() == nil:
			t.log.Error("the yard could not learn", "err", err)
		}
		t.mu.Lock()
		if !t.again || t.ctx.Err() != nil {
			t.running = false
			t.mu.Unlock()
			return
		}
		t.again = false
		t.mu.Unlock()
	}
}

// Busy says whether something is being learned.
func (t *Teacher) Busy() bool {
	t.mu.Lock()
	defer t.mu.Unlock()
	return t.running
}

// Wait returns once nothing is being learned.
func (t *Teacher) Wait() { t.done.Wait() }

// Close ends learning: what is being worked out is not kept.
func (t *Teacher) Close() { t.stop() }

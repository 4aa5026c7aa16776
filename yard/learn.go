package yard

import (
	"context"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/forecast"
	"yardbloom/core/learn"
	"yardbloom/store"
)

// LearnOnce learns from all measured brews and stores the result. Brews measured by a simulated
// device are excluded.
func LearnOnce(ctx context.Context, st *store.Store, now time.Time) (*learn.Knowledge, error) {
	return learnFrom(ctx, st, nil, now, false)
}

// learnFrom updates y with brews measured since and stores the result. Brews measured by a
// simulated device are excluded unless simulated is set.
func learnFrom(ctx context.Context, st *store.Store, y *learn.Knowledge, now time.Time, simulated bool) (*learn.Knowledge, error) {
	samples, err := st.Measured(ctx, learn.MaxSamples)
	if err != nil {
		return nil, err
	}
	if !simulated {
		samples = slices.DeleteFunc(samples, func(s learn.Sample) bool { return s.Simulated })
	}
	y = y.Follow(samples, ctx.Done())
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	return y, st.SaveLearned(ctx, y, now)
}

// A teacher holds the yard's knowledge and updates it in the background. It is safe for concurrent use.
type teacher struct {
	Config
	yard atomic.Pointer[learn.Knowledge]

	mu      sync.Mutex
	running bool
	again   bool // learning was requested while it was running
	done    sync.WaitGroup
	ctx     context.Context
	stop    context.CancelFunc
}

// newTeacher returns a teacher with the stored beliefs, or one that begins to learn if there are
// none.
func newTeacher(c Config) (*teacher, error) {
	t := &teacher{Config: c}
	t.ctx, t.stop = context.WithCancel(context.Background())
	y, err := c.Store.Learned(t.ctx)
	if err != nil {
		t.stop()
		return nil, err
	}
	t.yard.Store(y)
	if y == nil {
		t.learn()
	}
	return t, nil
}

func (t *teacher) learned() *learn.Knowledge { return t.yard.Load() }

func (t *teacher) beliefsOf(s brew.Sheet) *forecast.Beliefs { return t.learned().Beliefs(s.Subject()) }

// learn starts learning, or requests another round if it is running.
func (t *teacher) learn() {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.ctx.Err() != nil {
		return
	}
	if t.running {
		t.again = true
		return
	}
	t.running = true
	t.done.Go(t.run)
}

func (t *teacher) run() {
	for {
		y, err := learnFrom(t.ctx, t.Store, t.learned(), t.Now(), t.Demo)
		switch {
		case err == nil:
			t.yard.Store(y)
		case t.ctx.Err() == nil:
			t.Log.Error("learning failed", "err", err)
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

func (t *teacher) busy() bool {
	t.mu.Lock()
	defer t.mu.Unlock()
	return t.running
}

func (t *teacher) wait() { t.done.Wait() }

// close cancels learning and waits for its end. An unfinished result is not stored.
func (t *teacher) close() {
	t.mu.Lock()
	t.stop() // no learning begins from here on
	t.mu.Unlock()
	t.done.Wait()
}

package live

import (
	"context"
	"fmt"
	"log/slog"
	"sync"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/trace"
	"yardbloom/core/units"
)

// A Keeper keeps brews and what scales showed of them.
type Keeper interface {
	Brew(ctx context.Context, id string) (brew.Brew, error)
	Change(ctx context.Context, id string, apply func(brew.Brew) (brew.Brew, error)) (brew.Brew, error)
	AppendReadings(ctx context.Context, fresh map[string][]trace.Reading) error
	Readings(ctx context.Context, id string) ([]trace.Reading, error)
}

// A Yard is what owners need of the yard around them.
type Yard struct {
	Keeper
	Hub *Hub
	Log *slog.Logger
	// Now is the moment at which a brew stands, however the clock on the wall is set.
	Now func(*brew.Brew) time.Time
	// Attend puts on a sheet what is not kept with it.
	Attend func(context.Context, *brew.Sheet)
	// Kettle is how warm the water is; 0 where nobody knows.
	Kettle func() units.Celsius
	// Heat sets a kettle that stands at one temperature to another.
	Heat func(was, next units.Celsius)
	// Start begins a recipe in the making whose first water ran so long ago. takeBack makes
	// it a recipe in the making again, as if nothing had begun.
	Start func(ctx context.Context, id string, ago time.Duration) (takeBack func(context.Context) error, err error)
}

// Numbers are what changes ten times a second on the screens of a brew.
type Numbers struct {
	At      units.Seconds // of the brew
	Grams   units.Grams
	Rate    float64 // g/s
	Pouring bool
	Away    bool // the brewer is off the scale
}

const (
	// flushEvery is how long a reading may wait before it is on the disk.
	flushEvery = 500 * time.Millisecond
	// lostAfter is how long a scale may say nothing before the brew goes on without it.
	lostAfter = 3 * time.Second
	// before is how much of what came before the first water is kept, s.
	before units.Seconds = 3
	// afterwards is how long after its end a brew's scale is still read, s: the brewer may be
	// put back.
	afterwards units.Seconds = 20
	// forgotten is how long after its last reading an owner is let go of.
	forgotten = time.Minute
)

// Owners are the owners of the brews that run, one for each that a scale sees: each takes
// readings and events, works the plan out anew, keeps what came in batches, and tells the
// screens. It is safe for concurrent use.
type Owners struct {
	Yard
	mu    sync.Mutex
	of    map[string]*Owner
	stop  context.CancelFunc
	ctx   context.Context
	ended sync.WaitGroup
	// keeping is held while readings go to the keeper.
	keeping sync.Mutex
}

// NewOwners returns owners that work until Close.
func NewOwners(y Yard) *Owners {
	o := &Owners{Yard: y, of: map[string]*Owner{}}
	o.ctx, o.stop = context.WithCancel(context.Background())
	o.ended.Go(o.tend)
	return o
}

// Close keeps what is not kept yet and ends the owners' work.
func (o *Owners) Close() {
	o.stop()
	o.ended.Wait()
	o.flush()
}

// Apply adds an event to a brew, works the rest of the plan out anew where it no longer
// fits, lets the kettle follow, and tells the screens. Errors are those of brew.Apply and of the store.
func (o *Owners) Apply(ctx context.Context, id string, e brew.Event) (brew.Brew, error) {
	b, err := o.Change(ctx, id, func(b brew.Brew) (brew.Brew, error) { return b.Apply(e, o.Now(&b)) })
	if err != nil {
		return b, err
	}
	if b.Status == brew.Running {
		b = o.bend(ctx, b)
		if was, next, changes := b.At(o.Now(&b)).Heats(); changes {
			o.Heat(was, next)
		}
	}
	if w := o.owner(id, false); w != nil {
		w.mu.Lock()
		w.ended = endOf(b)
		w.mu.Unlock()
	}
	o.Hub.Tell(id)
	return b, nil
}

// bend works the rest out anew. A brew whose plan cannot be bent goes on by the one it has.
func (o *Owners) bend(ctx context.Context, b brew.Brew) brew.Brew {
	o.Attend(ctx, &b.Sheet)
	bent, ok := b.Bend(b.Elapsed(o.Now(&b)), o.Kettle())
	if !ok {
		return b
	}
	e := brew.Event{Key: fmt.Sprintf("bend-%d", b.Version), Kind: brew.Bend, At: b.Elapsed(o.Now(&b)), Plan: &bent.Plan, Note: bent.Said}
	after, err := o.Change(ctx, b.ID, func(b brew.Brew) (brew.Brew, error) { return b.Apply(e, o.Now(&b)) })
	if err != nil {
		o.Log.Error("a plan was not bent", "brew", b.ID, "err", err)
		return b
	}
	return after
}

// Free takes a brew that has not begun off its scale.
func (o *Owners) Free(id string) {
	if w := o.owner(id, false); w != nil {
		w.mu.Lock()
		defer w.mu.Unlock()
		if !w.armed.IsZero() {
			w.putOn("")
		}
	}
}

// Follow returns a channel of a brew's numbers, and how to leave.
func (o *Owners) Follow(id string) (<-chan Numbers, func()) {
	w := o.owner(id, true)
	c := make(chan Numbers, 1)
	w.mu.Lock()
	defer w.mu.Unlock()
	w.screens[c] = true
	if len(w.readings) > 0 && (w.sees || !w.armed.IsZero()) {
		c <- w.now
	}
	return c, func() {
		w.mu.Lock()
		defer w.mu.Unlock()
		delete(w.screens, c)
	}
}

// Trace returns what the scale under a brew showed so far; nothing where it saw no water.
func (o *Owners) Trace(ctx context.Context, id string) ([]trace.Reading, error) {
	if w := o.owner(id, false); w != nil {
		w.mu.Lock()
		defer w.mu.Unlock()
		if w.sees {
			return append([]trace.Reading(nil), w.readings...), nil
		}
		return nil, nil
	}
	return o.Readings(ctx, id)
}

// tend keeps readings in batches, and looks after scales that say nothing any more.
func (o *Owners) tend() {
	tick := time.NewTicker(flushEvery)
	defer tick.Stop()
	for {
		select {
		case <-o.ctx.Done():
			return
		case <-tick.C:
			o.flush()
			o.lookAfter()
		}
	}
}

// flush keeps the readings that are not kept yet, those of all brews at once.
func (o *Owners) flush() {
	o.keeping.Lock()
	defer o.keeping.Unlock()
	fresh := map[string][]trace.Reading{}
	for _, w := range o.all() {
		w.mu.Lock()
		if len(w.pending) > 0 && w.sees {
			fresh[w.id] = w.pending
			w.pending = nil
		}
		w.mu.Unlock()
	}
	if len(fresh) == 0 {
		return
	}
	if err := o.AppendReadings(context.Background(), fresh); err != nil {
		o.Log.Error("readings were not kept, and are tried again", "err", err)
		for _, w := range o.all() {
			w.mu.Lock()
			w.pending = append(fresh[w.id], w.pending...)
			w.mu.Unlock()
		}
	}
}

func (o *Owners) all() []*Owner {
	o.mu.Lock()
	defer o.mu.Unlock()
	out := make([]*Owner, 0, len(o.of))
	for _, w := range o.of {
		out = append(out, w)
	}
	return out
}

// lookAfter lets the brew of a scale that was lost go on by the clock and taps, and lets go
// of owners that nobody needs.
func (o *Owners) lookAfter() {
	for _, w := range o.all() {
		w.mu.Lock()
		silent := time.Since(w.heard)
		if w.scale != "" && silent > lostAfter && !w.starting {
			if w.armed.IsZero() && w.sees {
				o.tell(w, brew.Event{Kind: brew.Unwatched, Note: w.scale, At: w.begun.Elapsed(o.Now(&w.begun))})
			}
			w.scale = ""
		}
		idle := silent > forgotten && len(w.screens) == 0 && (len(w.pending) == 0 || !w.sees)
		w.mu.Unlock()
		if idle {
			o.mu.Lock()
			delete(o.of, w.id)
			o.mu.Unlock()
			w.let()
		}
	}
}

func seconds(s units.Seconds) time.Duration { return time.Duration(float64(s) * float64(time.Second)) }

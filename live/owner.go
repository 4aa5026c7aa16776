package live

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"sync"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/trace"
	"yardbloom/core/units"
	"yardbloom/lossy"
)

// An Owner is what is known in memory of one brew that a scale sees.
type Owner struct {
	id string

	mu       sync.Mutex
	scale    string      // under it; empty where it was lost
	sees     bool        // the scale saw water: what it shows counts
	zero     units.Grams // what a scale showed that was not tared when the brew began
	heard    time.Time
	armed    time.Time     // since when it waits for the first water; zero once it runs
	begun    brew.Brew     // for its clock; zero while it waits
	ended    units.Seconds // when the pouring ended; 0 while it runs
	tared    units.Grams
	reader   trace.Reader
	seen     int // how many things were understood so far
	readings []trace.Reading
	pending  []trace.Reading
	now      Numbers
	screens  map[chan Numbers]bool
	todo     []understood  // what was understood and is not kept yet
	more     chan struct{} // signals that there is something to do
	starting bool
	// takeBack undoes a beginning by the scale, which may turn out to have been a rinse; nil
	// where a hand began.
	takeBack func(context.Context) error
	let      context.CancelFunc // lets go of it
}

// understood is the n-th thing that was understood of a brew's trace: its number makes its key.
type understood struct {
	n int
	trace.Seen
}

// owner returns the owner of a brew; make says whether one is made where there is none.
func (o *Owners) owner(id string, make bool) *Owner {
	o.mu.Lock()
	defer o.mu.Unlock()
	w := o.of[id]
	if w == nil && make {
		w = o.newOwner(id)
		o.of[id] = w
	}
	return w
}

func (o *Owners) newOwner(id string) *Owner {
	w := &Owner{id: id, screens: map[chan Numbers]bool{}, more: make(chan struct{}, 1), armed: time.Now(), heard: time.Now()}
	b, err := o.Brew(o.ctx, id)
	if err == nil { // it runs: what was read before a restart is understood again
		w.begun, w.armed, w.ended = b, time.Time{}, endOf(b)
		kept, err := o.Readings(o.ctx, id)
		if err != nil {
			o.Log.Error("readings", "brew", id, "err", err)
		}
		for _, x := range kept {
			for _, seen := range w.reader.Read(x) {
				w.sees = true
				w.learn(seen) // what was not kept before the restart is kept now; what was is known by its key
			}
		}
		w.readings = kept
		for _, e := range b.Events {
			switch e.Kind {
			case brew.Tared:
				w.zero = e.Grams
			case brew.Watched: // its scale is expected back, or else is lost
				w.scale, w.sees, w.tared = e.Note, true, e.Grams-w.zero
			case brew.Unwatched:
				w.scale = ""
			}
		}
	}
	ctx, let := context.WithCancel(o.ctx)
	w.let = let
	o.ended.Go(func() { o.understand(ctx, w) })
	return w
}

// learn puts what was understood on the list of what is to be kept. The owner is locked.
func (w *Owner) learn(seen trace.Seen) {
	w.todo = append(w.todo, understood{w.seen, seen})
	w.seen++
	select {
	case w.more <- struct{}{}:
	default: // it is known already that there is something
	}
}

// next takes the first thing from that list.
func (w *Owner) next() (u understood, any bool) {
	w.mu.Lock()
	defer w.mu.Unlock()
	if len(w.todo) == 0 {
		return u, false
	}
	u, w.todo = w.todo[0], w.todo[1:]
	return u, true
}

// understand makes events of what an owner's scale saw, one after the other.
func (o *Owners) understand(ctx context.Context, w *Owner) {
	for {
		select {
		case <-ctx.Done():
			return
		case <-w.more:
			for u, any := w.next(); any; u, any = w.next() {
				o.happened(w, u)
			}
		}
	}
}

func (o *Owners) happened(w *Owner, u understood) {
	switch u.Kind {
	case trace.Emptied:
		o.takeBack(w, 0, brew.Brew.OnlyRinsed)
		return
	case trace.Tared:
		o.takeBack(w, u.Total, func(b brew.Brew, now time.Time) bool { return b.OnlyDosed(u.Total, now) })
		return
	}
	e, ok := brew.Saw(u.Seen)
	if !ok {
		return
	}
	e.Key = fmt.Sprintf("scale-%d", u.n)
	o.apply(w, e)
}

// takeBack takes a brew back that turns out to have been none, such as a rinse: it waits for
// its first water again. tared is what was tared away besides.
func (o *Owners) takeBack(w *Owner, tared units.Grams, none func(b brew.Brew, now time.Time) bool) {
	o.keeping.Lock() // so that no reading is kept of a brew that is gone
	defer o.keeping.Unlock()
	w.mu.Lock()
	defer w.mu.Unlock()
	b, err := o.Brew(o.ctx, w.id)
	if err != nil || w.takeBack == nil || !none(b, o.Now(&b)) {
		return
	}
	if err := w.takeBack(o.ctx); err != nil {
		o.Log.Error("a beginning was not taken back", "brew", w.id, "err", err)
		return
	}
	w.begun, w.armed, w.zero, w.sees, w.takeBack = brew.Brew{}, time.Now(), 0, false, nil
	w.reader, w.readings, w.pending, w.todo, w.seen = trace.Reader{}, nil, nil, nil, 0
	w.tared += tared
	o.Hub.Tell(w.id)
}

// apply applies an event that a scale told. One that comes too late, after the brew was
// stopped or taken back, is no error.
func (o *Owners) apply(w *Owner, e brew.Event) {
	if _, err := o.Apply(o.ctx, w.id, e); err != nil && !errors.Is(err, brew.ErrStatus) && o.ctx.Err() == nil {
		o.Log.Error("what a scale saw was not kept", "brew", w.id, "kind", e.Kind, "err", err)
	}
}

// ErrOther is returned for a reading of a second scale on one brew.
var ErrOther = errors.New("another scale sees this brew")

// Read takes what a scale shows under a brew that runs, or under one that waits for its
// first water. A second scale on one brew is an ErrOther.
func (o *Owners) Read(id, scale string, g units.Grams) error {
	w := o.owner(id, true)
	w.mu.Lock()
	defer w.mu.Unlock()
	if !w.armed.IsZero() {
		return o.wait(w, scale, trace.Reading{At: units.Seconds(time.Since(w.armed).Seconds()), Grams: g})
	}
	return o.read(w, scale, trace.Reading{At: w.begun.Elapsed(o.Now(&w.begun)), Grams: g})
}

// ReadAt is Read for a scale that knows the brew's own second: a stand-in's. tared is what
// it carried when it was tared.
func (o *Owners) ReadAt(id, scale string, tared units.Grams, x trace.Reading) error {
	w := o.owner(id, true)
	w.mu.Lock()
	defer w.mu.Unlock()
	w.tared = tared
	return o.read(w, scale, x)
}

// read takes a reading of a brew that runs. The owner is locked.
func (o *Owners) read(w *Owner, scale string, x trace.Reading) error {
	if w.scale != "" && w.scale != scale {
		return ErrOther
	}
	if w.scale == "" {
		w.scale = scale
		if w.sees { // it is back
			o.watch(w, x.At)
		}
	}
	w.heard = time.Now()
	x.Grams -= w.zero
	x = x.Kept()
	if w.ended > 0 && x.At > w.ended+afterwards { // whatever stands on the scale now
		return nil
	}
	if n := len(w.readings); !trace.Takes(x) || n > 0 && x.At <= w.readings[n-1].At { // no scale shows that, or its clock went back
		return nil
	}
	seen := w.reader.Read(x)
	w.readings, w.pending = append(w.readings, x), append(w.pending, x)
	w.now = Numbers{At: x.At, Grams: w.reader.Total(), Rate: w.reader.Rate(), Pouring: w.reader.Pouring(), Away: w.reader.Away()}
	for _, s := range seen {
		if s.Kind == trace.Began && !w.sees {
			w.sees = true
			o.watch(w, s.At)
		}
		w.learn(s)
	}
	for c := range w.screens {
		if w.sees {
			lossy.Put(c, w.now)
		}
	}
	return nil
}

// endOf is the second at which a brew ended; 0 while it runs.
func endOf(b brew.Brew) units.Seconds {
	if b.Status == brew.Running {
		return 0
	}
	return max(1, b.Elapsed(b.Ended))
}

// watch says that a scale sees the brew from a moment on. One that shows nothing of it, since
// something else stands on it, never does.
func (o *Owners) watch(w *Owner, at units.Seconds) {
	o.tell(w, brew.Event{Kind: brew.Watched, Note: w.scale, At: max(0, at), Grams: w.tared + w.zero})
}

// tell applies an event that is not of the trace, without waiting for it.
func (o *Owners) tell(w *Owner, e brew.Event) {
	e.Key = rand.Text()
	o.ended.Go(func() { o.apply(w, e) })
}

// putOn puts a brew that has not begun on another scale; empty for none. The owner is locked.
func (w *Owner) putOn(scale string) {
	w.scale, w.readings, w.reader, w.tared = scale, nil, trace.Reader{}, 0
}

// wait takes a reading of a brew that has not begun: the first water begins it. The owner is locked.
func (o *Owners) wait(w *Owner, scale string, x trace.Reading) error {
	if w.scale != scale { // it was put on this one
		w.putOn(scale)
	}
	w.heard = time.Now()
	last, any := w.reader.Weight()
	const empty, stands = 1, 15                                            // g
	if any && last.Grams > stands && x.Grams < empty && x.Grams > -empty { // it was tared just now
		w.tared, w.reader, w.readings = last.Grams, trace.Reader{}, nil
	}
	seen := w.reader.Read(x)
	w.readings = append(w.readings, x)
	for len(w.readings) > 0 && w.readings[0].At < x.At-before {
		w.readings = w.readings[1:]
	}
	w.now = Numbers{At: 0, Grams: x.Grams, Away: w.reader.Away()}
	for c := range w.screens {
		lossy.Put(c, w.now)
	}
	for _, s := range seen {
		if s.Kind == trace.Began && s.Total > -empty && s.Total < empty && !w.starting {
			w.starting = true
			began := s.At
			o.ended.Go(func() { o.begin(w, scale, began) })
		}
	}
	return nil
}

// begin begins the brew at the first water that its scale saw.
func (o *Owners) begin(w *Owner, scale string, began units.Seconds) {
	w.mu.Lock()
	ago := time.Since(w.armed) - seconds(began)
	w.mu.Unlock()
	takeBack, err := o.Start(o.ctx, w.id, ago)
	if err != nil {
		o.Log.Error("a brew did not begin by its scale", "brew", w.id, "err", err)
		w.mu.Lock()
		w.starting = false
		w.mu.Unlock()
		return
	}
	w.mu.Lock()
	w.takeBack = takeBack
	w.mu.Unlock()
	o.Begun(o.ctx, w.id)
}

// Begun says that a brew has begun, by a scale or by a hand: what its scale showed just
// before is counted from its first water on.
func (o *Owners) Begun(ctx context.Context, id string) {
	w := o.owner(id, false)
	if w == nil {
		return
	}
	b, err := o.Brew(ctx, id)
	if err != nil {
		return
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	if w.armed.IsZero() {
		return
	}
	shift := units.Seconds(time.Since(w.armed).Seconds()) - b.Elapsed(o.Now(&b))
	was, scale := w.readings, w.scale
	w.armed, w.begun, w.reader, w.readings, w.scale, w.starting = time.Time{}, b, trace.Reader{}, nil, "", false
	const level = 2 // g: more than that, and nobody tared it
	if n := len(was); n > 0 && (was[0].Grams > level || was[0].Grams < -level) {
		w.zero = was[0].Grams
		o.tell(w, brew.Event{Kind: brew.Tared, Grams: w.zero})
	}
	for _, x := range was {
		x.At -= shift
		if err := o.read(w, scale, x); err != nil {
			o.Log.Error("what a scale showed before the first water", "brew", id, "err", err)
		}
	}
}

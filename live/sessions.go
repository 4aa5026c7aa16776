package live

import (
	"errors"
	"slices"
	"sync"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/trace"
	"yardbloom/core/units"
)

// ErrNoSession is returned for a brew without a session; see Sessions.Open.
var ErrNoSession = errors.New("no session is open for this brew")

// Numbers are the figures of a brew that change with every reading.
type Numbers struct {
	At      units.Seconds // age of the brew
	Grams   units.Grams
	Rate    float64 // g/s
	Pouring bool
	Away    bool // the brewer is off the scale
}

const (
	// LostAfter is the time without readings after which a brew continues without its scale.
	LostAfter = 3 * time.Second
	// idleAfter is the time after its last reading at which a session is closed.
	idleAfter = time.Minute
)

// Sessions holds one Session for each brew on a scale. It turns readings into reports for the
// yard and into numbers for screens. It stores nothing and starts no goroutine. It is safe for
// concurrent use.
type Sessions struct {
	clocks *Clocks
	uptime func() time.Duration
	out    *queue

	mu   sync.Mutex
	byID map[string]*Session
}

// NewSessions returns an empty set of sessions. uptime is a monotonic clock.
func NewSessions(clocks *Clocks, uptime func() time.Duration) *Sessions {
	return &Sessions{clocks: clocks, uptime: uptime, out: newQueue(), byID: map[string]*Session{}}
}

// Reports returns a channel that is signalled when reports are ready; see Next.
func (ss *Sessions) Reports() <-chan struct{} { return ss.out.ready }

// Next returns the oldest report and removes it; false if there is none.
func (ss *Sessions) Next() (Report, bool) { return ss.out.next() }

// Open opens the session of a brew unless it is open. load returns the brew with its stored
// readings, or a nil brew if it has not begun; it is called while no other session is opened.
func (ss *Sessions) Open(id string, load func() (*brew.Brew, []trace.Reading, error)) error {
	ss.mu.Lock()
	defer ss.mu.Unlock()
	if ss.byID[id] != nil {
		return nil
	}
	b, stored, err := load()
	if err != nil {
		return err
	}
	uptime := ss.uptime()
	s := &Session{id: id, out: ss.out, state: &waiting{since: uptime}, heard: uptime, screens: map[chan Numbers]bool{}}
	if b != nil {
		s.resume(*b, stored)
	}
	ss.byID[id] = s
	return nil
}

// session returns the locked session of a brew, or nil.
func (ss *Sessions) session(id string) *Session {
	ss.mu.Lock()
	s := ss.byID[id]
	ss.mu.Unlock()
	if s != nil {
		s.mu.Lock()
	}
	return s
}

// Read processes a reading of the scale under a brew, running or waiting for its first water. Errors are
// ErrNoSession and ErrOtherScale.
func (ss *Sessions) Read(id, scale string, g units.Grams) error {
	s := ss.session(id)
	if s == nil {
		return ErrNoSession
	}
	defer s.mu.Unlock()
	switch st := s.state.(type) {
	case *running:
		return s.read(st, scale, trace.Reading{At: st.elapsed(ss.clocks), Grams: g}, ss.uptime())
	case *waiting:
		s.wait(st, scale, g, ss.uptime())
	}
	return nil
}

// ReadAt is Read for a simulated scale, which knows the age of its running brew. tared is the
// weight that it carried when it was tared.
func (ss *Sessions) ReadAt(id, scale string, tared units.Grams, x trace.Reading) error {
	s := ss.session(id)
	if s == nil {
		return ErrNoSession
	}
	defer s.mu.Unlock()
	st, ok := s.state.(*running)
	if !ok {
		return ErrNoSession
	}
	s.tared = tared
	return s.read(st, scale, x, ss.uptime())
}

// Begun tells a waiting session that its brew has begun, by its scale or by a tap.
func (ss *Sessions) Begun(b brew.Brew) error {
	s := ss.session(b.ID)
	if s == nil {
		return nil
	}
	defer s.mu.Unlock()
	st, ok := s.state.(*waiting)
	if !ok {
		return nil
	}
	return s.begin(st, b, runningOf(b).elapsed(ss.clocks), ss.uptime())
}

// NotBegun tells a session that the first water it reported did not begin a brew.
func (ss *Sessions) NotBegun(id string) {
	if s := ss.session(id); s != nil {
		defer s.mu.Unlock()
		if st, ok := s.state.(*waiting); ok {
			st.starting = false
		}
	}
}

// Undone tells a session that the start of its brew was undone: it waits for the first water
// again. Reports and readings of the undone brew are dropped. tared was tared away in between.
func (ss *Sessions) Undone(id string, tared units.Grams) {
	s := ss.session(id)
	if s == nil {
		return
	}
	defer s.mu.Unlock()
	s.out.drop(id)
	s.state, s.reader, s.readings = &waiting{since: ss.uptime()}, trace.Reader{}, nil
	s.tared += tared
}

// Update tells a session about a changed brew.
func (ss *Sessions) Update(b brew.Brew) {
	if s := ss.session(b.ID); s != nil {
		defer s.mu.Unlock()
		if st, ok := s.state.(*running); ok {
			now := runningOf(b)
			st.ended, st.shift = now.ended, now.shift
		}
	}
}

// Lift takes a waiting brew off its scale.
func (ss *Sessions) Lift(id string) {
	if s := ss.session(id); s != nil {
		defer s.mu.Unlock()
		if _, ok := s.state.(*waiting); ok {
			s.putOn("")
		}
	}
}

// Follow returns a channel with the numbers of a brew, and a function that ends it. Slow readers
// miss older numbers. The error is ErrNoSession.
func (ss *Sessions) Follow(id string) (numbers <-chan Numbers, leave func(), err error) {
	s := ss.session(id)
	if s == nil {
		return nil, nil, ErrNoSession
	}
	defer s.mu.Unlock()
	c := make(chan Numbers, 1)
	s.screens[c] = true
	st, isRunning := s.state.(*running)
	if len(s.readings) > 0 && (!isRunning || st.watching) {
		c <- s.numbers
	}
	return c, func() {
		s.mu.Lock()
		defer s.mu.Unlock()
		delete(s.screens, c)
	}, nil
}

// Trace returns the readings of a brew so far, none if its scale has seen no water. The error is
// ErrNoSession.
func (ss *Sessions) Trace(id string) ([]trace.Reading, error) {
	s := ss.session(id)
	if s == nil {
		return nil, ErrNoSession
	}
	defer s.mu.Unlock()
	if st, ok := s.state.(*running); ok && st.watching {
		out := slices.Clone(s.readings)
		for i := range out {
			out[i].At += st.shift
		}
		return out, nil
	}
	return nil, nil
}

// TakePending returns the readings of all running brews that are not stored yet. If they cannot
// be stored, pass them to Requeue.
func (ss *Sessions) TakePending() map[string][]trace.Reading {
	out := map[string][]trace.Reading{}
	for _, s := range ss.all() {
		s.mu.Lock()
		if st, ok := s.state.(*running); ok && st.watching && len(st.pending) > 0 {
			out[s.id], st.pending = st.pending, nil
		}
		s.mu.Unlock()
	}
	return out
}

// Requeue puts readings that could not be stored back, before those that came since.
func (ss *Sessions) Requeue(batch map[string][]trace.Reading) {
	for _, s := range ss.all() {
		s.mu.Lock()
		if st, ok := s.state.(*running); ok {
			st.pending = append(batch[s.id], st.pending...)
		}
		s.mu.Unlock()
	}
}

// Tend reports scales that were lost and closes idle sessions. Call it a few times a second.
func (ss *Sessions) Tend() {
	uptime := ss.uptime()
	for _, s := range ss.all() {
		s.mu.Lock()
		if s.scale != "" && uptime-s.heard > LostAfter {
			ss.lose(s)
		}
		idle := s.idle(uptime)
		s.mu.Unlock()
		if idle {
			ss.mu.Lock()
			delete(ss.byID, s.id)
			ss.mu.Unlock()
		}
	}
}

// lose removes the scale from a session: its brew continues by the clock and by taps. The session is
// locked.
func (ss *Sessions) lose(s *Session) {
	switch st := s.state.(type) {
	case *waiting:
		if st.starting { // its brew is about to begin
			return
		}
	case *running:
		if st.watching {
			s.happened(brew.Event{Key: newKey(), Kind: brew.Unwatched, Note: s.scale, At: st.elapsed(ss.clocks)})
		}
	}
	s.scale = ""
}

func (ss *Sessions) all() []*Session {
	ss.mu.Lock()
	defer ss.mu.Unlock()
	out := make([]*Session, 0, len(ss.byID))
	for _, s := range ss.byID {
		out = append(out, s)
	}
	return out
}

package live

import (
	"errors"
	"fmt"
	"slices"
	"sync"
	"time"

	"yardbloom/broadcast"
	"yardbloom/core/brew"
	"yardbloom/core/trace"
	"yardbloom/core/units"
)

// ErrOtherScale is returned for a reading of a second scale on one brew.
var ErrOtherScale = errors.New("another scale is under this brew")

const (
	// leadIn is the part of the trace before the first water that is stored, s.
	leadIn units.Seconds = 3
	// leadOut is the time after the end of a brew in which readings are still stored, s, because the brewer
	// may be put back on the scale.
	leadOut units.Seconds = 20
)

// A Session is the in-memory state of one brew on a scale.
type Session struct {
	id  string
	out *queue

	mu       sync.Mutex
	state    state       // *waiting or *running
	scale    string      // ID of the scale; empty if it was lost
	tared    units.Grams // weight removed by tares before the brew
	heard    time.Duration
	reader   trace.Reader
	readings []trace.Reading
	numbers  Numbers
	screens  map[chan Numbers]bool
}

// A state is the state of a session: *waiting or *running.
type state interface{ isState() }

// waiting is the state of a session before the first water.
type waiting struct {
	since    time.Duration
	starting bool // the first water was reported
}

// running is the state of a session whose brew has begun. Its times count from the first water that was stored first, which
// never changes; shift leads to the times of the brew.
type running struct {
	brew       brew.Brew // for its clock, as begun at its origin
	shift      units.Seconds
	ended      units.Seconds
	watching   bool        // the scale has seen water, so that its readings count
	offset     units.Grams // shown by a scale that was not tared when the brew began
	pending    []trace.Reading
	understood int // number of things understood, part of their event keys
}

func (*waiting) isState() {}
func (*running) isState() {}

// running returns the state of a running session for a brew.
func runningOf(b brew.Brew) *running {
	origin := b
	origin.Started = b.Origin().Instant
	return &running{brew: origin, shift: units.Seconds(origin.Started.Sub(b.Started).Seconds()), ended: endOf(b)}
}

// elapsed returns the age of the brew since its origin.
func (st *running) elapsed(clocks *Clocks) units.Seconds {
	return st.brew.Elapsed(clocks.Moment(&st.brew))
}

// happened reports an event of the running brew.
func (s *Session) happened(e brew.Event) {
	if st, ok := s.state.(*running); ok {
		e.Start = st.brew.Origin().Key
	}
	s.out.add(Report{BrewID: s.id, Kind: Happened, Event: e})
}

// read takes in one reading of a running brew. The session is locked.
func (s *Session) read(st *running, scale string, x trace.Reading, uptime time.Duration) error {
	if s.scale != "" && s.scale != scale {
		return ErrOtherScale
	}
	if s.scale == "" {
		s.scale = scale
		if st.watching { // the lost scale is back
			s.watch(st, x.At)
		}
	}
	s.heard = uptime
	x.Grams -= st.offset
	x = x.Rounded()
	if st.ended > 0 && x.At > st.ended+leadOut {
		return nil
	}
	if n := len(s.readings); !trace.IsPlausible(x) || n > 0 && x.At <= s.readings[n-1].At { // impossible weight or time
		return nil
	}
	seen := s.reader.Read(x)
	s.readings, st.pending = append(s.readings, x), append(st.pending, x)
	s.numbers = Numbers{At: x.At + st.shift, Grams: s.reader.Total(), Rate: s.reader.Rate(), Pouring: s.reader.Pouring(), Away: s.reader.Away()}
	for _, one := range seen {
		if one.Kind == trace.Began && !st.watching {
			st.watching = true
			s.watch(st, one.At)
		}
		s.understand(st, one)
	}
	if st.watching {
		s.show()
	}
	return nil
}

// understand reports something that the trace reader recognised.
func (s *Session) understand(st *running, seen trace.Seen) {
	n := st.understood
	st.understood++
	switch seen.Kind {
	case trace.Emptied:
		s.out.add(Report{BrewID: s.id, Kind: Emptied})
		return
	case trace.Tared:
		s.out.add(Report{BrewID: s.id, Kind: Tared, Tared: seen.Total})
		return
	}
	if e, ok := brew.EventOf(seen); ok {
		e.Key = fmt.Sprintf("scale-%d", n)
		s.happened(e)
	}
}

// watch reports that a scale sees the brew from a moment on.
func (s *Session) watch(st *running, at units.Seconds) {
	s.happened(brew.Event{Key: newKey(), Kind: brew.Watched, Note: s.scale, At: max(0, at), Grams: s.tared + st.offset})
}

// show sends the latest numbers to the screens.
func (s *Session) show() {
	for c := range s.screens {
		broadcast.Send(c, s.numbers)
	}
}

// putOn changes the scale of a waiting session; empty for none. The session is locked.
func (s *Session) putOn(scale string) {
	s.scale, s.readings, s.reader, s.tared = scale, nil, trace.Reader{}, 0
}

// wait takes in one reading before the first water and reports the first water. The session is
// locked.
func (s *Session) wait(st *waiting, scale string, grams units.Grams, uptime time.Duration) {
	const empty, loaded = 1, 15 // g
	if s.scale != scale {
		s.putOn(scale)
	}
	s.heard = uptime
	x := trace.Reading{At: units.Seconds((uptime - st.since).Seconds()), Grams: grams}
	last, ok := s.reader.Weight()
	if ok && last.Grams > loaded && x.Grams < empty && x.Grams > -empty { // tared just now
		s.tared, s.reader, s.readings = last.Grams, trace.Reader{}, nil
	}
	seen := s.reader.Read(x)
	s.readings = append(s.readings, x)
	for len(s.readings) > 0 && s.readings[0].At < x.At-leadIn {
		s.readings = s.readings[1:]
	}
	s.numbers = Numbers{Grams: x.Grams, Away: s.reader.Away()}
	s.show()
	for _, one := range seen {
		if one.Kind == trace.Began && one.Total > -empty && one.Total < empty && !st.starting {
			st.starting = true
			s.out.add(Report{BrewID: s.id, Kind: FirstWater, Uptime: st.since + seconds(one.At)})
		}
	}
}

// begin moves a waiting session to the running state. elapsed is the age of the brew. Readings
// from just before the first water become part of its trace. The session is locked.
func (s *Session) begin(st *waiting, b brew.Brew, elapsed units.Seconds, uptime time.Duration) error {
	const level = 2 // g, above which the scale was not tared
	shift := units.Seconds((uptime - st.since).Seconds()) - elapsed
	before, scale := s.readings, s.scale
	next := runningOf(b)
	next.ended = 0
	s.state, s.reader, s.readings, s.scale = next, trace.Reader{}, nil, ""
	if n := len(before); n > 0 && (before[0].Grams > level || before[0].Grams < -level) {
		next.offset = before[0].Grams
		s.happened(brew.Event{Key: newKey(), Kind: brew.Tared, Grams: next.offset})
	}
	var errs []error
	for _, x := range before {
		x.At -= shift
		errs = append(errs, s.read(next, scale, x, uptime))
	}
	return errors.Join(errs...)
}

// resume restores a running session from its brew and stored readings. Everything is understood
// again: events that were stored before have the same keys.
func (s *Session) resume(b brew.Brew, stored []trace.Reading) {
	st := runningOf(b)
	s.state = st
	stored = slices.Clone(stored)
	for i := range stored {
		stored[i].At -= st.shift
	}
	for _, x := range stored {
		for _, seen := range s.reader.Read(x) {
			st.watching = true
			s.understand(st, seen)
		}
	}
	s.readings = stored
	for _, e := range b.Events {
		switch e.Kind {
		case brew.Tared:
			st.offset = e.Grams
		case brew.Watched: // the scale is expected back, or is reported as lost
			s.scale, st.watching, s.tared = e.Note, true, e.Grams-st.offset
		case brew.Unwatched:
			s.scale = ""
		}
	}
}

// idle reports whether the session can be closed. The session is locked.
func (s *Session) idle(uptime time.Duration) bool {
	st, isRunning := s.state.(*running)
	stored := !isRunning || len(st.pending) == 0 || !st.watching
	return uptime-s.heard > idleAfter && len(s.screens) == 0 && stored
}

// endOf returns the second at which a brew ended, since its origin; 0 while it runs.
func endOf(b brew.Brew) units.Seconds {
	if b.Status == brew.Running {
		return 0
	}
	return max(1, units.Seconds(b.Ended.Sub(b.Origin().Instant).Seconds()))
}

func seconds(s units.Seconds) time.Duration { return time.Duration(float64(s) * float64(time.Second)) }

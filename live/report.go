package live

import (
	"crypto/rand"
	"slices"
	"sync"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/units"
)

// A Report is one thing that a session understood from its scale. The yard acts on it and tells
// the session the outcome.
type Report struct {
	BrewID string
	Kind   ReportKind
	Event  brew.Event    // of Happened
	Uptime time.Duration // of FirstWater: when it was seen
	Tared  units.Grams   // of Tared: the weight before the tare
}

// A ReportKind is the kind of a report.
type ReportKind int

const (
	// Happened is an event of a running brew. The outcome goes to Sessions.Update.
	Happened ReportKind = iota
	// FirstWater is seen under a waiting brew. The outcome goes to Sessions.Begun or NotBegun.
	FirstWater
	// Emptied means that the water was tipped out again: it may have been the rinse. If so, the
	// outcome goes to Sessions.Undone.
	Emptied
	// Tared means that the scale was tared: the supposed water may have been the coffee. If so, the outcome
	// goes to Sessions.Undone.
	Tared
)

// A queue holds reports in their order. It never blocks a reading. It is safe for concurrent use.
type queue struct {
	ready   chan struct{}
	mu      sync.Mutex
	reports []Report
}

func newQueue() *queue { return &queue{ready: make(chan struct{}, 1)} }

func (q *queue) add(r Report) {
	q.mu.Lock()
	q.reports = append(q.reports, r)
	q.mu.Unlock()
	select {
	case q.ready <- struct{}{}:
	default: // signalled already
	}
}

func (q *queue) next() (r Report, ok bool) {
	q.mu.Lock()
	defer q.mu.Unlock()
	if len(q.reports) == 0 {
		return r, false
	}
	r, q.reports = q.reports[0], q.reports[1:]
	return r, true
}

// drop removes the reports about a brew.
func (q *queue) drop(brewID string) {
	q.mu.Lock()
	defer q.mu.Unlock()
	q.reports = slices.DeleteFunc(q.reports, func(r Report) bool { return r.BrewID == brewID })
}

// newKey returns a key for an event that no other event has.
func newKey() string { return rand.Text() }

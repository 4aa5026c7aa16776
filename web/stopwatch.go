package web

import (
	"cmp"
	"sync"
	"time"

	"yardbloom/core/brew"
)

// A stopwatch knows how long brews have run, whatever the clock on the wall does
// meanwhile: a step of that clock must neither freeze a brew nor leap over a pour.
type stopwatch struct {
	uptime func() time.Duration // since some moment; never steps; nil: the wall clock is all there is
	mu     sync.Mutex
	seen   map[string]reading // by brew
	speeds map[string]hurried // of brews that are watched faster than they are brewed
}

// A hurried brew runs so many times faster since a moment of the wall clock.
type hurried struct {
	speed float64
	since time.Time
}

// A reading is how long a brew had run at an uptime.
type reading struct{ elapsed, uptime time.Duration }

// now is the moment at which a brew stands, when the wall clock shows wall. The first
// look at a brew believes the wall clock, but not that it is earlier than what was
// last tapped: after a restart that is all there is to go by.
func (w *stopwatch) now(b *brew.Brew, wall time.Time) time.Time {
	w.mu.Lock()
	defer w.mu.Unlock()
	if h, only := w.speeds[b.ID]; only { // watched: by the wall clock, faster
		if b.Status != brew.Running {
			return b.Ended
		}
		return b.Started.Add(time.Duration(float64(wall.Sub(h.since)) * h.speed))
	}
	if w.uptime == nil || b.Status != brew.Running {
		return wall
	}
	uptime := w.uptime()
	r, seen := w.seen[b.ID]
	if !seen {
		r = reading{wall.Sub(b.Started), uptime}
		for _, e := range b.Events {
			r.elapsed = max(r.elapsed, time.Duration(float64(e.At)*float64(time.Second)))
		}
		w.seen[b.ID] = r
	}
	return b.Started.Add(r.elapsed + uptime - r.uptime)
}

// forget lets go of a brew that has not begun after all.
func (w *stopwatch) forget(brewID string) {
	w.mu.Lock()
	defer w.mu.Unlock()
	delete(w.seen, brewID)
}

// hurry lets the clock of a brew that is only watched run so many times faster from now on.
func (w *stopwatch) hurry(brewID string, speed float64, now time.Time) {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.speeds[brewID] = hurried{speed, now}
}

// speed is how fast the clock of a brew runs.
func (w *stopwatch) speed(brewID string) float64 {
	w.mu.Lock()
	defer w.mu.Unlock()
	return cmp.Or(w.speeds[brewID].speed, 1)
}

package live

import (
	"cmp"
	"sync"
	"time"

	"yardbloom/core/brew"
)

// Clocks measure how long running brews have run. Setting the wall clock neither freezes a brew
// nor skips a pour. Clocks are safe for concurrent use.
type Clocks struct {
	now    func() time.Time
	uptime func() time.Duration // monotonic; nil: use the wall clock

	mu      sync.Mutex
	started map[string]sample // by brew ID, or the ID of a shared clock
	fast    map[string]fast   // simulated brews that run faster than real time
}

// A sample pairs a moment on the clock of a brew with the uptime at that moment.
type sample struct {
	moment time.Time
	uptime time.Duration
}

// A fast clock runs at a multiple of real time since a moment of the wall clock.
type fast struct {
	speed float64
	since time.Time
}

// NewClocks returns clocks that read the wall clock from now and elapsed time from uptime, which
// may be nil.
func NewClocks(now func() time.Time, uptime func() time.Duration) *Clocks {
	return &Clocks{now: now, uptime: uptime, started: map[string]sample{}, fast: map[string]fast{}}
}

// Moment returns the current time on the clock of a brew. At the first call for a brew the wall
// clock counts, but no less than the latest event: after a restart nothing else is known.
func (c *Clocks) Moment(b *brew.Brew) time.Time {
	wall := c.now()
	c.mu.Lock()
	defer c.mu.Unlock()
	if f, ok := c.fast[b.ID]; ok {
		if b.Status != brew.Running {
			return b.Ended
		}
		return b.Started.Add(time.Duration(float64(wall.Sub(f.since)) * f.speed))
	}
	if c.uptime == nil || b.Status != brew.Running {
		return wall
	}
	if _, known := c.started[b.ID]; !known {
		s := sample{wall, c.uptime()}
		if latest := b.LatestEvent(); latest.After(wall) {
			s.moment = latest
		}
		c.started[b.ID] = s
	}
	return c.read(b.ID)
}

// read returns the current time on a clock that is known; mu is held.
func (c *Clocks) read(id string) time.Time {
	s := c.started[id]
	return s.moment.Add(c.uptime() - s.uptime)
}

// MomentOf returns the current time on a clock that several brews share, such as that of a rush. At the first call for it the
// wall clock counts.
func (c *Clocks) MomentOf(id string) time.Time {
	wall := c.now()
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.uptime == nil {
		return wall
	}
	if _, known := c.started[id]; !known {
		c.started[id] = sample{wall, c.uptime()}
	}
	return c.read(id)
}

// Share lets a brew that is about to begin follow a shared clock.
func (c *Clocks) Share(brewID, id string) {
	c.MomentOf(id)
	c.mu.Lock()
	defer c.mu.Unlock()
	if s, known := c.started[id]; known {
		c.started[brewID] = s
	}
}

// Forget drops the clock of a brew whose start was undone, or one that was shared.
func (c *Clocks) Forget(brewID string) {
	c.mu.Lock()
	defer c.mu.Unlock()
	delete(c.started, brewID)
}

// Accelerate runs the clock of a simulated brew at a multiple of real time from now on.
func (c *Clocks) Accelerate(brewID string, speed float64) {
	now := c.now()
	c.mu.Lock()
	defer c.mu.Unlock()
	c.fast[brewID] = fast{speed, now}
}

// Speed returns the speed of a brew's clock; 1 is real time.
func (c *Clocks) Speed(brewID string) float64 {
	c.mu.Lock()
	defer c.mu.Unlock()
	return cmp.Or(c.fast[brewID].speed, 1)
}

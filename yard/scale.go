package yard

import (
	"context"
	"errors"
	"sync"

	"yardbloom/core/brew"
	"yardbloom/core/gear"
	"yardbloom/core/units"
	"yardbloom/device"
)

// ErrNoScale is returned for a scale that is not connected.
var ErrNoScale = errors.New("there is no such scale")

// placements records the brew on each scale. It is safe for concurrent use.
type placements struct {
	mu      sync.Mutex
	byScale map[string]string // brew IDs
	without map[string]bool   // brews that are to have no scale
}

// brewOn returns the brew on a scale; empty for none.
func (p *placements) brewOn(scaleID string) string {
	p.mu.Lock()
	defer p.mu.Unlock()
	return p.byScale[scaleID]
}

// scaleUnder returns the scale under a brew; empty for none.
func (p *placements) scaleUnder(brewID string) string {
	p.mu.Lock()
	defer p.mu.Unlock()
	for scale, id := range p.byScale {
		if id == brewID {
			return scale
		}
	}
	return ""
}

// refused reports whether a brew is to have no scale.
func (p *placements) refused(brewID string) bool {
	p.mu.Lock()
	defer p.mu.Unlock()
	return p.without[brewID]
}

// put puts a brew on a scale and takes it off any other. With an empty scale it is to have none.
func (p *placements) put(scaleID, brewID string) {
	p.mu.Lock()
	defer p.mu.Unlock()
	for s, id := range p.byScale {
		if id == brewID {
			delete(p.byScale, s)
		}
	}
	if p.byScale == nil {
		p.byScale, p.without = map[string]string{}, map[string]bool{}
	}
	p.without[brewID] = scaleID == ""
	if scaleID != "" {
		p.byScale[scaleID] = brewID
	}
}

// pass calls read with the brew on a scale, if any. Brews cannot be moved meanwhile, so that no
// reading reaches a brew that was taken off.
func (p *placements) pass(scaleID string, read func(brewID string)) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if id := p.byScale[scaleID]; id != "" {
		read(id)
	}
}

// PlaceOnScale puts a brew on a scale. A running brew changes over with the next reading. An
// unknown scale is an ErrNoScale.
func (y *Yard) PlaceOnScale(brewID, scaleID string) error {
	if y.Bench.Link(scaleID) == nil {
		return ErrNoScale
	}
	y.placed.put(scaleID, brewID)
	y.sessions.Lift(brewID)
	return nil
}

// TakeOffScale takes a brew off its scale. It is not offered another one.
func (y *Yard) TakeOffScale(brewID string) {
	y.placed.put("", brewID)
	y.sessions.Lift(brewID)
}

// Tare tares the scale under a brew, if any.
func (y *Yard) Tare(brewID string) {
	if l := y.ScaleUnder(brewID); l != nil {
		l.Tare()
	}
}

// ScaleUnder returns the scale under a brew; nil for none.
func (y *Yard) ScaleUnder(brewID string) *device.Link {
	return y.Bench.Link(y.placed.scaleUnder(brewID))
}

// OfferScale puts a draft on the first free scale, unless it has one or is to have none.
func (y *Yard) OfferScale(ctx context.Context, draftID string) {
	if y.placed.scaleUnder(draftID) != "" || y.placed.refused(draftID) {
		return
	}
	for _, l := range y.Bench.ByKind(gear.Scale) {
		if on := y.placed.brewOn(l.Device.ID); on == "" || !y.isRunning(ctx, on) {
			y.placed.put(l.Device.ID, draftID)
			return
		}
	}
}

// isRunning reports whether a brew is running.
func (y *Yard) isRunning(ctx context.Context, brewID string) bool {
	b, err := y.Store.Brew(ctx, brewID)
	return err == nil && b.Status == brew.Running
}

// Connect connects to the stored devices and disconnects from removed ones.
func (y *Yard) Connect(ctx context.Context) error {
	devices, err := y.Store.Devices(ctx)
	if err != nil {
		return err
	}
	for _, l := range y.Bench.Sync(devices) {
		if l.Device.Kind == gear.Scale {
			y.attendScale(l)
		}
	}
	return nil
}

// attendScale passes the readings of a scale to the brew on it.
func (y *Yard) attendScale(l *device.Link) {
	messages, cancel := l.Follow()
	y.running.Go(func() {
		defer cancel()
		for {
			select {
			case <-y.Hub.Closed():
				return
			case <-l.Closed():
				return
			case m := <-messages:
				if m.Grams == nil {
					continue
				}
				y.placed.pass(l.Device.ID, func(brewID string) {
					_ = y.read(brewID, l.Device.ID, units.Grams(*m.Grams)) // an error is another scale's brew
				})
			}
		}
	})
}

// restorePlacements puts running brews back on the scales that saw them before a restart.
func (y *Yard) restorePlacements(ctx context.Context) error {
	running, err := y.Store.Running(ctx)
	if err != nil {
		return err
	}
	for _, id := range running {
		b, err := y.Store.Brew(ctx, id)
		if err != nil {
			return err
		}
		for _, e := range b.Events {
			if e.Kind == brew.Watched {
				y.placed.put(e.Note, id)
			}
		}
	}
	return nil
}

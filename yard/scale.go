package yard

import (
	"context"
	"errors"
	"sync"

	"yardbloom/core/brew"
	"yardbloom/core/gear"
	"yardbloom/core/units"
	"yardbloom/device"
	"yardbloom/live"
	"yardbloom/store"
)

var (
	// ErrNoScale is returned for a scale that is not connected.
	ErrNoScale = errors.New("there is no such scale")
	// ErrScaleHeld is returned for a scale that another brew holds.
	ErrScaleHeld = errors.New("the scale is armed for another brew")
)

// placements records the brew that holds each scale. Its changes are stored, so that a restart keeps them. It is safe for
// concurrent use.
type placements struct {
	changing sync.Mutex // held while a brew is moved
	mu       sync.Mutex
	byScale  map[string]string // brew IDs
	byTaps   map[string]bool   // brews that are to have no scale
	lost     map[string]Loss   // by the brew that lost its scale
}

// A Loss tells that the scale of a brew was taken for another one.
type Loss struct{ Scale, To string } // ID of the scale, and of the brew

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

// isByTaps reports whether a brew is to have no scale.
func (p *placements) isByTaps(brewID string) bool {
	p.mu.Lock()
	defer p.mu.Unlock()
	return p.byTaps[brewID]
}

// lossOf returns how a brew lost its scale, if it did.
func (p *placements) lossOf(brewID string) (Loss, bool) {
	p.mu.Lock()
	defer p.mu.Unlock()
	l, ok := p.lost[brewID]
	return l, ok
}

// put puts a brew on a scale, in place of any other, and takes it off any other. With an empty scale it is to have none. It
// returns the brew that lost the scale; empty for none.
func (p *placements) put(scaleID, brewID string) (loser string) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.byScale == nil {
		p.byScale, p.byTaps, p.lost = map[string]string{}, map[string]bool{}, map[string]Loss{}
	}
	for s, id := range p.byScale {
		if id == brewID {
			delete(p.byScale, s)
		}
	}
	delete(p.lost, brewID)
	p.byTaps[brewID] = scaleID == ""
	if scaleID == "" {
		return ""
	}
	loser = p.byScale[scaleID]
	p.byScale[scaleID] = brewID
	if loser != "" {
		p.lost[loser] = Loss{scaleID, brewID}
	}
	return loser
}

// pass calls read with the brew on a scale, if any. Brews cannot be moved meanwhile, so that no
// reading reaches a brew that was taken off. read must not wait for the database.
func (p *placements) pass(scaleID string, read func(brewID string)) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if id := p.byScale[scaleID]; id != "" {
		read(id)
	}
}

// HappeningsTopic is the topic of the hub under which new happenings are notified; see store.Happening.
const HappeningsTopic = "happenings"

// ScalesTopic is the topic of the hub under which armed and released scales are notified.
const ScalesTopic = "scales"

// PlaceOnScale arms a scale for a draft, or puts a running brew on it, which changes over with the next reading. A scale
// that another waiting or running brew holds is an ErrScaleHeld, unless from is that brew. An unknown scale is an
// ErrNoScale.
func (y *Yard) PlaceOnScale(ctx context.Context, brewID, scaleID, from string) error {
	if y.Bench.Link(scaleID) == nil {
		return ErrNoScale
	}
	y.placed.changing.Lock()
	defer y.placed.changing.Unlock()
	if held := y.HolderOf(ctx, scaleID); held != "" && held != brewID && held != from {
		return ErrScaleHeld
	}
	return y.place(ctx, scaleID, brewID)
}

// place puts a brew on a scale; changing is held.
func (y *Yard) place(ctx context.Context, scaleID, brewID string) error {
	err := y.Store.ClaimScale(ctx, store.Claim{ScaleID: scaleID, BrewID: brewID})
	if errors.Is(err, store.ErrNotFound) {
		return ErrNoScale
	}
	if err != nil {
		return err
	}
	if loser := y.placed.put(scaleID, brewID); loser != "" {
		y.sessions.Lift(loser)
		y.Hub.Notify(loser)
	}
	y.sessions.Lift(brewID)
	y.Hub.Notify(ScalesTopic)
	return nil
}

// HolderOf returns the waiting or running brew that holds a scale; empty for none.
func (y *Yard) HolderOf(ctx context.Context, scaleID string) string {
	on := y.placed.brewOn(scaleID)
	if on == "" {
		return ""
	}
	b, err := y.Store.Brew(ctx, on)
	if err == nil && b.Status != brew.Running {
		return ""
	}
	if errors.Is(err, store.ErrNotFound) {
		if _, _, err = y.Store.Draft(ctx, on); errors.Is(err, store.ErrNotFound) { // archived
			return ""
		}
	}
	return on
}

// TakeOffScale takes a brew off its scale, if any. Taps lead it from now on.
func (y *Yard) TakeOffScale(ctx context.Context, brewID string) error {
	y.placed.changing.Lock()
	defer y.placed.changing.Unlock()
	if err := y.Store.ReleaseScale(ctx, brewID); err != nil {
		return err
	}
	y.placed.put("", brewID)
	y.sessions.Lift(brewID)
	y.Hub.Notify(ScalesTopic)
	return nil
}

// ArmFreeScale arms the yard's scale for a draft at the end of its set-up, if there is just one and no other brew holds it. A
// draft that has a scale, or is to go by taps, is left alone.
func (y *Yard) ArmFreeScale(ctx context.Context, draftID string) error {
	scales := y.Bench.ByKind(gear.Scale)
	if len(scales) != 1 || y.placed.scaleUnder(draftID) != "" || y.placed.isByTaps(draftID) {
		return nil
	}
	err := y.PlaceOnScale(ctx, draftID, scales[0].Device.ID, "")
	if errors.Is(err, ErrScaleHeld) || errors.Is(err, ErrNoScale) { // its Brew screen asks
		return nil
	}
	return err
}

// CoffeeOf returns the name of the coffee of a draft or a brew; empty for an unknown id.
func (y *Yard) CoffeeOf(ctx context.Context, id string) string {
	if b, err := y.Store.Brew(ctx, id); err == nil {
		return b.Bag.Name
	}
	d, _, _ := y.Store.Draft(ctx, id) // the zero value without one
	return d.Bag.Name
}

// LostScale returns how a brew lost its scale to another one, if it did.
func (y *Yard) LostScale(brewID string) (Loss, bool) { return y.placed.lossOf(brewID) }

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
				y.takeReading(l.Device.ID, units.Grams(*m.Grams))
			}
		}
	})
}

// takeReading passes a reading of a scale to the brew on it. The session of a brew is opened, from the database, while brews can be
// moved, and the reading is lost if this one was.
func (y *Yard) takeReading(scaleID string, g units.Grams) {
	const tries = 2
	for range tries {
		var on string
		var err error
		y.placed.pass(scaleID, func(brewID string) {
			on, err = brewID, y.sessions.Read(brewID, scaleID, g) // an error is another scale's brew
		})
		if !errors.Is(err, live.ErrNoSession) {
			return
		}
		if err := y.open(on); err != nil {
			y.Log.Error("a session of a scale failed", "brew", on, "err", err)
			return
		}
	}
}

// restorePlacements puts brews back on the scales that were armed for them, or saw them, before a restart.
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
	claims, err := y.Store.Claims(ctx)
	for _, c := range claims {
		y.placed.put(c.ScaleID, c.BrewID)
	}
	clear(y.placed.lost)
	return err
}

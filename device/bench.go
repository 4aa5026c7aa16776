package device

import (
	"slices"
	"sync"

	"yardbloom/core/gear"
)

// A Bench holds the links to all devices of a yard. It is safe for concurrent use.
type Bench struct {
	mu    sync.Mutex
	links map[string]*Link // by device id
	order []string
}

// Sync connects to new devices and those with a changed address, and closes the links to removed ones. It
// returns the new links.
func (b *Bench) Sync(devices []gear.Device) (fresh []*Link) {
	b.mu.Lock()
	defer b.mu.Unlock()
	if b.links == nil {
		b.links = map[string]*Link{}
	}
	b.order = nil
	for _, d := range devices {
		b.order = append(b.order, d.ID)
		if l := b.links[d.ID]; l != nil {
			if l.Device == d {
				continue
			}
			go l.Close()
		}
		l := Connect(d)
		b.links[d.ID] = l
		fresh = append(fresh, l)
	}
	for id, l := range b.links {
		if !slices.Contains(b.order, id) {
			go l.Close()
			delete(b.links, id)
		}
	}
	return fresh
}

// Link returns the link to a device, or nil.
func (b *Bench) Link(id string) *Link {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.links[id]
}

// ByKind returns the links to the devices of a kind, in their order.
func (b *Bench) ByKind(kind gear.DeviceKind) (out []*Link) {
	b.mu.Lock()
	defer b.mu.Unlock()
	for _, id := range b.order {
		if l := b.links[id]; l.Device.Kind == kind {
			out = append(out, l)
		}
	}
	return out
}

// Close closes all links.
func (b *Bench) Close() {
	b.mu.Lock()
	defer b.mu.Unlock()
	for _, l := range b.links {
		l.Close()
	}
	b.links, b.order = nil, nil
}

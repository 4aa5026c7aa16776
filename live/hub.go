// Package live tells the open screens of a brew that something happened to it.
package live

import (
	"context"
	"sync"
)

// A Hub knows which screens are open. It is safe for concurrent use.
type Hub struct {
	mu   sync.Mutex
	open map[string]map[chan struct{}]bool // by brew
	ctx  context.Context
	stop context.CancelFunc
}

// NewHub returns a hub without screens.
func NewHub() *Hub {
	h := &Hub{open: map[string]map[chan struct{}]bool{}}
	h.ctx, h.stop = context.WithCancel(context.Background())
	return h
}

// Close ends the waiting of all screens. It may be called more than once.
func (h *Hub) Close() { h.stop() }

// Context ends when the hub is closed: for what goes on beside requests.
func (h *Hub) Context() context.Context { return h.ctx }

// Closed is closed once the hub is.
func (h *Hub) Closed() <-chan struct{} { return h.ctx.Done() }

// Join returns a channel that is signalled at each change of a brew, and how to leave.
// Of several brews it is signalled at a change of any.
func (h *Hub) Join(brewIDs ...string) (changed <-chan struct{}, leave func()) {
	c := make(chan struct{}, 1)
	h.mu.Lock()
	defer h.mu.Unlock()
	for _, id := range brewIDs {
		if h.open[id] == nil {
			h.open[id] = map[chan struct{}]bool{}
		}
		h.open[id][c] = true
	}
	return c, func() {
		h.mu.Lock()
		defer h.mu.Unlock()
		for _, id := range brewIDs {
			delete(h.open[id], c)
			if len(h.open[id]) == 0 {
				delete(h.open, id)
			}
		}
	}
}

// Tell signals a change. A screen that has not yet seen the last one needs no second signal.
func (h *Hub) Tell(brewID string) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for c := range h.open[brewID] {
		select {
		case c <- struct{}{}:
		default:
		}
	}
}

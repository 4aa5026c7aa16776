// Package live holds the in-memory state of running brews: their clocks, the sessions of those on a scale,
// and the subscriptions of screens.
package live

import (
	"context"
	"sync"
)

// A Hub notifies subscribers of changed topics. A topic is the ID of a brew, or another name that
// both sides agree on. It is safe for concurrent use.
type Hub struct {
	mu     sync.Mutex
	topics map[string]map[chan struct{}]bool
	ctx    context.Context
	stop   context.CancelFunc
}

// NewHub returns a hub without subscribers.
func NewHub() *Hub {
	h := &Hub{topics: map[string]map[chan struct{}]bool{}}
	h.ctx, h.stop = context.WithCancel(context.Background())
	return h
}

// Close cancels the context of the hub. It may be called more than once.
func (h *Hub) Close() { h.stop() }

// Context is cancelled when the hub is closed. Use it for work outside of requests.
func (h *Hub) Context() context.Context { return h.ctx }

// Closed returns a channel that is closed with the hub.
func (h *Hub) Closed() <-chan struct{} { return h.ctx.Done() }

// Subscribe returns a channel that is signalled when any of the topics changes, and a function
// that ends the subscription.
func (h *Hub) Subscribe(topics ...string) (changed <-chan struct{}, cancel func()) {
	c := make(chan struct{}, 1)
	h.mu.Lock()
	defer h.mu.Unlock()
	for _, t := range topics {
		if h.topics[t] == nil {
			h.topics[t] = map[chan struct{}]bool{}
		}
		h.topics[t][c] = true
	}
	return c, func() {
		h.mu.Lock()
		defer h.mu.Unlock()
		for _, t := range topics {
			delete(h.topics[t], c)
			if len(h.topics[t]) == 0 {
				delete(h.topics, t)
			}
		}
	}
}

// Notify wakes all subscribers of a topic. Pending notifications are coalesced.
func (h *Hub) Notify(topic string) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for c := range h.topics[topic] {
		select {
		case c <- struct{}{}:
		default:
		}
	}
}

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
	topics map[string]*topic
	ctx    context.Context
	stop   context.CancelFunc
}

// A topic has its subscribers and the number of its changes since the first of them came.
type topic struct {
	subscribers map[chan struct{}]bool
	changes     uint64
}

// NewHub returns a hub without subscribers.
func NewHub() *Hub {
	h := &Hub{topics: map[string]*topic{}}
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
			h.topics[t] = &topic{subscribers: map[chan struct{}]bool{}}
		}
		h.topics[t].subscribers[c] = true
	}
	return c, func() {
		h.mu.Lock()
		defer h.mu.Unlock()
		for _, t := range topics {
			delete(h.topics[t].subscribers, c)
			if len(h.topics[t].subscribers) == 0 {
				delete(h.topics, t)
			}
		}
	}
}

// Notify wakes all subscribers of a topic. Pending notifications are coalesced.
func (h *Hub) Notify(name string) {
	h.mu.Lock()
	defer h.mu.Unlock()
	t := h.topics[name]
	if t == nil {
		return
	}
	t.changes++
	for c := range t.subscribers {
		select {
		case c <- struct{}{}:
		default:
		}
	}
}

// Generation returns a number that grows with each change of the topics while they have subscribers.
func (h *Hub) Generation(topics ...string) (sum uint64) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for _, name := range topics {
		if t := h.topics[name]; t != nil {
			sum += t.changes
		}
	}
	return sum
}

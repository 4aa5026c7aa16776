package web

import (
	"net/netip"
	"sync"
	"time"
)

// signInLimiter limits sign-in attempts by network with growing waits, without affecting other networks. There is
// one account, the yard's. It is safe for concurrent use; the zero value is ready for use.
type signInLimiter struct {
	mu     sync.Mutex
	failed map[netip.Prefix]failures
}

type failures struct {
	count int
	last  time.Time
}

// network returns the network of one client: an IPv4 address, or an IPv6 /64. It is the zero Prefix for an
// unknown address.
func network(a netip.Addr) netip.Prefix {
	a = a.Unmap()
	bits := a.BitLen()
	if a.Is6() {
		bits = 64
	}
	p, _ := a.Prefix(bits) // fails only for the zero Addr
	return p
}

const (
	freeTries   = 5
	longestWait = 5 * time.Minute
	// forgetAfter is the time without attempts after which a network's failures are forgotten.
	forgetAfter = time.Hour
	// maxNetworks limits the memory that strangers can occupy.
	maxNetworks = 10_000
)

// wait returns the wait after the last attempt: none for the first failures, then a second that doubles
// with each.
func (f failures) wait() time.Duration {
	if f.count < freeTries {
		return 0
	}
	const doublings = 9 // 512 s exceed the longest wait
	return min(longestWait, time.Second<<min(f.count-freeTries, doublings))
}

// begin counts an attempt as a failure until it succeeds, so that concurrent attempts count too. It returns
// the required wait; 0 for none.
func (t *signInLimiter) begin(from netip.Prefix, now time.Time) time.Duration {
	t.mu.Lock()
	defer t.mu.Unlock()
	f := t.failed[from]
	if now.Sub(f.last) > forgetAfter {
		f.count = 0
	}
	if left := f.wait() - now.Sub(f.last); f.count > 0 && left > 0 {
		return left
	}
	if t.failed == nil || len(t.failed) >= maxNetworks {
		t.forget(now)
	}
	t.failed[from] = failures{f.count + 1, now}
	return 0
}

// forget removes expired networks, and all of them if that does not make room.
func (t *signInLimiter) forget(now time.Time) {
	kept := map[netip.Prefix]failures{}
	for from, f := range t.failed {
		if now.Sub(f.last) <= forgetAfter {
			kept[from] = f
		}
	}
	if len(kept) >= maxNetworks {
		kept = map[netip.Prefix]failures{}
	}
	t.failed = kept
}

// forgive takes back an attempt whose password was not checked.
func (t *signInLimiter) forgive(from netip.Prefix) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if f, ok := t.failed[from]; ok {
		f.count = max(0, f.count-1)
		t.failed[from] = f
	}
}

func (t *signInLimiter) succeeded(from netip.Prefix) {
	t.mu.Lock()
	defer t.mu.Unlock()
	delete(t.failed, from)
}

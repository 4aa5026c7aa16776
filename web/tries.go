package web

import (
	"net/netip"
	"sync"
	"time"
)

// tries counts wrong passwords per network, so that a stranger who guesses waits
// longer and longer, and nobody else does. There is one account, the yard's. It is
// safe for concurrent use; the zero value has seen none.
type tries struct {
	mu     sync.Mutex
	failed map[netip.Prefix]failures
}

type failures struct {
	count int
	last  time.Time
}

// network is what one person has of the network: an IPv4 address, or the /64 that a
// household is given of IPv6. Where an address is not known it is the zero Prefix.
func network(a netip.Addr) netip.Prefix {
	a = a.Unmap()
	bits := a.BitLen()
	if a.Is6() {
		bits = 64
	}
	p, _ := a.Prefix(bits) // fails for the zero Addr alone
	return p
}

const (
	freeTries   = 5
	longestWait = 5 * time.Minute
	// forgiven is after how long without a try a network begins anew.
	forgiven = time.Hour
	// mostNetworks bounds the memory that strangers can fill.
	mostNetworks = 10_000
)

// wait is how long after its last try a network must wait: none for the first
// ones, then a second that doubles with each.
func (f failures) wait() time.Duration {
	if f.count < freeTries {
		return 0
	}
	const doublings = 9 // 512 s are more than the longest wait
	return min(longestWait, time.Second<<min(f.count-freeTries, doublings))
}

// begin counts a try as a failure until it succeeded, so that many at once count
// too. It returns how long the network must wait instead; 0 for not at all.
func (t *tries) begin(from netip.Prefix, now time.Time) time.Duration {
	t.mu.Lock()
	defer t.mu.Unlock()
	f := t.failed[from]
	if now.Sub(f.last) > forgiven {
		f.count = 0
	}
	if left := f.wait() - now.Sub(f.last); f.count > 0 && left > 0 {
		return left
	}
	if t.failed == nil || len(t.failed) >= mostNetworks {
		t.forget(now)
	}
	t.failed[from] = failures{f.count + 1, now}
	return 0
}

// forget drops the networks that are forgiven, and all where that does not make room.
func (t *tries) forget(now time.Time) {
	kept := map[netip.Prefix]failures{}
	for from, f := range t.failed {
		if now.Sub(f.last) <= forgiven {
			kept[from] = f
		}
	}
	if len(kept) >= mostNetworks {
		kept = map[netip.Prefix]failures{}
	}
	t.failed = kept
}

func (t *tries) succeeded(from netip.Prefix) {
	t.mu.Lock()
	defer t.mu.Unlock()
	delete(t.failed, from)
}

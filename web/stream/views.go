package stream

import (
	"sync"

	"yardbloom/core/units"
)

// viewKey names what screens may share: a view, in the units of its reader.
type viewKey struct {
	view  string
	prefs units.Prefs
}

// views holds the latest event of each view that is open, so that a change is rendered once for all screens that
// show it alike. It is safe for concurrent use.
type views struct {
	mu  sync.Mutex
	all map[viewKey]*view
}

type view struct {
	screens    int
	mu         sync.Mutex
	rendered   bool
	generation uint64
	text       string
	err        error
}

// open returns the shared view of a key, and a function that leaves it.
func (v *views) open(key viewKey) (one *view, leave func()) {
	v.mu.Lock()
	defer v.mu.Unlock()
	if v.all == nil {
		v.all = map[viewKey]*view{}
	}
	if v.all[key] == nil {
		v.all[key] = &view{}
	}
	one = v.all[key]
	one.screens++
	return one, func() {
		v.mu.Lock()
		defer v.mu.Unlock()
		if one.screens--; one.screens == 0 {
			delete(v.all, key)
		}
	}
}

// event returns the event for a generation of the topics, rendered by the first screen that needs it.
func (v *view) event(generation uint64, render func() (string, error)) (string, error) {
	v.mu.Lock()
	defer v.mu.Unlock()
	if !v.rendered || v.generation < generation {
		v.text, v.err = render()
		v.rendered, v.generation = v.err == nil, generation
	}
	return v.text, v.err
}

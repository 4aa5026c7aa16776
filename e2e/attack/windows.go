package main

import (
	"maps"
	"strconv"
	"sync"
	"sync/atomic"
)

// saveAtOnce saves one form in twenty windows at once: one succeeds, the others get a conflict.
func saveAtOnce(a *arena) (r result, err error) {
	p, err := a.begin("two windows")
	if err != nil {
		return r, err
	}
	c := newClient(p.URL())
	for range a.rounds(1, 10) {
		for _, form := range []struct {
			path, field string
			from, step  float64
		}{
			{"/brews/slate-terrace-4/cup", "tds", 1.2, 0.01}, {"/bags/slate-terrace", "weight", 300, 1}, {"/settings", "altitude", 300, 1},
			{"/gear/grinders/apron-mill", "loss", 0.1, 0.01}, {"/gear/kettles/stove-kettle", "capacity", 900, 1},
			{"/gear/brewers/window-cone", "holds", 480, 1},
		} {
			shown, err := c.entries(form.path)
			if err != nil {
				return r, err
			}
			var kept atomic.Int32
			var all sync.WaitGroup
			const windows = 20
			for i := range windows {
				mine := maps.Clone(shown)
				mine.Set(form.field, strconv.FormatFloat(form.from+float64(i)*form.step, 'f', 2, 64))
				all.Go(func() {
					if _, err := c.post(form.path, mine); err == nil {
						kept.Add(1)
					}
				})
			}
			all.Wait()
			if r.tried += windows; kept.Load() != 1 {
				r.harm("%s: %d of %d saves were kept", form.path, kept.Load(), windows)
			}
		}
	}
	return r, p.Kill()
}

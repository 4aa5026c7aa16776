package stream

import (
	"errors"
	"sync"
	"testing"

	"yardbloom/core/units"
)

// Screens that show a brew alike render each change once; other units render it once more; a view without screens
// is forgotten. Mutations caught: a rendering for each screen, one shared across units, an old one after a change, a
// failure that is remembered.
func TestChangeIsRenderedOnceForAlikeScreens(t *testing.T) {
	var v views
	metric, imperial := viewKey{"brew", units.Prefs{}}, viewKey{"brew", units.Prefs{Ounces: true}}
	renders := map[viewKey]int{}
	var mu sync.Mutex
	show := func(key viewKey, one *view, generation uint64) {
		if _, err := one.event(generation, func() (string, error) {
			mu.Lock()
			defer mu.Unlock()
			renders[key]++
			return "shown", nil
		}); err != nil {
			t.Error(err)
		}
	}
	var all sync.WaitGroup
	var leaves []func()
	for i := range 6 {
		key := metric
		if i >= 4 {
			key = imperial
		}
		one, leave := v.open(key)
		leaves = append(leaves, leave)
		all.Go(func() {
			show(key, one, 1)
			show(key, one, 1)
		})
	}
	all.Wait()
	if renders[metric] != 1 || renders[imperial] != 1 {
		t.Errorf("after one change: %v", renders)
	}
	one, leave := v.open(metric)
	leaves = append(leaves, leave)
	show(metric, one, 2)
	show(metric, one, 2)
	if renders[metric] != 2 {
		t.Errorf("after two changes: %v", renders)
	}
	if _, err := one.event(3, func() (string, error) { return "", errors.New("gone") }); err == nil {
		t.Error("a failure is not told")
	}
	show(metric, one, 3)
	if renders[metric] != 3 {
		t.Errorf("after a failure: %v", renders)
	}
	for _, leave := range leaves {
		leave()
	}
	if len(v.all) != 0 {
		t.Errorf("%d views without screens", len(v.all))
	}
}

package store

import (
	"errors"
	"testing"
	"time"

	"yardbloom/core/brew"
)

// An export has every brew of its filter once, in its order, over several steps, and ends with the first error. Mutations caught: a step
// that begins at the wrong place, one that ends early, an error that is swallowed.
func TestExportHasEveryBrewOnce(t *testing.T) {
	t.Parallel()
	s := manyBags(t)
	from := time.Date(2024, 2, 1, 0, 0, 0, 0, time.UTC)
	f := Filter{From: from, To: from.AddDate(0, 4, 0)}
	for _, f.Sort = range Sorts() {
		seen, last := map[string]bool{}, from.AddDate(1, 0, 0)
		must(t, s.EachLogged(ctx, f, func(b brew.Brew) error {
			if seen[b.ID] || b.Started.After(last) || b.Started.Before(f.From) || !b.Started.Before(f.To) {
				t.Errorf("%s by %q: twice or out of order", b.ID, f.Sort)
			}
			seen[b.ID], last = true, b.Started
			return nil
		}))
		var want int
		must(t, s.read.get(ctx, &want, `SELECT COUNT(*) FROM brews WHERE started_at >= ? AND started_at < ?`, instant{f.From}, instant{f.To}))
		if len(seen) != want || want < 4*exportStep {
			t.Errorf("by %q: %d brews, want %d", f.Sort, len(seen), want)
		}
	}
	enough, n := errors.New("enough"), 0
	if err := s.EachLogged(ctx, Filter{}, func(brew.Brew) error {
		if n++; n == exportStep+1 {
			return enough
		}
		return nil
	}); err != enough || n != exportStep+1 {
		t.Errorf("stopped after %d brews with %v", n, err)
	}
}

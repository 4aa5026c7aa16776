package store

import (
	"errors"
	"reflect"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
)

// A deleted brew is gone from the log, the path and the stock, and comes back whole: events, tastings, corrections, its place in the
// path. After thirty days only its id is left. Mutations caught: a table that is forgotten, a child without a parent, a brew that
// is restored twice, contents that stay for ever.
func TestRemovedBrewComesBackWhole(t *testing.T) {
	t.Parallel()
	s, bagID, id := yard(t)
	first := start(t, s, id)
	if err := s.Remove(ctx, Brews, first.ID, "", noon); !errors.Is(err, ErrRunning) {
		t.Errorf("a running brew: %v", err)
	}
	finish := func(id string) {
		_, err := s.Change(ctx, id, func(b brew.Brew) (brew.Brew, error) {
			return b.Apply(brew.Event{Key: "f", Kind: brew.Finish, At: 200}, noon.Add(time.Hour))
		})
		must(t, err)
		for _, notes := range []string{"walnut", "pear"} { // a correction
			_, err := tasteAs(s, id, cup.Cup{Drawdown: 200, TDS: 1.4, Beverage: 260, Taste: cup.Taste{Overall: 7, Notes: notes, Faults: map[cup.Fault]bool{}}})
			must(t, err)
		}
	}
	finish(first.ID)
	second := plan(t, s, bagID, "second")
	d, _, err := s.Draft(ctx, second)
	must(t, err)
	d.Parent = first.ID
	must(t, s.DiscardDraft(ctx, second, true, noon))
	d.ID = "third"
	must(t, s.AddDraft(ctx, d, noon))
	_, err = s.Begin(ctx, "third", brew.Event{Key: "s", Kind: brew.Start, Instant: noon.Add(2 * time.Hour)}, nil)
	must(t, err)

	whole, err := s.Brew(ctx, first.ID)
	must(t, err)
	corrected, err := s.Corrections(ctx, first.ID)
	must(t, err)
	left := func() float64 { b, err := s.Bag(ctx, bagID); must(t, err); return float64(b.Left()) }
	stock := left()
	must(t, s.Remove(ctx, Brews, first.ID, "", noon))
	if _, err := s.Brew(ctx, first.ID); !errors.Is(err, ErrNotFound) || left() <= stock {
		t.Errorf("after the deletion: %v, %v g left of %v", err, left(), stock)
	}
	if rows, _ := s.Log(ctx, Filter{Words: "pear", Limit: 5}); len(rows) != 0 {
		t.Errorf("the log still finds %d", len(rows))
	}
	if b, err := s.Brew(ctx, "third"); err != nil || b.Parent != "" {
		t.Errorf("its child has the parent %q, %v", b.Parent, err)
	}
	if err := s.Remove(ctx, Brews, first.ID, "", noon); !errors.Is(err, ErrNotFound) {
		t.Errorf("deleted twice: %v", err)
	}
	all, err := s.Removed(ctx, noon.Add(time.Hour))
	if err != nil || len(all) != 1 || all[0].ID != first.ID {
		t.Errorf("deleted: %+v, %v", all, err)
	}
	kind, err := s.Restore(ctx, first.ID)
	must(t, err)
	back, err := s.Brew(ctx, first.ID)
	must(t, err)
	again, _ := s.Corrections(ctx, first.ID)
	if kind != Brews || !reflect.DeepEqual(back, whole) || !reflect.DeepEqual(again, corrected) || left() != stock {
		t.Errorf("came back as %+v\nit was %+v", back, whole)
	}
	if rows, _ := s.Log(ctx, Filter{Words: "pear", Limit: 5}); len(rows) != 1 {
		t.Errorf("the log finds %d", len(rows))
	}
	if b, _ := s.Brew(ctx, "third"); b.Parent != first.ID {
		t.Errorf("its child has the parent %q", b.Parent)
	}
	if _, err := s.Restore(ctx, first.ID); !errors.Is(err, ErrNotFound) {
		t.Errorf("restored twice: %v", err)
	}

	must(t, s.Remove(ctx, Brews, first.ID, "", noon))
	must(t, s.Remove(ctx, Scripts, addedScript(t, s), "", noon.Add(Restorable+time.Hour)))
	if _, err := s.Restore(ctx, first.ID); !errors.Is(err, ErrNotFound) {
		t.Errorf("after thirty days: %v", err)
	}
	if is, err := s.IsRemoved(ctx, first.ID); err != nil || !is {
		t.Errorf("its id is forgotten: %v, %v", is, err)
	}
	if err := s.Remove(ctx, Tries, "x", "", noon); !errors.Is(err, ErrNotFound) {
		t.Errorf("a kind that cannot be deleted: %v", err)
	}
}

func addedScript(t *testing.T, s *Store) string {
	t.Helper()
	id := NewID()
	must(t, errOf(s.write.Exec(`INSERT INTO documents (id, kind, doc, created_at) VALUES (?, 'script', '{"name":"Final"}', ?)`, id, instant{noon})))
	return id
}

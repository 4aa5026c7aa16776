package demo

import (
	"context"
	"math"
	"strings"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/forecast"
	"yardbloom/core/units"
	"yardbloom/store"
)

var (
	ctx = context.Background()
	now = time.Date(2026, 5, 12, 9, 40, 0, 0, time.UTC)
)

func filled(t *testing.T, now time.Time) (*store.Store, []brew.Brew) {
	t.Helper()
	st, err := store.Open(ctx, t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { st.Close() })
	if err := Fill(ctx, st, now); err != nil {
		t.Fatal(err)
	}
	brews, err := st.Log(ctx, store.Filter{Oldest: true})
	if err != nil {
		t.Fatal(err)
	}
	return st, brews
}

// The history must make sense to somebody who reads it closely.
func TestTheStoryHoldsTogether(t *testing.T) {
	st, brews := filled(t, now)
	bags, _ := st.Bags(ctx)
	if len(bags) < 4 || len(brews) < 12 {
		t.Fatalf("%d bags and %d brews", len(bags), len(brews))
	}
	byID := map[int64]brew.Brew{}
	for _, b := range brews {
		byID[b.ID] = b
		if b.Started.After(now) {
			t.Errorf("%s: brewed in the future, %v", b.Bag.Name, b.Started)
		}
		if days, ok := b.Bag.Age(b.Started); !ok || days < 0 {
			t.Errorf("%s: brewed %d days after its roast", b.Bag.Name, days)
		}
		full, err := st.Brew(ctx, b.ID)
		if err != nil {
			t.Fatal(err)
		}
		state := full.At(full.Ended)
		if !state.Finished || state.Drawdown != b.Cup.Drawdown {
			t.Errorf("%s of %v: the taps end at %v, the cup says %v", b.Bag.Name, b.Started, state.Drawdown, b.Cup.Drawdown)
		}
		if b.Status != brew.Done {
			continue
		}
		if y, ok := coach.Of(full, units.Prefs{}).Yield(); !ok || y.Value < 16 || y.Value > 24 {
			t.Errorf("%s of %v: a yield of %v", b.Bag.Name, b.Started, y)
		}
	}
	for _, b := range brews {
		before, follows := byID[b.Parent]
		if !follows || b.Asked == nil {
			continue
		}
		// Whoever follows the advice made what it says, and the cup got no worse for it.
		if got := b.Recipe.Value(b.Asked.Knob); got != b.Asked.To {
			t.Errorf("%s: asked for %s %v, brewed %v", b.Bag.Name, b.Asked.Knob, b.Asked.To, got)
		}
		if b.Status == brew.Done && b.Cup.Overall < before.Cup.Overall {
			t.Errorf("%s: following the advice made it worse, from %d to %d", b.Bag.Name, before.Cup.Overall, b.Cup.Overall)
		}
		if o := coach.Compare(before, b); o.Verdict == coach.Opposite {
			t.Errorf("%s: %q did the opposite of what was expected", b.Bag.Name, b.Asked.Say)
		}
	}
}

func TestTheDemoBeginsBeforeBreakfastToo(t *testing.T) {
	early := time.Date(2026, 5, 12, 5, 10, 0, 0, time.UTC)
	_, brews := filled(t, early)
	for _, b := range brews {
		if b.Ended.After(early) {
			t.Errorf("%s ends at %v, in the future", b.Bag.Name, b.Ended)
		}
	}
}

func TestEveryScreenHasSomethingToShow(t *testing.T) {
	st, brews := filled(t, now)
	seen := map[string]bool{}
	for _, b := range brews {
		seen[string(b.Status)] = true
		if b.Status == brew.Done {
			full, _ := st.Brew(ctx, b.ID)
			seen[coach.Advise(coach.Of(full, units.Prefs{})).Rule] = true
		}
	}
	planned, _ := st.Log(ctx, store.Filter{Statuses: []brew.Status{brew.Planned}})
	if len(planned) != 1 || planned[0].Asked == nil {
		t.Error("no recipe with an advised change stands ready")
	}
	for _, want := range []string{"poured", "good", "stale", "sour and bitter", "fast and sour", "thin", "bitter"} {
		if !seen[want] {
			t.Errorf("nothing in the demo shows %q; it has %s", want, strings.Join(keys(seen), ", "))
		}
	}
}

func keys(m map[string]bool) (out []string) {
	for k := range m {
		out = append(out, k)
	}
	return out
}

// What was measured must be what the brew model would find likely: within three
// of its stated errors, and within about one on average.
func TestTheStoryAgreesWithTheModel(t *testing.T) {
	st, brews := filled(t, now)
	var far, n float64
	for _, b := range brews {
		full, err := st.Brew(ctx, b.ID)
		if err != nil {
			t.Fatal(err)
		}
		f, err := forecast.Of(forecast.Question{Recipe: b.Recipe, Bag: b.Bag, Gear: b.Gear, Now: b.Started})
		if err != nil {
			t.Fatal(err)
		}
		off := math.Abs(float64(b.Cup.Drawdown-f.Drawdown)) / float64(f.DrawdownError)
		if y, ok := coach.Of(full, units.Prefs{}).Yield(); ok {
			off = max(off, math.Abs(y.Value-f.Yield.Value)/f.Yield.Error)
		}
		if off > 3 {
			t.Errorf("%s of %v: %v and %.1f %% predicted, %v measured", b.Bag.Name, b.Started, f.Drawdown, f.Yield.Value, b.Cup.Drawdown)
		}
		far, n = far+off, n+1
	}
	if far/n > 1.3 {
		t.Errorf("on average the story lies %.2f errors away from the model", far/n)
	}
}

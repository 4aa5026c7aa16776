package demo

import (
	"context"
	"math"
	"strings"
	"testing"
	"time"

	"yardbloom/core/brew"
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
	rows, err := st.Log(ctx, store.Filter{Limit: 1000})
	if err != nil {
		t.Fatal(err)
	}
	var brews []brew.Brew
	for _, r := range rows {
		b, err := st.Brew(ctx, r.ID)
		if err != nil {
			t.Fatal(err)
		}
		brews = append(brews, b)
	}
	return st, brews
}

// The demo history is consistent for an attentive reader.
func TestDemoHistoryIsConsistent(t *testing.T) {
	t.Parallel()
	st, brews := filled(t, now)
	bags, _ := st.Shelf(ctx, "", "", 100)
	if len(bags) < 4 || len(brews) < 12 {
		t.Fatalf("%d bags and %d brews", len(bags), len(brews))
	}
	byID := map[string]brew.Brew{}
	for _, b := range brews {
		byID[b.ID] = b
		if b.Started.After(now) {
			t.Errorf("%s: brewed in the future, %v", b.Bag.Name, b.Started)
		}
		if days, ok := b.Bag.Age(b.Started); !ok || days < 0 {
			t.Errorf("%s: brewed %d days after its roast", b.Bag.Name, days)
		}
		state := b.At(b.Ended)
		if !state.Finished || state.Drawdown != b.Cup.Drawdown {
			t.Errorf("%s of %v: the taps end at %v, the cup says %v", b.Bag.Name, b.Started, state.Drawdown, b.Cup.Drawdown)
		}
		if b.Status != brew.Done {
			continue
		}
		if y, ok := b.Yield(); !ok || y.Value < 16 || y.Value > 24 {
			t.Errorf("%s of %v: a yield of %v", b.Bag.Name, b.Started, y)
		}
	}
	for _, b := range brews {
		before, follows := byID[b.Parent]
		if !follows || b.Advised == nil {
			continue
		}
		// If the advice was followed, the recipe has the advised value and the cup is no worse.
		if got := b.Recipe.Value(b.Advised.Address); got != b.Advised.To {
			t.Errorf("%s: asked for %s %v, brewed %v", b.Bag.Name, b.Advised.Knob, b.Advised.To, got)
		}
		if b.Status == brew.Done && b.Cup.Overall < before.Cup.Overall {
			t.Errorf("%s: following the advice made it worse, from %d to %d", b.Bag.Name, before.Cup.Overall, b.Cup.Overall)
		}
		if o := brew.Compare(before, b); o.Verdict == brew.Opposite {
			t.Errorf("%s: %q did the opposite of what predicted", b.Bag.Name, b.Advised.Say)
		}
	}
}

func TestDemoBeforeBreakfast(t *testing.T) {
	t.Parallel()
	early := time.Date(2026, 5, 12, 5, 10, 0, 0, time.UTC)
	_, brews := filled(t, early)
	for _, b := range brews {
		if b.Ended.After(early) {
			t.Errorf("%s ends at %v, in the future", b.Bag.Name, b.Ended)
		}
	}
}

func TestDemoFillsEveryScreen(t *testing.T) {
	t.Parallel()
	st, brews := filled(t, now)
	seen := map[string]bool{}
	for _, b := range brews {
		seen[string(b.Status)] = true
		if b.Status == brew.Done {
			seen[b.Advice.Rule] = true
		}
	}
	if drafts, _ := st.Drafts(ctx, "evening-seed", 10); len(drafts) != 1 || drafts[0].Advised == nil {
		t.Error("no draft has an advised change")
	}
	for _, want := range []string{"poured", "good", "stale", "uneven", "too little", "too weak", "too much"} {
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

// The measurements agree with the brew model: within three of its standard errors, and within about one on
// average.
func TestDemoAgreesWithTheModel(t *testing.T) {
	t.Parallel()
	_, brews := filled(t, now)
	var far, n float64
	for _, b := range brews {
		f := b.Forecast
		off := math.Abs(float64(b.Cup.Drawdown-f.Drawdown)) / float64(f.DrawdownError)
		if y, ok := b.Yield(); ok {
			off = max(off, math.Abs(y.Value-f.Yield.Value)/f.Yield.Error)
		}
		if off > 3 {
			t.Errorf("%s of %v: %v and %.1f %% predicted, %v measured", b.Bag.Name, b.Started, f.Drawdown, f.Yield.Value, b.Cup.Drawdown)
		}
		far, n = far+off, n+1
	}
	if far/n > 1.3 {
		t.Errorf("the mean deviation from the model is %.2f errors", far/n)
	}
}

// Mutation caught: generated brews in the future.
func TestGeneratedHistoryEndsBeforeTheStory(t *testing.T) {
	t.Parallel()
	st, story := filled(t, now)
	first := story[0].Started
	for _, b := range story {
		if b.Started.Before(first) {
			first = b.Started
		}
	}
	const brews = 120
	if err := FillLarge(t.Context(), st, now, brews, 1); err != nil {
		t.Fatal(err)
	}
	rows, err := st.Log(t.Context(), store.Filter{Limit: brews + len(story)})
	if err != nil || len(rows) < brews {
		t.Fatalf("%d rows: %v", len(rows), err)
	}
	for _, r := range rows {
		if strings.HasPrefix(r.ID, "bag-") && !r.Started.Before(first) {
			t.Errorf("%s was brewed on %v, in or after the story, which begins on %v", r.ID, r.Started, first)
		}
	}
}

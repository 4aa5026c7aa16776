package demo

import (
	"context"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/jmoiron/sqlx"

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

// skipShort skips a test that makes a whole yard once more, which the race detector need not see again.
func skipShort(t *testing.T) {
	t.Helper()
	if testing.Short() {
		t.Skip("the same work as in the other tests")
	}
}

// The demo history is consistent for an attentive reader: the dates fit, the taps end with the drawdown, and a followed piece of advice is in
// the recipe. Mutations caught: an age that is not subtracted, a drawdown that is not the one of the taps, advice that is dropped.
func TestDemoHistoryIsConsistent(t *testing.T) {
	t.Parallel()
	st, brews := filled(t, now)
	bags, _ := st.Shelf(ctx, "", "", 100)
	if len(bags) != 6 || len(brews) != Brews() || len(brews) < 60 {
		t.Fatalf("%d bags and %d of %d brews", len(bags), len(brews), Brews())
	}
	followed := 0
	for _, b := range brews {
		if b.Started.After(now) {
			t.Errorf("%s: brewed in the future, %v", b.ID, b.Started)
		}
		if days, ok := b.Bag.Age(b.Started); !ok || days < 0 {
			t.Errorf("%s: brewed %d days after its roast", b.ID, days)
		}
		state := b.At(b.Ended)
		if !state.Finished || state.Drawdown != b.Cup.Drawdown {
			t.Errorf("%s: the taps end at %v, the cup says %v", b.ID, state.Drawdown, b.Cup.Drawdown)
		}
		if b.Advised != nil {
			followed++
			if got := b.Recipe.Value(b.Advised.Address); got != b.Advised.To {
				t.Errorf("%s: asked for %s %v, brewed %v", b.ID, b.Advised.Knob, b.Advised.To, got)
			}
		}
		if y, ok := b.Yield(); b.Status == brew.Done && (!ok || y.Value < 16 || y.Value > 25) {
			t.Errorf("%s: a yield of %v", b.ID, y)
		}
	}
	if followed < 8 {
		t.Errorf("advice was followed %d times", followed)
	}
}

// The demo tells its story: recipes get better because the coach was followed, the coach detects a stale bag, a grinder drifts and the
// yard learns it, two people disagree about a coffee, and practice and rehearsals help. Mutations caught: a truth without an effect, a drift
// on the wrong day, palates that are all alike, practice that changes nothing.
func TestDemoTellsItsStory(t *testing.T) {
	skipShort(t)
	t.Parallel()
	st, brews := filled(t, now)
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	byID := map[string]brew.Brew{}
	for _, b := range brews {
		byID[b.ID] = b
	}
	for _, line := range [][2]string{{"slate-terrace-1", "slate-terrace-4"}, {"orchard-wall-1", "orchard-wall-5"}, {"winter-stores-1", "winter-stores-3"}} {
		if first, then := byID[line[0]].Cup.Overall, byID[line[1]].Cup.Overall; then < 8 || then < first+2 {
			t.Errorf("%s got %d, and %s got %d", line[0], first, line[1], then)
		}
	}
	if stale := byID["winter-stores-15"]; stale.Advice == nil || stale.Advice.Rule != "stale" {
		t.Errorf("the coach does not say that the bag is stale: %+v", stale.Advice)
	}
	learned, err := st.Learned(ctx)
	must(err)
	drifts := learned.Drifts()
	if len(drifts) != 1 || !strings.Contains(drifts[0].Grinder, "bench-grinder") || drifts[0].By > -0.05 || drifts[0].Bag {
		t.Fatalf("drifts: %+v", drifts)
	}
	if days := now.Sub(drifts[0].Since).Hours() / 24; math.Abs(days-driftedOn) > 2 {
		t.Errorf("the drift is dated %.0f days ago, not %d", days, driftedOn)
	}
	tries, err := st.Tries(ctx) // latest first
	must(err)
	latest, ok := tries[0].Value.Score()
	first, okFirst := tries[len(tries)-1].Value.Score()
	if !ok || !okFirst || latest.Variation > first.Variation/1.5 {
		t.Errorf("the first practice pour varied by %.2f, the latest by %.2f", first.Variation, latest.Variation)
	}
	script, err := st.Script(ctx, "regional-heat")
	must(err)
	if r := script.Rehearsals; len(r) != 2 || r[1].Ended >= r[0].Ended || r[1].Ended > script.Limit {
		t.Errorf("rehearsals: %+v, with a limit of %v", r, script.Limit)
	}
	must(Name(ctx, st))
	both, err := st.Brew(ctx, "slate-terrace-4")
	must(err)
	if marta, ivo := both.For("marta"), both.For("ivo"); marta.Cup.Overall < 8 || ivo.Cup.Overall > 6 || ivo.Advice == nil || ivo.Advice.First == nil {
		t.Errorf("Marta gives it %d and Ivo %d, with advice %+v", marta.Cup.Overall, ivo.Cup.Overall, ivo.Advice)
	}
}

// chosenByStore lists columns whose values the store chooses: ids of practice pours, short addresses, and times of storing.
var chosenByStore = map[string]string{"documents": "id", "recipes": "code", "happenings": "at"}

// A yard that is made twice is the same, row by row. Mutation caught: a random number without a seed.
func TestDemoIsTheSameEachTime(t *testing.T) {
	skipShort(t)
	t.Parallel()
	rows := func() map[string]string {
		t.Helper()
		file, err := makeFile(ctx, now, true)
		if err != nil {
			t.Fatal(err)
		}
		path := filepath.Join(t.TempDir(), "demo.db")
		if err := os.WriteFile(path, file, 0o600); err != nil {
			t.Fatal(err)
		}
		db, err := sqlx.Open("sqlite", path)
		if err != nil {
			t.Fatal(err)
		}
		defer db.Close()
		var tables []string
		if err := db.Select(&tables, `SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'goose%' AND name NOT LIKE 'sqlite%'
			AND sql NOT LIKE 'CREATE VIRTUAL%'`); err != nil {
			t.Fatal(err)
		}
		out := map[string]string{}
		for _, table := range tables {
			all, err := db.Queryx(`SELECT * FROM "` + table + `"`)
			if err != nil {
				t.Fatal(err)
			}
			var b strings.Builder
			for all.Next() {
				row := map[string]any{}
				if err := all.MapScan(row); err != nil {
					t.Fatal(err)
				}
				delete(row, chosenByStore[table])
				fmt.Fprintln(&b, row) // in the order of their names
			}
			out[table] = b.String()
		}
		return out
	}
	first, second := rows(), rows()
	if len(first) < 20 {
		t.Fatalf("%d tables", len(first))
	}
	for table, was := range first {
		if second[table] != was {
			t.Errorf("%s differs", table)
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
	skipShort(t)
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
	for _, want := range []string{"poured", "good", "stale", "uneven", "too little", "too weak", "too much", "too strong"} {
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
	skipShort(t)
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

package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"reflect"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/trace"
	"yardbloom/core/units"
)

var (
	ctx  = context.Background()
	noon = time.Date(2026, 5, 12, 12, 0, 0, 0, time.FixedZone("", 2*3600))
)

func open(t *testing.T, dir string) *Store {
	t.Helper()
	s, err := Open(ctx, dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return s
}

// Scale readings and revised plans are stored unchanged, also after the database was closed.
func TestReadingsAndRevisionsAreStored(t *testing.T) {
	t.Parallel()
	s, bagID, _ := yard(t)
	id := plan(t, s, bagID, "scaled")
	b, err := s.Begin(ctx, id, brew.Event{Key: "s", Kind: brew.Start, Instant: noon}, nil)
	must(t, err)
	bent := b.Plan
	bent.Steps = slices.Clone(bent.Steps)
	bent.Steps[1].Water, bent.Steps[1].Start = 61, 52
	for _, e := range []brew.Event{{Key: "w", Kind: brew.Watched, Note: "bench", Grams: 418},
		{Key: "b", Kind: brew.Bend, At: 14, Plan: &bent, Note: "8 g less next"}, {Key: "x", Kind: brew.Abandon, At: 20, Note: "spilled"}} {
		_, err := s.Change(ctx, id, func(b brew.Brew) (brew.Brew, error) { return b.Apply(e, noon.Add(time.Minute)) })
		must(t, err)
	}
	first, second := []trace.Reading{{At: -0.5, Grams: 0.1}, {At: 0.12, Grams: 3}}, []trace.Reading{{At: 0.25, Grams: -2.4}}
	must(t, s.AppendReadings(ctx, map[string][]trace.Reading{id: first}))
	must(t, s.AppendReadings(ctx, map[string][]trace.Reading{id: second}))
	if err := s.AppendReadings(ctx, map[string][]trace.Reading{"nobody": first}); err == nil {
		t.Error("readings of an unknown brew are stored")
	}
	got, err := s.Readings(ctx, id)
	must(t, err)
	if !slices.Equal(got, append(first, second...)) {
		t.Errorf("kept: %v", got)
	}
	b, err = s.Brew(ctx, id)
	must(t, err)
	if e := b.Events; len(e) != 4 || e[1].Note != "bench" || e[1].Grams != 418 || e[2].Plan == nil ||
		!reflect.DeepEqual(*e[2].Plan, bent) || e[2].Note != "8 g less next" || e[3].Note != "spilled" {
		t.Errorf("events: %+v", b.Events)
	}
}

func yard(t *testing.T) (s *Store, bagID, draftID string) {
	t.Helper()
	return yardIn(t, t.TempDir())
}

// yardIn is yard in a folder.
func yardIn(t *testing.T, dir string) (s *Store, bagID, draftID string) {
	t.Helper()
	s = open(t, dir)
	must(t, s.SaveBrewer(ctx, gear.Brewer{ID: "cone", Name: "Cone", Kind: gear.OpenCone, Material: gear.Plastic, Filter: gear.StandardPaper,
		Holds: 480}, 0))
	must(t, s.SaveGrinder(ctx, gear.Grinder{ID: "mill", Name: "Mill", Burrs: gear.HandMill,
		Dial: gear.Dial{Kind: gear.Clicks, Zero: 50, Step: 20}, Loss: 0.5}, 0))
	must(t, s.SaveKettle(ctx, gear.Kettle{ID: "kettle", Name: "Kettle", Thermostat: true, Capacity: 900}, 0))
	bagID, err := s.AddBag(ctx, coffee.Bag{ID: "slate", Name: "Slate Terrace", Process: coffee.Washed, Roast: coffee.Light,
		RoastedOn: "2026-04-20", Weight: 250})
	must(t, err)
	return s, bagID, plan(t, s, bagID, "one")
}

// plan adds a draft with an id.
func plan(t *testing.T, s *Store, bagID, id string) string {
	t.Helper()
	g, err := s.Gear(ctx, gear.IDs{Brewer: "cone", Grinder: "mill", Kettle: "kettle"})
	must(t, err)
	d := brew.Draft{Sheet: brew.Sheet{ID: id, BagID: bagID, Created: noon, Gear: g, Recipe: recipe.ThreeRounds.Style().Generate(18, 297, 94)},
		Held: brew.DefaultHeld}
	d.Recipe.Grind = 650
	must(t, s.AddDraft(ctx, d, noon))
	return id
}

// start begins a brew at noon.
func start(t *testing.T, s *Store, id string) brew.Brew {
	t.Helper()
	b, err := s.Begin(ctx, id, brew.Event{Key: "start", Kind: brew.Start, Instant: noon}, nil)
	must(t, err)
	return b
}

// tap applies a tap at its own second.
func tap(s *Store, id string, e brew.Event) (brew.Brew, error) {
	return s.Change(ctx, id, func(b brew.Brew) (brew.Brew, error) {
		return b.Apply(e, noon.Add(time.Duration(e.At)*time.Second))
	})
}

func must(t *testing.T, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

func advance(key string, at units.Seconds) brew.Event {
	return brew.Event{Key: key, Kind: brew.Advance, At: at}
}

func TestHistoryDoesNotChange(t *testing.T) {
	t.Parallel()
	s, bagID, id := yard(t)
	must(t, s.SaveUnits(ctx, "", units.Prefs{}, 240, 0))
	began := start(t, s, id)

	b, err := s.Bag(ctx, bagID)
	must(t, err)
	b.Name, b.Roast = "Renamed", coffee.Dark
	must(t, s.SaveBag(ctx, b))
	must(t, s.SaveGrinder(ctx, gear.Grinder{ID: "mill", Name: "Other mill", Burrs: gear.Blade, Dial: gear.Dial{Kind: gear.Words}}, 0))
	must(t, s.SaveUnits(ctx, "", units.Prefs{Fahrenheit: true}, 3000, 0))
	must(t, s.RetireGear(ctx, "brewers", "cone", true, noon))
	must(t, s.DeleteBag(ctx, bagID, noon))

	got, err := s.Brew(ctx, id)
	must(t, err)
	if got.Bag.Name != "Slate Terrace" || got.Bag.Roast != coffee.Light || got.Gear.Grinder.Name != "Mill" ||
		got.Gear.Brewer.Name != "Cone" {
		t.Errorf("a begun brew changed with its bag or gear: %+v, %+v", got.Bag, got.Gear)
	}
	if len(got.Plan.Steps) != 4 || got.Gear.Boiling != gear.Boiling(240) || got.Forecast == nil || *got.Forecast != *began.Forecast {
		t.Errorf("plan, boiling point or forecast were not stored: %+v", got)
	}
	if name, offset := got.Started.Zone(); offset != 2*3600 {
		t.Errorf("the zone of the wall clock is lost: %s %d", name, offset)
	}
	_, err = tap(s, id, brew.Event{Key: "stop", Kind: brew.Abandon, At: 20})
	must(t, err)
	for _, sql := range []string{`UPDATE brews SET plan = '{}'`, `UPDATE brews SET forecast = 'null'`, `UPDATE brew_events SET at = 1`,
		`DELETE FROM brew_events`} {
		if _, err := s.write.Exec(sql); err == nil {
			t.Errorf("history was rewritten by %s", sql)
		}
	}
}

func TestDraftFollowsItsBagAndGear(t *testing.T) {
	t.Parallel()
	s, bagID, id := yard(t)
	b, err := s.Bag(ctx, bagID)
	must(t, err)
	b.Roast = coffee.Dark
	must(t, s.SaveBag(ctx, b))
	must(t, s.SaveUnits(ctx, "", units.Prefs{}, 1500, 0))
	must(t, s.RetireGear(ctx, "grinders", "mill", true, noon)) // a kept recipe may have retired gear
	got, on, err := s.Draft(ctx, id)
	must(t, err)
	if got.Bag.Roast != coffee.Dark || got.Gear.Grinder.Name != "Mill" || got.Gear.Boiling != gear.Boiling(1500) || on.Left() != 250 {
		t.Errorf("the draft does not have the present bag and gear: %+v %+v", got.Bag, got.Gear)
	}
}

func TestBagConflictsByVersion(t *testing.T) {
	t.Parallel()
	s, bagID, _ := yard(t)
	mine, err := s.Bag(ctx, bagID)
	must(t, err)
	theirs := mine
	theirs.Name = "Theirs"
	must(t, s.SaveBag(ctx, theirs))
	mine.Name = "Mine"
	if err := s.SaveBag(ctx, mine); !errors.Is(err, ErrConflict) {
		t.Errorf("saving over another change: %v", err)
	}
	got, _ := s.Bag(ctx, bagID)
	if got.Name != "Theirs" {
		t.Errorf("the bag is called %q", got.Name)
	}
}

func TestStockIncludesTheGrindersLoss(t *testing.T) {
	t.Parallel()
	s, bagID, id := yard(t)
	left := func() units.Grams {
		b, err := s.Bag(ctx, bagID)
		must(t, err)
		return b.Left()
	}
	if left() != 250 {
		t.Errorf("a recipe alone used %v g", 250-left())
	}
	start(t, s, id)
	if got := left(); got != 231.5 {
		t.Errorf("after one brew of 18 g with 0.5 g lost %v g are left", got)
	}
}

// Undoing a start restores the draft and deletes the brew; a finished brew cannot be undone.
func TestUndoBegin(t *testing.T) {
	t.Parallel()
	s, _, id := yard(t)
	before, _, err := s.Draft(ctx, id)
	must(t, err)
	start(t, s, id)
	_, err = tap(s, id, brew.Event{Key: "w", Kind: brew.Watched, Note: "bench"})
	must(t, err)
	must(t, s.AppendReadings(ctx, map[string][]trace.Reading{id: {{At: 1, Grams: 3}}}))
	must(t, s.UndoBegin(ctx, before, noon))
	after, _, err := s.Draft(ctx, id)
	must(t, err)
	if !reflect.DeepEqual(after, before) {
		t.Errorf("%+v\nbecame\n%+v", before, after)
	}
	if _, err := s.Brew(ctx, id); !errors.Is(err, ErrNotFound) {
		t.Errorf("the brew is still there: %v", err)
	}
	b := start(t, s, id)
	if kept, err := s.Readings(ctx, id); err != nil || len(kept) > 0 || len(b.Events) != 1 {
		t.Errorf("begun again with %d readings and %d events, %v", len(kept), len(b.Events), err)
	}
	for i, at := range []units.Seconds{12, 45, 62, 85, 102, 125, 142, 200} {
		_, err := tap(s, id, advance(string(rune('a'+i)), at))
		must(t, err)
	}
	if err := s.UndoBegin(ctx, before, noon); !errors.Is(err, ErrNotFound) {
		t.Errorf("a brew that is over was taken back: %v", err)
	}
}

// The earliest first water counts, and readings of a scale count from it too, although they were stored before it was known.
// Mutations caught: a start that comes late is dropped, readings that stay on the old clock.
func TestEarlierStartMovesTheBrewAndItsReadings(t *testing.T) {
	t.Parallel()
	s, _, id := yard(t)
	start(t, s, id)
	must(t, errOf(tap(s, id, advance("first", 12))))
	must(t, s.AppendReadings(ctx, map[string][]trace.Reading{id: {{At: 1, Grams: 2}, {At: 2.5, Grams: 9}}}))
	must(t, errOf(s.Begin(ctx, id, brew.Event{Key: "earlier", Kind: brew.Start, Instant: noon.Add(-20 * time.Second), By: ""}, nil)))
	b, err := s.Brew(ctx, id)
	must(t, err)
	readings, err := s.Readings(ctx, id)
	must(t, err)
	if !b.Started.Equal(noon.Add(-20*time.Second)) || b.At(noon.Add(13 * time.Second)).Stages[0].Left != 32 {
		t.Errorf("begun at %v, the bloom ends at %v", b.Started, b.At(noon.Add(13 * time.Second)).Stages[0].Left)
	}
	if len(readings) != 2 || readings[0].At != 21 || readings[1].At != 22.5 {
		t.Errorf("readings at %+v", readings)
	}
}

func TestBrewIsBegunAndFinishedOnce(t *testing.T) {
	t.Parallel()
	s, _, id := yard(t)
	if _, err := tap(s, id, advance("early", 0)); !errors.Is(err, ErrNotFound) {
		t.Errorf("a tap before the start: %v", err)
	}
	start(t, s, id)
	// A second tablet that begins it gets the running brew.
	if b, err := s.Begin(ctx, id, brew.Event{Key: "other", Kind: brew.Start, Instant: noon.Add(time.Minute)}, nil); err != nil ||
		!b.Started.Equal(noon) || len(b.Events) != 2 {
		t.Errorf("begun twice: %v, %+v", err, b.Events)
	}
	if _, _, err := s.Draft(ctx, id); !errors.Is(err, ErrNotFound) {
		t.Errorf("the draft still exists: %v", err)
	}
	for i, at := range []units.Seconds{12, 45, 62, 85, 102, 125, 142, 200} {
		b, err := tap(s, id, advance(string(rune('a'+i)), at))
		must(t, err)
		if done := i == 7; (b.Status == brew.Poured) != done {
			t.Errorf("after tap %d the brew is %s", i+1, b.Status)
		}
	}
	if b, err := tap(s, id, advance("again", 260)); err != nil || b.Cup.Drawdown != 200 {
		t.Errorf("finished twice: %v, %v", b.Cup.Drawdown, err)
	}
	got, err := s.Brew(ctx, id)
	must(t, err)
	if got.Cup.Drawdown != 200 || got.Ended.Sub(got.Started) != 200*time.Second || len(got.Events) != 11 ||
		!got.Events[0].Instant.Equal(noon) {
		t.Errorf("stored a drawdown of %v, %v long, %d events", got.Cup.Drawdown, got.Ended.Sub(got.Started), len(got.Events))
	}
}

// A screen that does not know whether its tap arrived sends it again.
func TestRepeatedTapIsStoredOnce(t *testing.T) {
	t.Parallel()
	s, _, id := yard(t)
	start(t, s, id)
	for range 3 {
		b, err := tap(s, id, advance("same", 12))
		must(t, err)
		if len(b.Events) != 2 || b.Events[1].At != 12 {
			t.Errorf("events: %+v", b.Events)
		}
	}
}

func TestTwoTabletsTapAtOnce(t *testing.T) {
	t.Parallel()
	s, _, id := yard(t)
	start(t, s, id)
	var wg sync.WaitGroup
	for i := range 20 {
		wg.Go(func() {
			e := brew.Event{Key: string(rune('a' + i)), Kind: brew.MarkEvent, Mark: cup.Stall, At: units.Seconds(i)}
			if _, err := s.Change(ctx, id, func(b brew.Brew) (brew.Brew,
				error) {
				return b.Apply(e, noon.Add(30*time.Second))
			}); err != nil {
				t.Error(err)
			}
		})
	}
	wg.Wait()
	if b, _ := s.Brew(ctx, id); len(b.Events) != 21 {
		t.Errorf("%d of 20 taps were stored", len(b.Events)-1)
	}
}

func TestFailedChangeLeavesNothingBehind(t *testing.T) {
	t.Parallel()
	s, _, id := yard(t)
	start(t, s, id)
	refused := errors.New("refused")
	_, err := s.Change(ctx, id, func(b brew.Brew) (brew.Brew, error) {
		b, _ = b.Apply(advance("x", 12), noon.Add(time.Minute))
		return b, refused
	})
	if !errors.Is(err, refused) {
		t.Errorf("got %v", err)
	}
	if b, _ := s.Brew(ctx, id); len(b.Events) != 1 {
		t.Errorf("half a change was stored: %+v", b.Events)
	}
}

// A recipe never overwrites another one, and brews that began on a device that did not know of an archived draft or a removed bag are stored.
// Mutation caught: a start that looks only for drafts that are not archived.
func TestDraftIsNeverLost(t *testing.T) {
	t.Parallel()
	s, bagID, first := yard(t)
	second := plan(t, s, bagID, "two")
	third := plan(t, s, bagID, "three")
	start(t, s, second)
	for _, id := range []string{first, third} {
		if _, _, err := s.Draft(ctx, id); err != nil {
			t.Errorf("%s: %v", id, err)
		}
	}
	must(t, s.DiscardDraft(ctx, third, true, noon))
	if all, err := s.Drafts(ctx, bagID, 10); err != nil || len(all) != 1 || all[0].ID != first {
		t.Errorf("on the bag: %+v, %v", all, err)
	}
	must(t, s.DiscardDraft(ctx, third, false, noon))
	if all, _ := s.Drafts(ctx, bagID, 10); len(all) != 2 {
		t.Errorf("taken back: %d", len(all))
	}
	must(t, s.DiscardDraft(ctx, first, true, noon))
	start(t, s, first) // on a device that did not know
	must(t, s.DeleteBag(ctx, bagID, noon))
	start(t, s, third)
	if b, err := s.Brew(ctx, third); err != nil || b.Bag.ID != bagID {
		t.Errorf("the brew of a removed bag: %v, %v", b.Bag, err)
	}
}

// Twenty windows save the same version of a recipe: one of them succeeds.
func TestDraftConflictsByVersion(t *testing.T) {
	t.Parallel()
	s, _, id := yard(t)
	mine, _, err := s.Draft(ctx, id)
	must(t, err)
	var won, lost atomic.Int32
	var wg sync.WaitGroup
	for range 20 {
		wg.Go(func() {
			switch _, err := s.SaveDraft(ctx, mine, noon); {
			case err == nil:
				won.Add(1)
			case errors.Is(err, ErrConflict):
				lost.Add(1)
			}
		})
	}
	wg.Wait()
	if won.Load() != 1 || lost.Load() != 19 {
		t.Errorf("%d won, %d lost", won.Load(), lost.Load())
	}
}

func TestLogPages(t *testing.T) {
	t.Parallel()
	s, bagID, _ := yard(t)
	want := map[string]bool{}
	for i := range 25 { // several begin at the same moment
		id := plan(t, s, bagID, fmt.Sprintf("brew-%02d", i))
		_, err := s.Begin(ctx, id, brew.Event{Key: "s", Kind: brew.Start, Instant: noon.Add(time.Duration(i/3) * time.Minute)}, nil)
		must(t, err)
		want[id] = true
	}
	for _, bag := range []string{"", bagID} {
		seen := map[string]bool{}
		f := Filter{Bag: bag, Limit: 7}
		last := noon.AddDate(1, 0, 0)
		for range 10 {
			rows, err := s.Log(ctx, f)
			must(t, err)
			for _, r := range rows {
				if seen[r.ID] || r.Started.After(last) {
					t.Errorf("%s stands twice or in the wrong place", r.ID)
				}
				seen[r.ID], last = true, r.Started
			}
			if len(rows) < f.Limit {
				break
			}
			f.After = rows[len(rows)-1].Place()
		}
		if !maps.Equal(seen, want) {
			t.Errorf("bag %q: %d of %d brews seen", bag, len(seen), len(want))
		}
	}
	if rows, err := s.Log(ctx, Filter{Bag: "none", Limit: 5}); err != nil || len(rows) != 0 {
		t.Errorf("of no bag: %d, %v", len(rows), err)
	}
}

func TestShelfPages(t *testing.T) {
	t.Parallel()
	s := open(t, t.TempDir())
	for i := range 11 {
		_, err := s.AddBag(ctx, coffee.Bag{ID: fmt.Sprintf("bag-%02d", i), Name: "Bag", RoastedOn: fmt.Sprintf("2026-04-%02d", 1+i/2),
			Weight: 250})
		must(t, err)
	}
	_, err := s.AddBag(ctx, coffee.Bag{ID: "undated", Name: "No date"})
	must(t, err)
	var seen []string
	day, id := "", ""
	for range 6 {
		page, err := s.Shelf(ctx, day, id, 3)
		must(t, err)
		for _, b := range page {
			seen = append(seen, b.ID)
			day, id = b.RoastedOn, b.ID
		}
	}
	if len(seen) != 12 || seen[0] != "bag-10" || seen[11] != "undated" {
		t.Errorf("the shelf holds %v", seen)
	}
}

func TestEverythingIsStored(t *testing.T) {
	t.Parallel()
	s, _, id := yard(t)
	dir := filepath.Dir(s.path)
	start(t, s, id)
	_, err := tap(s, id, advance("a", 12))
	must(t, err)
	must(t, s.Close())
	again := open(t, dir)
	if again.New {
		t.Error("the database counts as new")
	}
	b, err := again.Brew(ctx, id)
	must(t, err)
	if b.Status != brew.Running || len(b.Events) != 2 || !b.Started.Equal(noon) {
		t.Errorf("came back as %+v", b)
	}
}

func TestStartReportsProblems(t *testing.T) {
	t.Parallel()
	made := func(t *testing.T) string {
		dir := t.TempDir()
		must(t, open(t, dir).Close())
		return dir
	}
	change := func(t *testing.T, dir, statement string) {
		db, err := sql.Open("sqlite", filepath.Join(dir, FileName))
		must(t, err)
		_, err = db.Exec(statement)
		must(t, err)
		must(t, db.Close())
	}
	for name, c := range map[string]struct {
		prepare func(t *testing.T) string
		says    string
	}{
		"missing among other files": {func(t *testing.T) string {
			dir := t.TempDir()
			must(t, os.WriteFile(filepath.Join(dir, "notes.txt"), nil, 0o600))
			return dir
		}, "There is no yardbloom.db"},
		"read-only": {func(t *testing.T) string {
			dir := made(t)
			must(t, os.Chmod(filepath.Join(dir, FileName), 0o400))
			return dir
		}, "is not writable"},
		"from a newer version": {func(t *testing.T) string {
			dir := made(t)
			change(t, dir, `INSERT INTO goose_db_version (version_id, is_applied) VALUES (999, 1)`)
			return dir
		}, "from a newer version of Yard Bloom"},
		"not a database": {func(t *testing.T) string {
			dir := t.TempDir()
			must(t, os.WriteFile(filepath.Join(dir, FileName), []byte(strings.Repeat("no database ", 100)), 0o600))
			return dir
		}, "is not a database"},
		"locked": {func(t *testing.T) string {
			dir := made(t)
			db, err := sql.Open("sqlite", filepath.Join(dir, FileName)+"?_txlock=immediate")
			must(t, err)
			tx, err := db.Begin()
			must(t, err)
			t.Cleanup(func() { tx.Rollback(); db.Close() })
			return dir
		}, "is locked by another program"},
	} {
		t.Run(name, func(t *testing.T) {
			s, err := Open(ctx, c.prepare(t))
			var start *Trouble
			if !errors.As(err, &start) || !strings.Contains(start.Sentence, c.says) {
				t.Errorf("got %v, want a sentence with %q", err, c.says)
			}
			if s != nil {
				s.Close()
			}
		})
	}
}

func TestNewFolderBeginsAnEmptyYard(t *testing.T) {
	t.Parallel()
	s := open(t, filepath.Join(t.TempDir(), "a", "yard"))
	if !s.New {
		t.Error("New is false")
	}
	for _, name := range []string{FileName, FileName + "-wal"} {
		if info, err := os.Stat(filepath.Join(filepath.Dir(s.path), name)); err != nil || info.Mode().Perm() != 0o600 {
			t.Errorf("%s: %v, %v", name, info, err)
		}
	}
	if bags, err := s.Shelf(ctx, "", "", 9); err != nil || len(bags) != 0 {
		t.Errorf("%d bags, %v", len(bags), err)
	}
}

func TestReadersCannotWrite(t *testing.T) {
	t.Parallel()
	s := open(t, t.TempDir())
	if _, err := s.read.Exec(`DELETE FROM settings`); err == nil {
		t.Error("the reading pool could write")
	}
}

// A data folder may have any name. Mutation caught: an unescaped path in SQLite's URI, which ends at the
// first # or ? and loses data.
func TestFolderMayHaveAnyName(t *testing.T) {
	if testing.Short() {
		t.Skip("one goroutine works for long: nothing for the race detector")
	}
	t.Parallel()
	for _, name := range []string{"yard#2", "100%25", "what?", "a b", "grün", "a&mode=ro", "file:x", "%2e%2e"} {
		dir := filepath.Join(t.TempDir(), name)
		s := open(t, dir)
		must(t, s.SaveGrinder(ctx, gear.Grinder{ID: "mill", Name: "Mill", Burrs: gear.HandMill}, 0))
		must(t, s.Close())
		if _, err := os.Stat(filepath.Join(dir, FileName)); err != nil {
			t.Errorf("%s: %v", name, err)
		}
		if g, err := open(t, dir).Grinder(ctx, "mill"); err != nil || g.Name != "Mill" {
			t.Errorf("%s: opened again: %v", name, err)
		}
	}
}

// An incomplete first start counts as none.
func TestUnfinishedFirstStartIsNew(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	must(t, os.WriteFile(filepath.Join(dir, FileName), nil, 0o600)) // killed before the tables
	s := open(t, dir)
	if !s.New {
		t.Error("an empty file is a yard that was begun")
	}
	must(t, s.Close())
	if s = open(t, dir); !s.New { // killed before the gear
		t.Error("a yard without gear is one that was begun")
	}
	brewers, grinders, kettles := gear.Starter()
	canceled, cancel := context.WithCancel(ctx)
	cancel()
	if s.AddGear(canceled, brewers, grinders, kettles) == nil {
		t.Error("gear was added after the end")
	}
	if left, err := s.Things(ctx); err != nil || len(left) > 0 {
		t.Errorf("half of the gear is there: %v, %v", left, err)
	}
	must(t, s.AddGear(ctx, brewers, grinders, kettles))
	must(t, s.Close())
	if s = open(t, dir); s.New {
		t.Error("a yard with gear is new")
	}
}

// One program serves a yard at a time; others may read it, and the next one starts when the first has ended. Mutations
// caught: no lock, a lock that outlives the program, a folder without a yard that is refused for its lock.
func TestYardIsServedByOneProgram(t *testing.T) {
	t.Parallel()
	dir := filepath.Join(t.TempDir(), "yard")
	first, err := OpenAlone(ctx, dir)
	must(t, err)
	var trouble *Trouble
	if _, err := OpenAlone(ctx, dir); !errors.As(err, &trouble) || !strings.Contains(trouble.Sentence, "Another program serves the yard") {
		t.Errorf("a second server: %v", err)
	}
	if err := NotServed(dir); !errors.As(err, &trouble) {
		t.Errorf("a served yard: %v", err)
	}
	reader := open(t, dir)
	if _, err := reader.Settings(ctx, ""); err != nil {
		t.Errorf("a command that reads: %v", err)
	}
	must(t, reader.Close())
	must(t, first.Close())
	must(t, NotServed(dir))
	next, err := OpenAlone(ctx, dir)
	must(t, err)
	must(t, next.Close())
	must(t, os.Remove(filepath.Join(dir, FileName)))
	again, err := OpenAlone(ctx, dir)
	must(t, err)
	must(t, again.Close())
}

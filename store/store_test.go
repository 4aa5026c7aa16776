package store

import (
	"context"
	"database/sql"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
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

// yard is a store with one bag, one of each gear and a planned brew.
func yard(t *testing.T) (s *Store, bagID, brewID int64) {
	t.Helper()
	s = open(t, t.TempDir())
	must(t, s.SaveBrewer(ctx, gear.Brewer{Name: "Cone", Kind: gear.OpenCone, Material: gear.Plastic, Filter: gear.StandardPaper, Holds: 480}))
	must(t, s.SaveGrinder(ctx, gear.Grinder{Name: "Mill", Burrs: gear.HandMill, Dial: gear.Dial{Kind: gear.Clicks, Zero: 50, Step: 20}, Loss: 0.5}))
	must(t, s.SaveKettle(ctx, gear.Kettle{Name: "Kettle", Capacity: 900}))
	bagID, err := s.AddBag(ctx, coffee.Bag{Name: "Slate Terrace", Process: coffee.Washed, Roast: coffee.Light, RoastedOn: "2026-04-20", Weight: 250})
	must(t, err)
	return s, bagID, plan(t, s, bagID)
}

func plan(t *testing.T, s *Store, bagID int64) int64 {
	t.Helper()
	brewers, err := s.Brewers(ctx)
	must(t, err)
	id, err := s.PlanBrew(ctx, brew.Brew{BagID: bagID, Status: brew.Planned, Created: noon,
		Gear:   brew.Gear{Brewer: brewers[0], Grinder: gear.Grinder{ID: 1}, Kettle: gear.Kettle{ID: 1}, Boiling: 100},
		Recipe: recipe.Recipe{Style: recipe.ThreeRounds, Dose: 18, Water: 297, Grind: 650, Temperature: 94, Bloom: 3, BloomTime: 45}})
	must(t, err)
	return id
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

func TestHistoryStaysAsItWas(t *testing.T) {
	s, bagID, brewID := yard(t)
	must(t, s.StartBrew(ctx, brewID, 99.5, noon))

	b, err := s.Bag(ctx, bagID)
	must(t, err)
	b.Name, b.Roast = "Renamed", coffee.Dark
	must(t, s.SaveBag(ctx, b))
	must(t, s.SaveGrinder(ctx, gear.Grinder{ID: 1, Name: "Other mill", Burrs: gear.Blade, Dial: gear.Dial{Kind: gear.Words}}))
	must(t, s.RetireGear(ctx, "brewers", 1, true, noon))
	must(t, s.DeleteBag(ctx, bagID, noon))

	got, err := s.Brew(ctx, brewID)
	must(t, err)
	if got.Bag.Name != "Slate Terrace" || got.Bag.Roast != coffee.Light || got.Gear.Grinder.Name != "Mill" || got.Gear.Brewer.Name != "Cone" {
		t.Errorf("a begun brew changed with its bag or gear: %+v, %+v", got.Bag, got.Gear)
	}
	if len(got.Plan.Steps) != 4 || got.Gear.Boiling != 99.5 {
		t.Errorf("plan and boiling point were not kept: %+v", got)
	}
	if name, offset := got.Started.Zone(); offset != 2*3600 {
		t.Errorf("the zone of the wall clock is lost: %s %d", name, offset)
	}
}

func TestAPlannedBrewFollowsItsBagAndGear(t *testing.T) {
	s, bagID, brewID := yard(t)
	b, err := s.Bag(ctx, bagID)
	must(t, err)
	b.Roast = coffee.Dark
	must(t, s.SaveBag(ctx, b))
	got, err := s.Brew(ctx, brewID)
	must(t, err)
	if got.Bag.Roast != coffee.Dark || got.Gear.Grinder.Name != "Mill" {
		t.Errorf("the recipe in the making does not see today's bag and gear: %+v %+v", got.Bag, got.Gear.Grinder)
	}
}

func TestABagIsKeptByItsVersion(t *testing.T) {
	s, bagID, _ := yard(t)
	mine, err := s.Bag(ctx, bagID)
	must(t, err)
	theirs := mine
	theirs.Name = "Theirs"
	must(t, s.SaveBag(ctx, theirs))
	mine.Name = "Mine"
	if err := s.SaveBag(ctx, mine); !errors.Is(err, ErrConflict) {
		t.Errorf("saving over somebody else's change: %v", err)
	}
	got, _ := s.Bag(ctx, bagID)
	if got.Name != "Theirs" {
		t.Errorf("the bag is called %q", got.Name)
	}
}

func TestStockCountsWhatWasBegunWithTheGrindersLoss(t *testing.T) {
	s, bagID, brewID := yard(t)
	left := func() units.Grams {
		b, err := s.Bag(ctx, bagID)
		must(t, err)
		return b.Left()
	}
	if left() != 250 {
		t.Errorf("a recipe alone used %v g", 250-left())
	}
	must(t, s.StartBrew(ctx, brewID, 100, noon))
	if got := left(); got != 231.5 {
		t.Errorf("after one brew of 18 g with 0.5 g lost %v g are left", got)
	}
}

func TestABrewIsBegunAndFinishedOnce(t *testing.T) {
	s, _, brewID := yard(t)
	if _, err := s.Touch(ctx, brewID, advance("early", 0), noon); !errors.Is(err, ErrStatus) {
		t.Errorf("a touch before the start: %v", err)
	}
	must(t, s.StartBrew(ctx, brewID, 100, noon))
	if err := s.StartBrew(ctx, brewID, 100, noon.Add(time.Minute)); !errors.Is(err, ErrStatus) {
		t.Errorf("begun twice: %v", err)
	}
	for i, at := range []units.Seconds{12, 45, 62, 85, 102, 125, 142, 200} {
		b, err := s.Touch(ctx, brewID, advance(string(rune('a'+i)), at), noon.Add(time.Duration(at)*time.Second))
		must(t, err)
		if done := i == 7; (b.Status == brew.Poured) != done {
			t.Errorf("after touch %d the brew is %s", i+1, b.Status)
		}
	}
	if _, err := s.Touch(ctx, brewID, advance("again", 260), noon.Add(260*time.Second)); !errors.Is(err, ErrStatus) {
		t.Errorf("finished twice: %v", err)
	}
	got, err := s.Brew(ctx, brewID)
	must(t, err)
	if got.Cup.Drawdown != 200 || got.Ended.Sub(got.Started) != 200*time.Second || len(got.Events) != 8 {
		t.Errorf("kept a drawdown of %v, %v long, %d events", got.Cup.Drawdown, got.Ended.Sub(got.Started), len(got.Events))
	}
}

// A screen that does not know whether its touch arrived sends it again.
func TestTheSameTouchTwiceIsKeptOnce(t *testing.T) {
	s, _, brewID := yard(t)
	must(t, s.StartBrew(ctx, brewID, 100, noon))
	for range 3 {
		b, err := s.Touch(ctx, brewID, advance("same", 12), noon.Add(20*time.Second))
		must(t, err)
		if len(b.Events) != 1 || b.Events[0].At != 12 {
			t.Errorf("events: %+v", b.Events)
		}
	}
}

func TestTwoTabletsTouchAtOnce(t *testing.T) {
	s, _, brewID := yard(t)
	must(t, s.StartBrew(ctx, brewID, 100, noon))
	var wg sync.WaitGroup
	for i := range 20 {
		wg.Go(func() {
			e := brew.Event{Key: string(rune('a' + i)), Kind: brew.MarkEvent, Mark: brew.Stall, At: units.Seconds(i)}
			if _, err := s.Touch(ctx, brewID, e, noon.Add(30*time.Second)); err != nil {
				t.Error(err)
			}
		})
	}
	wg.Wait()
	if b, _ := s.Brew(ctx, brewID); len(b.Events) != 20 {
		t.Errorf("%d of 20 touches were kept", len(b.Events))
	}
}

func TestAFailedChangeLeavesNothingBehind(t *testing.T) {
	s, _, brewID := yard(t)
	refused := errors.New("refused")
	_, err := s.ChangeBrew(ctx, brewID, func(b *brew.Brew) error { b.Recipe.Dose = 40; return refused })
	if !errors.Is(err, refused) {
		t.Errorf("got %v", err)
	}
	if b, _ := s.Brew(ctx, brewID); b.Recipe.Dose != 18 {
		t.Errorf("half a change was kept: %v g", b.Recipe.Dose)
	}
}

func TestABagHasOneRecipeInTheMaking(t *testing.T) {
	s, bagID, first := yard(t)
	second := plan(t, s, bagID)
	if second == first {
		t.Errorf("the id %d was used twice", first)
	}
	if _, err := s.Brew(ctx, first); !errors.Is(err, ErrNotFound) {
		t.Errorf("the replaced recipe: %v", err)
	}
	must(t, s.DeleteBag(ctx, bagID, noon))
	if err := s.StartBrew(ctx, second, 100, noon); !errors.Is(err, ErrNotFound) {
		t.Errorf("beginning a brew of a deleted bag: %v", err)
	}
	must(t, s.RestoreBag(ctx, bagID))
	must(t, s.StartBrew(ctx, second, 100, noon))
}

func TestEverythingIsThereAfterOpeningAgain(t *testing.T) {
	s, _, brewID := yard(t)
	dir := filepath.Dir(s.path)
	must(t, s.StartBrew(ctx, brewID, 100, noon))
	_, err := s.Touch(ctx, brewID, advance("a", 12), noon.Add(12*time.Second))
	must(t, err)
	must(t, s.Close())
	again := open(t, dir)
	if again.New {
		t.Error("the database counts as new")
	}
	b, err := again.Brew(ctx, brewID)
	must(t, err)
	if b.Status != brew.Running || len(b.Events) != 1 || !b.Started.Equal(noon) {
		t.Errorf("came back as %+v", b)
	}
}

func TestStartSaysWhatToDo(t *testing.T) {
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
		}, "may not be written"},
		"from a newer version": {func(t *testing.T) string {
			dir := made(t)
			change(t, dir, `INSERT INTO goose_db_version (version_id, is_applied) VALUES (999, 1)`)
			return dir
		}, "from a newer Yard Bloom"},
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
		}, "is in use by another program"},
	} {
		t.Run(name, func(t *testing.T) {
			s, err := Open(ctx, c.prepare(t))
			var start *StartError
			if !errors.As(err, &start) || !strings.Contains(start.Sentence, c.says) {
				t.Errorf("got %v, want a sentence with %q", err, c.says)
			}
			if s != nil {
				s.Close()
			}
		})
	}
}

func TestANewFolderBeginsAnEmptyYard(t *testing.T) {
	s := open(t, filepath.Join(t.TempDir(), "a", "yard"))
	if !s.New {
		t.Error("not said to be new")
	}
	if bags, err := s.Bags(ctx); err != nil || len(bags) != 0 {
		t.Errorf("%d bags, %v", len(bags), err)
	}
}

func TestReadersCannotWrite(t *testing.T) {
	s := open(t, t.TempDir())
	if _, err := s.read.Exec(`DELETE FROM settings`); err == nil {
		t.Error("the reading pool could write")
	}
}

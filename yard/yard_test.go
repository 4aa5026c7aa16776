package yard_test

import (
	"context"
	"errors"
	"log/slog"
	"os"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/rush"
	"yardbloom/core/trace"
	"yardbloom/core/units"
	"yardbloom/demo"
	"yardbloom/device"
	"yardbloom/store"
	"yardbloom/yard"
)

var morning = time.Date(2026, 5, 12, 9, 40, 0, 0, time.UTC)

// planned is a draft of the demo yard.
const planned = "evening-seed-next"

// A clock moves only when a test moves it.
type clock struct {
	mu     sync.Mutex
	uptime time.Duration
	set    time.Duration // by which the wall clock was set
}

func (c *clock) now() time.Time {
	c.mu.Lock()
	defer c.mu.Unlock()
	return morning.Add(c.uptime + c.set)
}

// setWall sets the wall clock by some time.
func (c *clock) setWall(by time.Duration) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.set += by
}

func (c *clock) up() time.Duration {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.uptime
}

func (c *clock) add(d time.Duration) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.uptime += d
}

var filled = sync.OnceValues(func() ([]byte, error) { return demo.File(context.Background(), morning, false) })

// openDemo opens a demo yard in a temporary folder.
func openDemo(t *testing.T) (*yard.Yard, *clock) {
	t.Helper()
	dir := t.TempDir()
	file, err := filled()
	if err == nil {
		err = os.WriteFile(filepath.Join(dir, store.FileName), file, 0o600)
	}
	if err != nil {
		t.Fatal(err)
	}
	st, err := store.Open(t.Context(), dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { st.Close() })
	c := &clock{}
	return reopen(t, st, c), c
}

func reopen(t *testing.T, st *store.Store, c *clock) *yard.Yard {
	t.Helper()
	y, err := yard.Open(t.Context(), yard.Config{Store: st, Log: slog.New(slog.DiscardHandler), Now: c.now, Uptime: c.up, Demo: true})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(y.Close)
	return y
}

// eventually waits for what background work brings about, for as long as that takes.
func eventually(t *testing.T, what string, ok func() bool) {
	t.Helper()
	for !ok() {
		select {
		case <-t.Context().Done():
			t.Fatalf("never: %s", what)
		case <-time.After(5 * time.Millisecond):
		}
	}
}

func mustBrew(t *testing.T, y *yard.Yard, id string) brew.Brew {
	t.Helper()
	b, err := y.Store.Brew(context.Background(), id)
	if err != nil {
		t.Fatal(err)
	}
	return b
}

func count(b brew.Brew) map[brew.EventKind]int {
	out := map[brew.EventKind]int{}
	for _, e := range b.Events {
		out[e.Kind]++
	}
	return out
}

// pour lets a hand pour a running brew over a scale, from one step to another.
func pour(t *testing.T, y *yard.Yard, c *clock, id string, h *device.Hand, scale *device.ScaleStandIn, from, to int) {
	t.Helper()
	if from == 0 {
		for range 10 {
			scale.Step(h.InitialLoad())
		}
		scale.Tare()
	}
	plan, _ := y.PlanOf(id)
	for i := from; i < to && !h.Finished(); i++ {
		c.add(time.Duration(device.Every * float64(time.Second)))
		if i%10 == 0 {
			y.Settle()
			plan, _ = y.PlanOf(id)
		}
		x := trace.Reading{At: units.Seconds(float64(i+1) * device.Every), Grams: scale.Step(h.Step(plan))}
		if err := y.ReadAt(id, "scale", h.InitialLoad().Grams, x); err != nil {
			t.Fatal(err)
		}
	}
	y.Settle()
}

// A brew is poured over a scale. In the middle of it the yard is closed and opened again: no event
// is stored twice, none is missing, and all readings are stored.
func TestBrewOverAScaleSurvivesARestart(t *testing.T) {
	t.Parallel()
	y, c := openDemo(t)
	b, err := y.Start(t.Context(), planned, "", "start", 0)
	if err != nil {
		t.Fatal(err)
	}
	h, scale := device.NewHand(9, device.Heavy, b.Question(b.Started)), device.NewScaleStandIn(9, 1)
	pour(t, y, c, planned, h, scale, 0, 700)
	eventually(t, "a pour ended", func() bool { return count(mustBrew(t, y, planned))[brew.Ended] > 0 })
	y.Close()
	y = reopen(t, y.Store, c)
	pour(t, y, c, planned, h, scale, 700, 8000)
	eventually(t, "poured", func() bool { return mustBrew(t, y, planned).Status == brew.Poured })
	pours := 0
	for _, s := range b.Plan.Steps {
		if s.Act == recipe.PourWater {
			pours++
		}
	}
	b = mustBrew(t, y, planned)
	if k := count(b); k[brew.Began] != pours || k[brew.Ended] != pours || k[brew.Bend] == 0 {
		t.Errorf("%d pours, events %v", pours, k)
	}
	shown, err := y.Trace(t.Context(), planned)
	if err != nil {
		t.Fatal(err)
	}
	y.Close()
	stored, err := y.Store.Readings(t.Context(), planned)
	if err != nil || len(stored) != len(shown) || len(stored) < 1500 {
		t.Errorf("%d of %d readings are stored (%v)", len(stored), len(shown), err)
	}
}

// The first water begins the brew in the database. When it was only the rinse, the draft is as it
// was, and no reading is left.
func TestRinseOnTheScaleLeavesNothing(t *testing.T) {
	t.Parallel()
	y, c := openDemo(t)
	before, _, err := y.Store.Draft(t.Context(), planned)
	if err != nil {
		t.Fatal(err)
	}
	show := func(n int, grams func(i int) float64) {
		for i := range n {
			c.add(25 * time.Millisecond)
			if err := y.Read(planned, "scale", units.Grams(grams(i))); err != nil {
				t.Fatal(err)
			}
			y.Settle()
		}
	}
	level := func(g float64) func(int) float64 { return func(int) float64 { return g } }
	show(40, level(0))
	show(200, func(i int) float64 { return 0.25 * float64(i) })
	show(60, level(50))
	eventually(t, "begun", func() bool { _, err := y.Store.Brew(t.Context(), planned); return err == nil })
	show(60, level(-640)) // lifted and tipped out
	show(60, level(3))
	eventually(t, "undone", func() bool {
		_, err := y.Store.Brew(t.Context(), planned)
		return errors.Is(err, store.ErrNotFound)
	})
	y.StoreReadings()
	after, _, err := y.Store.Draft(t.Context(), planned)
	readings, err2 := y.Store.Readings(t.Context(), planned)
	if err := errors.Join(err, err2); err != nil || after.Recipe.Dose != before.Recipe.Dose || len(readings) > 0 {
		t.Errorf("the draft is %+v with %d readings (%v)", after.Recipe, len(readings), err)
	}
}

// The kettle changes to the temperature of the next pour after a pour, unless it was set to another
// temperature by hand. Mutation caught: a kettle that follows any setting.
func TestKettleFollowsTheRecipe(t *testing.T) {
	t.Parallel()
	y, c := openDemo(t)
	ctx := t.Context()
	if err := y.Store.SaveDevice(ctx, gear.Device{ID: "kettle", Name: "Bench kettle", Kind: gear.KettleDevice, Address: "standin:kettle"},
		0); err != nil {
		t.Fatal(err)
	}
	d, _, err := y.Store.Draft(ctx, planned)
	if err != nil {
		t.Fatal(err)
	}
	for i := range d.Recipe.Pours {
		d.Recipe.Pours[i].Temperature = units.Celsius(95 - 3*i)
	}
	if _, err := y.Store.SaveDraft(ctx, d, y.Now()); err != nil {
		t.Fatal(err)
	}
	if err := y.Connect(ctx); err != nil {
		t.Fatal(err)
	}
	link := y.Bench.Link("kettle")
	set := func() units.Celsius { return link.State().Set }
	eventually(t, "connected", func() bool { return link.State().Connected })
	y.HeatTo(95)
	eventually(t, "set to the first pour", func() bool { return set() == 95 })
	b, err := y.Start(ctx, planned, "", "start", 0)
	if err != nil {
		t.Fatal(err)
	}
	first := b.Plan.Steps[0].End()
	c.add(time.Duration(float64(first) * float64(time.Second)))
	if _, err := y.Tap(ctx, planned, brew.Event{Key: "in", Kind: brew.Advance, At: first}); err != nil {
		t.Fatal(err)
	}
	eventually(t, "set to the second pour", func() bool { return set() == 92 })
	link.Heat(80)
	eventually(t, "set by hand", func() bool { return set() == 80 })
	y.FollowWithKettle(92, 89)
	y.FollowWithKettle(80.9, 70) // proves that the request above was not merely late
	eventually(t, "set by the last request", func() bool { return set() == 70 })
}

// Setting the wall clock during a rush moves neither its board nor a brew, also one that begins afterwards. Mutations caught: a
// board on the wall clock, a brew with a separate clock.
func TestRushIgnoresTheWallClock(t *testing.T) {
	t.Parallel()
	y, c := openDemo(t)
	set, err := y.Store.Settings(t.Context(), "")
	if err != nil {
		t.Fatal(err)
	}
	kept, err := y.Store.Book(t.Context())
	if err != nil || len(kept) == 0 {
		t.Fatalf("%d recipes (%v)", len(kept), err)
	}
	made := rush.Rush{ID: store.NewID()}
	for range 2 {
		o, d, err := y.Order(t.Context(), kept[0].ID, set)
		if err == nil {
			err = y.Store.AddDraft(t.Context(), d, c.now())
		}
		if err != nil {
			t.Fatal(err)
		}
		made.Orders = append(made.Orders, o)
	}
	if err := y.Store.AddRush(t.Context(), made, c.now()); err != nil {
		t.Fatal(err)
	}
	begin := func(n int) {
		t.Helper()
		if err := y.StartOrder(t.Context(), made.ID, n, "", "key", 0); err != nil {
			t.Fatal(err)
		}
	}
	begin(1)
	c.add(30 * time.Second)
	c.setWall(time.Hour)
	begin(2)
	c.add(10 * time.Second)
	c.setWall(-2 * time.Hour)
	rs, err := y.Store.Rush(t.Context(), made.ID)
	if err != nil {
		t.Fatal(err)
	}
	now := y.RushMoment(rs).Sub(rs.Started)
	all, _, err := y.RushBrews(t.Context(), rs, units.Seconds(now.Seconds()))
	if err != nil || now != 40*time.Second {
		t.Fatalf("the rush runs for %v (%v)", now, err)
	}
	for i, since := range []units.Seconds{0, 30} {
		if age := all[i].Brew.Elapsed(y.Moment(all[i].Brew)); all[i].Since != since || age != 40-since {
			t.Errorf("brew %d began at %v and is %v s old, want %v and %v", i+1, float64(all[i].Since), float64(age), float64(since), float64(40-since))
		}
	}
}

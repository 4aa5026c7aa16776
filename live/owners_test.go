package live

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"slices"
	"sync"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/trace"
	"yardbloom/core/units"
	"yardbloom/device"
)

// memory keeps brews and readings as a store does, in memory.
type memory struct {
	mu       sync.Mutex
	brews    map[string]brew.Brew
	readings map[string][]trace.Reading
	batches  int
	heated   []units.Celsius // what the kettle was set to
	fail     bool
}

var errDisk = errors.New("the disk is full")

func (m *memory) Brew(_ context.Context, id string) (brew.Brew, error) {
	m.mu.Lock()
	defer m.mu.Unlock()
	b, ok := m.brews[id]
	if !ok {
		return b, errors.New("not found")
	}
	return b, nil
}

func (m *memory) Change(_ context.Context, id string, apply func(brew.Brew) (brew.Brew, error)) (brew.Brew, error) {
	m.mu.Lock()
	defer m.mu.Unlock()
	b, err := apply(m.brews[id])
	if err == nil {
		b.Version++
		m.brews[id] = b
	}
	return b, err
}

func (m *memory) AppendReadings(_ context.Context, fresh map[string][]trace.Reading) error {
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.fail {
		return errDisk
	}
	m.batches++
	for id, r := range fresh {
		m.readings[id] = append(m.readings[id], r...)
	}
	return nil
}

func (m *memory) Readings(_ context.Context, id string) ([]trace.Reading, error) {
	m.mu.Lock()
	defer m.mu.Unlock()
	return slices.Clone(m.readings[id]), nil
}

func (m *memory) forget(id string) error {
	m.mu.Lock()
	defer m.mu.Unlock()
	delete(m.brews, id)
	delete(m.readings, id)
	return nil
}

func (m *memory) heat(to units.Celsius) {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.heated = append(m.heated, to)
}

func (m *memory) kinds(id string) map[brew.EventKind]int {
	b, _ := m.Brew(context.Background(), id)
	out := map[brew.EventKind]int{}
	for _, e := range b.Events {
		out[e.Kind]++
	}
	return out
}

// A clock that a test moves.
type clock struct {
	mu   sync.Mutex
	at   time.Time
	runs time.Time // since when it runs by itself; zero: it stands
}

func (c *clock) now(*brew.Brew) time.Time {
	c.mu.Lock()
	defer c.mu.Unlock()
	if !c.runs.IsZero() {
		return c.at.Add(time.Since(c.runs))
	}
	return c.at
}

func (c *clock) set(at time.Time) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.at = at
}

var noon = time.Date(2026, 5, 12, 12, 0, 0, 0, time.UTC)

func draft(id string) brew.Draft {
	brewers, grinders, kettles := gear.Starter()
	g := gear.Set{Brewer: brewers[0], Grinder: grinders[0], Kettle: kettles[1], Boiling: 100}
	g.Brewer.Retained = gear.DefaultRetained
	bag := coffee.Bag{ID: "bag", Roast: coffee.Medium, RoastedOn: "2026-04-20"}
	d := brew.First(id, bag, g, nil, recipe.Habits{}, noon)
	return d
}

func bench(t testing.TB) (*Owners, *memory, *clock) {
	t.Helper()
	m := &memory{brews: map[string]brew.Brew{}, readings: map[string][]trace.Reading{}}
	c := &clock{at: noon}
	return owners(t, m, c), m, c
}

func owners(t testing.TB, m *memory, c *clock) *Owners {
	t.Helper()
	o := NewOwners(Yard{Keeper: m, Hub: NewHub(), Log: slog.New(slog.NewTextHandler(io.Discard, nil)), Now: c.now, Attend: func(context.Context, *brew.Sheet) {}, Kettle: func() units.Celsius { return 0 }, Heat: func(_, next units.Celsius) { m.heat(next) },
		Start: func(_ context.Context, id string, ago time.Duration) (func(context.Context) error, error) {
			b, err := brew.Begin(draft(id), brew.Event{Key: "start", Kind: brew.Start, Instant: c.now(nil).Add(-ago)})
			m.mu.Lock()
			defer m.mu.Unlock()
			m.brews[id] = b
			return func(context.Context) error { return m.forget(id) }, err
		}})
	t.Cleanup(o.Close)
	return o
}

func begin(t testing.TB, m *memory, id string) brew.Brew {
	t.Helper()
	b, err := brew.Begin(draft(id), brew.Event{Key: "start", Kind: brew.Start, Instant: noon})
	if err != nil {
		t.Fatal(err)
	}
	b.ID = id
	m.brews[id] = b
	return b
}

// The kettle goes on to the temperature of the next pour once one is in, and not before.
func TestTheKettleFollowsTheRecipe(t *testing.T) {
	o, m, c := bench(t)
	b := begin(t, m, "a")
	for i := range b.Plan.Steps {
		b.Plan.Steps[i].Temperature = units.Celsius(96 - 4*i)
	}
	m.brews["a"] = b
	for i, s := range b.Plan.Steps[:len(b.Plan.Steps)-1] {
		if n := len(m.heated); n != i {
			t.Fatalf("set %d times before pour %d was in: %v", n, i+1, m.heated)
		}
		c.set(noon.Add(seconds(s.End())))
		if _, err := o.Apply(t.Context(), "a", brew.Event{Key: fmt.Sprint(i), Kind: brew.Advance, At: s.End()}); err != nil {
			t.Fatal(err)
		}
	}
	if want := []units.Celsius{92, 88, 84}[:len(b.Plan.Steps)-1]; !slices.Equal(m.heated, want) {
		t.Errorf("set to %v instead of %v", m.heated, want)
	}
}

// pourBrew lets a stand-in hand pour a brew, or a part of it, over an owner.
func pourBrew(t testing.TB, o *Owners, m *memory, c *clock, id string, h *device.Hand, scale *device.ScaleStandIn, from, to int) {
	t.Helper()
	if from == 0 {
		for range 10 {
			scale.Step(h.Stands())
		}
		scale.Tare()
	}
	for i := from; i < to && !h.Gone(); i++ {
		at := units.Seconds(float64(i+1) * device.Every)
		c.set(noon.Add(time.Duration(float64(at) * float64(time.Second))))
		b, _ := m.Brew(context.Background(), id)
		x := trace.Reading{At: at, Grams: scale.Step(h.Step(b.At(c.now(nil)).Plan()))}
		if err := o.ReadAt(id, "scale", h.Stands().Grams, x); err != nil {
			t.Fatal(err)
		}
		if i%10 == 0 {
			time.Sleep(time.Millisecond) // what was seen becomes an event
		}
	}
}

func until(t *testing.T, what string, ok func() bool) {
	t.Helper()
	for range 600 {
		if ok() {
			return
		}
		time.Sleep(10 * time.Millisecond)
	}
	t.Fatalf("never: %s", what)
}

// A brew that a hand pours over a scale ends by itself, with all of its pours as they were,
// and every reading is kept.
func TestABrewIsFollowedFromItsFirstWaterToItsEnd(t *testing.T) {
	t.Parallel()
	o, m, c := bench(t)
	b := begin(t, m, "one")
	h := device.NewHand(4, device.Heavy, b.Question(noon))
	pourBrew(t, o, m, c, "one", h, device.NewScaleStandIn(4, 1), 0, 6000)
	until(t, "poured", func() bool { b, _ := m.Brew(context.Background(), "one"); return b.Status == brew.Poured })
	b, _ = m.Brew(context.Background(), "one")
	state := b.At(b.Ended)
	for i, p := range state.Pours() {
		if d := p.Got - h.Poured[i].Total; d > 1.5 || d < -1.5 {
			t.Errorf("pour %d came to %v on the scale and is kept as %v", i, h.Poured[i].Total, p.Got)
		}
	}
	if end, _ := h.Off(); b.Cup.Drawdown < end-2 || b.Cup.Drawdown > end+2 {
		t.Errorf("lifted off at %v, and it ended at %v", end, b.Cup.Drawdown)
	}
	if carafe, ok := state.Carafe(); !ok || carafe < 400 {
		t.Errorf("the carafe weighs %v, %v", carafe, ok)
	}
	if k := m.kinds("one"); k[brew.Watched] != 1 || k[brew.Bend] == 0 {
		t.Errorf("what happened: %v", k)
	}
	// What stands on the scale afterwards is none of the brew's.
	until(t, "the owner knows that it is over", func() bool {
		w := o.owner("one", false)
		w.mu.Lock()
		defer w.mu.Unlock()
		return w.ended > 0
	})
	for i := range 300 {
		if err := o.ReadAt("one", "scale", 0, trace.Reading{At: b.Cup.Drawdown + 15 + units.Seconds(i)/10, Grams: -418}); err != nil {
			t.Fatal(err)
		}
	}
	o.flush()
	kept, _ := m.Readings(context.Background(), "one")
	shown, _ := o.Trace(context.Background(), "one")
	if last := kept[len(kept)-1].At; last > b.Cup.Drawdown+25 {
		t.Errorf("readings are kept until %v, and it ended at %v", last, b.Cup.Drawdown)
	}
	if len(kept) != len(shown) || len(kept) < 1500 {
		t.Errorf("%d of %d readings are kept", len(kept), len(shown))
	}
}

// The program is killed in mid-brew: another one goes on from what was kept, nothing is
// understood twice, and nothing that was understood is missing.
func TestAnotherOwnerGoesOnFromWhatWasKept(t *testing.T) {
	t.Parallel()
	o, m, c := bench(t)
	b := begin(t, m, "one")
	h, scale := device.NewHand(9, device.Practised, b.Question(noon)), device.NewScaleStandIn(9, 1)
	pourBrew(t, o, m, c, "one", h, scale, 0, 700)
	o.flush()
	until(t, "a pour ended", func() bool { return m.kinds("one")[brew.Ended] > 0 })
	time.Sleep(50 * time.Millisecond)
	before := m.kinds("one")
	again := owners(t, m, c) // the first one says nothing any more, as if it were dead
	pourBrew(t, again, m, c, "one", h, scale, 700, 6000)
	until(t, "poured", func() bool { b, _ := m.Brew(context.Background(), "one"); return b.Status == brew.Poured })
	after := m.kinds("one")
	pours := 0
	for _, s := range b.Plan.Steps {
		if s.Act == recipe.PourWater {
			pours++
		}
	}
	if before[brew.Began] == 0 || after[brew.Began] != pours || after[brew.Ended] != pours {
		t.Errorf("%d pours; before the kill %v, in the end %v", pours, before, after)
	}
}

// The program is killed and the scale does not come back: the brew goes on by the clock.
func TestAScaleThatDoesNotComeBackAfterARestartIsLost(t *testing.T) {
	t.Parallel()
	o, m, c := bench(t)
	b := begin(t, m, "one")
	pourBrew(t, o, m, c, "one", device.NewHand(5, device.Usual, b.Question(noon)), device.NewScaleStandIn(5, 1), 0, 60)
	until(t, "watched", func() bool { return m.kinds("one")[brew.Watched] == 1 })
	o.Close()
	again := owners(t, m, c)
	_, leave := again.Follow("one") // a screen looks at it
	defer leave()
	until(t, "lost", func() bool { return m.kinds("one")[brew.Unwatched] >= 1 })
}

// What goes wrong with scales in mid-brew.
func TestTroubleWithScales(t *testing.T) {
	t.Parallel()
	o, m, c := bench(t)
	b := begin(t, m, "one")
	h, scale := device.NewHand(2, device.Usual, b.Question(noon)), device.NewScaleStandIn(2, 1)
	pourBrew(t, o, m, c, "one", h, scale, 0, 60)
	until(t, "watched", func() bool { return m.kinds("one")[brew.Watched] == 1 })
	if err := o.ReadAt("one", "other", 0, trace.Reading{At: 7, Grams: 3}); !errors.Is(err, ErrOther) {
		t.Errorf("a second scale: %v", err)
	}
	shown, _ := o.Trace(context.Background(), "one")
	for _, x := range []trace.Reading{{At: 3, Grams: 1}, {At: 7, Grams: 1e9}} { // time backwards, and no scale
		if err := o.ReadAt("one", "scale", 0, x); err != nil {
			t.Error(err)
		}
	}
	if now, _ := o.Trace(context.Background(), "one"); len(now) > len(shown) {
		t.Errorf("%d readings became %d", len(shown), len(now))
	}
	m.mu.Lock()
	m.fail = true
	m.mu.Unlock()
	o.flush()
	m.mu.Lock()
	m.fail = false
	m.mu.Unlock()
	o.flush()
	kept, _ := m.Readings(context.Background(), "one")
	if shown, _ = o.Trace(context.Background(), "one"); len(kept) != len(shown) {
		t.Errorf("after a full disk %d of %d readings are kept", len(kept), len(shown))
	}
	if !slices.IsSortedFunc(kept, func(a, b trace.Reading) int { return cmp.Compare(a.At, b.At) }) {
		t.Error("kept out of order")
	}
	until(t, "the brew goes on without the scale that was lost", func() bool { return m.kinds("one")[brew.Unwatched] == 1 })
}

// A scale with something else on it is none of the brew's: hands and clock lead, and nothing
// of it is kept or drawn.
func TestAScaleWithSomethingElseOnItIsPassedOver(t *testing.T) {
	t.Parallel()
	o, m, _ := bench(t)
	begin(t, m, "one")
	for i := range 300 {
		if err := o.ReadAt("one", "scale", 0, trace.Reading{At: units.Seconds(i) / 10, Grams: 418 + units.Grams(i%3)/10}); err != nil {
			t.Fatal(err)
		}
	}
	o.flush()
	kept, _ := m.Readings(context.Background(), "one")
	shown, _ := o.Trace(context.Background(), "one")
	if k := m.kinds("one"); len(kept)+len(shown) > 0 || k[brew.Watched] > 0 {
		t.Errorf("%d readings are kept, %d shown, and %v happened", len(kept), len(shown), k)
	}
}

// The first water on the scale begins the brew, at its own second.
func TestTheFirstWaterBeginsTheBrew(t *testing.T) {
	t.Parallel()
	o, m, c := bench(t)
	c.runs = time.Now()
	show := func(g func(i int) float64, steps int) {
		for i := range steps {
			if err := o.Read("one", "scale", units.Grams(g(i))); err != nil {
				t.Fatal(err)
			}
			time.Sleep(25 * time.Millisecond)
		}
	}
	show(func(int) float64 { return 418 }, 10) // brewer and carafe
	show(func(int) float64 { return 0 }, 40)   // tared
	if len(m.brews) > 0 {
		t.Fatal("it began while nothing was poured")
	}
	began := time.Now()
	show(func(i int) float64 { return 0.15 * float64(i) }, 60) // 6 g/s
	until(t, "begun", func() bool { m.mu.Lock(); defer m.mu.Unlock(); return len(m.brews) == 1 })
	b, _ := m.Brew(context.Background(), "one")
	if off := c.now(nil).Sub(b.Started); off < 0 || off > time.Since(began)+time.Second {
		t.Errorf("begun %v before it was noticed", off)
	}
	until(t, "watched", func() bool { return m.kinds("one")[brew.Watched] == 1 })
	until(t, "the scale is lost", func() bool { return m.kinds("one")[brew.Unwatched] == 1 })
	for _, e := range mustBrew(m, "one").Events {
		if e.Kind == brew.Watched && e.Grams < 400 {
			t.Errorf("what stood on the scale is forgotten: %v", e.Grams)
		}
	}
}

// What a scale takes for the first water may have been something else: water that is tipped out
// again, or the coffee, which is tared away. Nothing of it stays, and the next first water
// begins the brew. Once a hand has touched the screen it is a brew, whatever the scale shows.
func TestWhatWasNoBrewIsTakenBack(t *testing.T) {
	t.Parallel()
	dose := float64(draft("one").Recipe.Dose)
	for name, c := range map[string]struct {
		onto    float64   // what is poured, g
		then    []float64 // what the scale shows after that
		touched bool
		stays   bool
	}{
		"the rinse":                    {50, []float64{-640, 3, 0}, false, false}, // lifted, put back without the water, tared
		"the coffee":                   {dose + 0.4, []float64{0}, false, false},
		"a touch makes it a brew":      {50, []float64{-640, 3}, true, true},
		"a tare in the bloom":          {50, []float64{0}, false, true},
		"the brewer lifted for a look": {50, []float64{-240, 50}, false, true},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			o, m, clock := bench(t)
			clock.runs = time.Now()
			has := func() bool { _, err := m.Brew(context.Background(), "one"); return err == nil }
			show := func(g func(i int) float64, steps int) {
				for i := range steps {
					if err := o.Read("one", "scale", units.Grams(g(i))); err != nil {
						t.Fatal(err)
					}
					time.Sleep(25 * time.Millisecond)
				}
			}
			level := func(g float64) func(int) float64 { return func(int) float64 { return g } }
			pour := func(i int) float64 { return 0.25 * float64(i) } // 10 g/s
			show(level(0), 40)
			show(pour, int(c.onto*4))
			show(level(c.onto), 60)
			until(t, "begun", has)
			if c.touched {
				if _, err := o.Apply(t.Context(), "one", brew.Event{Key: "mark", Kind: brew.MarkEvent, Mark: cup.DrySpot, At: 3}); err != nil {
					t.Fatal(err)
				}
			}
			for _, g := range c.then {
				show(level(g), 60)
			}
			if has() != c.stays {
				t.Fatalf("it is there: %v", has())
			}
			o.flush()
			if kept, _ := m.Readings(context.Background(), "one"); len(kept) > 0 != c.stays {
				t.Errorf("%d readings are kept", len(kept))
			}
			if c.stays {
				return
			}
			show(pour, 80)
			until(t, "begun with its own water", has)
			if since := clock.now(nil).Sub(mustBrew(m, "one").Started); since > 3*time.Second {
				t.Errorf("begun %v ago", since)
			}
			until(t, "what was understood of it counts from the first", func() bool {
				return slices.ContainsFunc(mustBrew(m, "one").Events, func(e brew.Event) bool { return e.Key == "scale-0" })
			})
		})
	}
}

func mustBrew(m *memory, id string) brew.Brew {
	b, err := m.Brew(context.Background(), id)
	if err != nil {
		panic(fmt.Sprint(id, err))
	}
	return b
}

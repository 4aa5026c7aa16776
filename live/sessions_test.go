package live

import (
	"errors"
	"maps"
	"slices"
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

var noon = time.Date(2026, 5, 12, 12, 0, 0, 0, time.UTC)

// A rig replaces the yard around sessions: it keeps brews in memory and acts on reports when settle is
// called. Its clock moves only by tick.
type rig struct {
	t        testing.TB
	ss       *Sessions
	uptime   time.Duration
	brews    map[string]brew.Brew
	stored   map[string][]trace.Reading
	byScale  map[string]bool // brews that their scale started
	diskFull bool
}

func newRig(t testing.TB) *rig {
	r := &rig{t: t, brews: map[string]brew.Brew{}, stored: map[string][]trace.Reading{}, byScale: map[string]bool{}}
	r.restart()
	return r
}

// restart replaces the sessions, as when the program was killed.
func (r *rig) restart() {
	uptime := func() time.Duration { return r.uptime }
	r.ss = NewSessions(NewClocks(r.now, uptime), uptime)
}

func (r *rig) now() time.Time { return noon.Add(r.uptime) }

func (r *rig) tick(d time.Duration) { r.uptime += d }

func draft(id string) brew.Draft {
	brewers, grinders, kettles := gear.Starter()
	g := gear.Set{Brewer: brewers[0], Grinder: grinders[0], Kettle: kettles[1], Boiling: 100}
	g.Brewer.Retained = gear.DefaultRetained
	bag := coffee.Bag{ID: "bag", Roast: coffee.Medium, RoastedOn: "2026-04-20"}
	return brew.First(id, bag, g, nil, recipe.Habits{}, noon)
}

// begin starts the brew of a draft by hand.
func (r *rig) begin(id string, at time.Time) brew.Brew {
	r.t.Helper()
	b, err := brew.Begin(draft(id), brew.Event{Key: "start", Kind: brew.Start, Instant: at})
	if err == nil {
		r.brews[id] = b
		err = r.ss.Begun(b)
	}
	if err != nil {
		r.t.Fatal(err)
	}
	return b
}

func (r *rig) open(id string) {
	r.t.Helper()
	err := r.ss.Open(id, func() (*brew.Brew, []trace.Reading, error) {
		b, ok := r.brews[id]
		if !ok {
			return nil, nil, nil
		}
		return &b, slices.Clone(r.stored[id]), nil
	})
	if err != nil {
		r.t.Fatal(err)
	}
}

// tap applies an event, as a yard does.
func (r *rig) tap(id string, e brew.Event) {
	b, known := r.brews[id]
	if !known {
		return
	}
	b, err := b.Apply(e, r.ss.clocks.Moment(&b))
	if err == nil {
		r.brews[id] = b
		r.ss.Update(b)
	}
}

// settle acts on all reports.
func (r *rig) settle() {
	r.t.Helper()
	for rep, ok := r.ss.Next(); ok; rep, ok = r.ss.Next() {
		b := r.brews[rep.BrewID]
		switch rep.Kind {
		case Happened:
			r.tap(rep.BrewID, rep.Event)
		case FirstWater:
			r.byScale[rep.BrewID] = true
			r.begin(rep.BrewID, r.now().Add(rep.Uptime-r.uptime))
		case Emptied:
			r.undo(rep.BrewID, 0, b.LooksLikeRinse(r.now()))
		case Tared:
			r.undo(rep.BrewID, rep.Tared, b.LooksLikeDosing(rep.Tared, r.now()))
		}
	}
}

func (r *rig) undo(id string, tared units.Grams, mistaken bool) {
	if !mistaken || !r.byScale[id] {
		return
	}
	delete(r.brews, id)
	delete(r.stored, id)
	r.ss.clocks.Forget(id)
	r.ss.Undone(id, tared)
}

// store stores the pending readings, unless the disk is full.
func (r *rig) store() {
	batch := r.ss.TakePending()
	if r.diskFull {
		r.ss.Requeue(batch)
		return
	}
	for id, readings := range batch {
		r.stored[id] = append(r.stored[id], readings...)
	}
}

func (r *rig) kinds(id string) map[brew.EventKind]int {
	out := map[brew.EventKind]int{}
	for _, e := range r.brews[id].Events {
		out[e.Kind]++
	}
	return out
}

// step is the time between two readings.
const step = time.Duration(device.Every * float64(time.Second))

// pour lets a hand pour a running brew over a scale, from one step to another.
func (r *rig) pour(id string, h *device.Hand, scale *device.ScaleStandIn, from, to int) {
	r.t.Helper()
	if from == 0 {
		for range 10 {
			scale.Step(h.InitialLoad())
		}
		scale.Tare()
	}
	r.open(id)
	for i := from; i < to && !h.Finished(); i++ {
		r.tick(step)
		at := units.Seconds(float64(i+1) * device.Every)
		x := trace.Reading{At: at, Grams: scale.Step(h.Step(r.brews[id].At(noon.Add(seconds(at))).Plan()))}
		if err := r.ss.ReadAt(id, "scale", h.InitialLoad().Grams, x); err != nil {
			r.t.Fatal(err)
		}
		r.settle()
	}
}

// show lets a scale show a weight for some readings.
func (r *rig) show(id string, n int, grams func(i int) float64) {
	r.t.Helper()
	r.open(id)
	for i := range n {
		r.tick(25 * time.Millisecond)
		if err := r.ss.Read(id, "scale", units.Grams(grams(i))); err != nil {
			r.t.Fatal(err)
		}
		r.settle()
	}
}

func level(g float64) func(int) float64 { return func(int) float64 { return g } }

// A brew that a hand pours over a scale ends without a tap, with all of its pours as they were
// poured, and every reading is stored. Readings long after its end are not.
func TestScaleFollowsABrewToItsEnd(t *testing.T) {
	t.Parallel()
	r := newRig(t)
	b := r.begin("one", noon)
	h := device.NewHand(4, device.Heavy, b.Question(noon))
	r.pour("one", h, device.NewScaleStandIn(4, 1), 0, 6000)
	b = r.brews["one"]
	if b.Status != brew.Poured {
		t.Fatalf("it is %s", b.Status)
	}
	state := b.At(b.Ended)
	for i, p := range state.Pours() {
		if d := p.Weighed - h.Poured[i].Total; d > 1.5 || d < -1.5 {
			t.Errorf("pour %d came to %v on the scale and is stored as %v", i, h.Poured[i].Total, p.Weighed)
		}
	}
	if end, _ := h.LiftedAt(); b.Cup.Drawdown < end-2 || b.Cup.Drawdown > end+2 {
		t.Errorf("lifted off at %v, and it ended at %v", end, b.Cup.Drawdown)
	}
	if carafe, ok := state.Carafe(); !ok || carafe < 400 {
		t.Errorf("the carafe weighs %v, %v", carafe, ok)
	}
	if k := r.kinds("one"); k[brew.Watched] != 1 {
		t.Errorf("events: %v", k)
	}
	for i := range 300 {
		if err := r.ss.ReadAt("one", "scale", 0, trace.Reading{At: b.Cup.Drawdown + 15 + units.Seconds(i)/10, Grams: -418}); err != nil {
			t.Fatal(err)
		}
	}
	r.store()
	stored := r.stored["one"]
	shown, err := r.ss.Trace("one")
	if last := stored[len(stored)-1].At; last > b.Cup.Drawdown+25 {
		t.Errorf("readings are stored until %v, and it ended at %v", last, b.Cup.Drawdown)
	}
	if len(stored) != len(shown) || len(stored) < 1500 || err != nil {
		t.Errorf("%d of %d readings are stored (%v)", len(stored), len(shown), err)
	}
}

// After a restart in mid-brew the events of the trace are reported again with the same keys:
// nothing counts twice, and nothing is missing. Mutation caught: new keys after a restart.
func TestRestartContinuesFromStoredReadings(t *testing.T) {
	t.Parallel()
	r := newRig(t)
	b := r.begin("one", noon)
	h, scale := device.NewHand(9, device.Practised, b.Question(noon)), device.NewScaleStandIn(9, 1)
	r.pour("one", h, scale, 0, 700)
	r.store()
	before := r.kinds("one")
	r.restart()
	r.pour("one", h, scale, 700, 6000)
	after := r.kinds("one")
	pours := 0
	for _, s := range b.Plan.Steps {
		if s.Act == recipe.PourWater {
			pours++
		}
	}
	if r.brews["one"].Status != brew.Poured || before[brew.Began] == 0 || after[brew.Began] != pours || after[brew.Ended] != pours {
		t.Errorf("%d pours; before the restart %v, in the end %v", pours, before, after)
	}
}

// A scale that is silent for more than three seconds is lost, also after a restart.
func TestSilentScaleIsLost(t *testing.T) {
	t.Parallel()
	for _, restarted := range []bool{false, true} {
		r := newRig(t)
		b := r.begin("one", noon)
		r.pour("one", device.NewHand(5, device.Usual, b.Question(noon)), device.NewScaleStandIn(5, 1), 0, 60)
		if restarted {
			r.store()
			r.restart()
			r.open("one")
		}
		r.tick(LostAfter)
		r.ss.Tend()
		r.settle()
		if k := r.kinds("one"); k[brew.Watched] != 1 || k[brew.Unwatched] != 0 {
			t.Fatalf("restarted %v: after exactly three seconds: %v", restarted, k)
		}
		r.tick(time.Millisecond)
		r.ss.Tend()
		r.settle()
		if k := r.kinds("one"); k[brew.Unwatched] != 1 {
			t.Errorf("restarted %v: it was not lost: %v", restarted, k)
		}
		if err := r.ss.ReadAt("one", "scale", 0, trace.Reading{At: 60, Grams: 40}); err != nil {
			t.Fatal(err)
		}
		r.settle()
		if k := r.kinds("one"); k[brew.Watched] != 2 {
			t.Errorf("restarted %v: it did not come back: %v", restarted, k)
		}
	}
}

func TestImpossibleReadingsAreIgnored(t *testing.T) {
	t.Parallel()
	r := newRig(t)
	b := r.begin("one", noon)
	r.pour("one", device.NewHand(2, device.Usual, b.Question(noon)), device.NewScaleStandIn(2, 1), 0, 60)
	if err := r.ss.ReadAt("one", "other", 0, trace.Reading{At: 7, Grams: 3}); !errors.Is(err, ErrOtherScale) {
		t.Errorf("a second scale: %v", err)
	}
	before, _ := r.ss.Trace("one")
	for _, x := range []trace.Reading{{At: 3, Grams: 1}, {At: 7, Grams: 1e9}} { // time backwards; no scale shows that
		if err := r.ss.ReadAt("one", "scale", 0, x); err != nil {
			t.Error(err)
		}
	}
	if after, _ := r.ss.Trace("one"); len(after) > len(before) {
		t.Errorf("%d readings became %d", len(before), len(after))
	}
}

// Mutation caught: readings that could not be stored are appended behind newer ones.
func TestRequeuedReadingsStayInOrder(t *testing.T) {
	t.Parallel()
	r := newRig(t)
	b := r.begin("one", noon)
	h, scale := device.NewHand(2, device.Usual, b.Question(noon)), device.NewScaleStandIn(2, 1)
	r.pour("one", h, scale, 0, 60)
	batch := r.ss.TakePending() // the disk is full, and readings arrive before it is known
	r.pour("one", h, scale, 60, 90)
	r.ss.Requeue(batch)
	r.store()
	shown, _ := r.ss.Trace("one")
	if !slices.Equal(r.stored["one"], shown) || len(shown) != 90 {
		t.Errorf("%d of %d readings are stored, in order: %v", len(r.stored["one"]), len(shown),
			slices.IsSortedFunc(r.stored["one"], func(a, b trace.Reading) int { return int(a.At*100) - int(b.At*100) }))
	}
}

// The readings of a scale without water for the brew are neither stored nor shown.
func TestScaleWithoutWaterIsIgnored(t *testing.T) {
	t.Parallel()
	r := newRig(t)
	r.begin("one", noon)
	r.open("one")
	for i := range 300 {
		if err := r.ss.ReadAt("one", "scale", 0, trace.Reading{At: units.Seconds(i) / 10, Grams: 418 + units.Grams(i%3)/10}); err != nil {
			t.Fatal(err)
		}
	}
	r.settle()
	r.store()
	shown, _ := r.ss.Trace("one")
	if k := r.kinds("one"); len(r.stored["one"])+len(shown) > 0 || k[brew.Watched] > 0 {
		t.Errorf("%d readings are stored, %d shown, events %v", len(r.stored["one"]), len(shown), k)
	}
}

// The first water on the scale begins the brew at its own second.
func TestFirstWaterBeginsTheBrew(t *testing.T) {
	t.Parallel()
	r := newRig(t)
	r.show("one", 10, level(418)) // brewer and carafe
	r.show("one", 40, level(0))   // tared
	if len(r.brews) > 0 {
		t.Fatal("it began while nothing was poured")
	}
	poured := r.now()
	r.show("one", 60, func(i int) float64 { return 0.15 * float64(i) }) // 6 g/s
	b, ok := r.brews["one"]
	if off := b.Started.Sub(poured); !ok || off < -time.Second || off > time.Second {
		t.Fatalf("begun %v after the first water (%v)", off, ok)
	}
	if k := r.kinds("one"); k[brew.Watched] != 1 {
		t.Errorf("events: %v", k)
	}
	for _, e := range b.Events {
		if e.Kind == brew.Watched && e.Grams < 400 {
			t.Errorf("the weight that was tared away is lost: %v", e.Grams)
		}
	}
}

// The supposed first water may be the rinse, which is tipped out, or the coffee, which is tared away. Then
// the start is undone without a trace. After a tap, it is a brew.
func TestMistakenStartIsUndone(t *testing.T) {
	t.Parallel()
	dose := float64(draft("one").Recipe.Dose)
	for name, c := range map[string]struct {
		onto   float64   // poured amount, g
		then   []float64 // later readings
		tapped bool
		stays  bool
	}{
		"the rinse":                    {50, []float64{-640, 3, 0}, false, false}, // lifted, put back without the water, tared
		"the coffee":                   {dose + 0.4, []float64{0}, false, false},
		"a tap makes it a brew":        {50, []float64{-640, 3}, true, true},
		"a tare in the bloom":          {50, []float64{0}, false, true},
		"the brewer lifted for a look": {50, []float64{-240, 50}, false, true},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			r := newRig(t)
			has := func() bool { _, ok := r.brews["one"]; return ok }
			flow := func(i int) float64 { return 0.25 * float64(i) } // 10 g/s
			r.show("one", 40, level(0))
			r.show("one", int(c.onto*4), flow)
			r.show("one", 60, level(c.onto))
			if !has() {
				t.Fatal("it did not begin")
			}
			if c.tapped {
				r.tap("one", brew.Event{Key: "mark", Kind: brew.MarkEvent, Mark: cup.DrySpot, At: 3})
			}
			for _, g := range c.then {
				r.show("one", 60, level(g))
			}
			r.store()
			if has() != c.stays || len(r.stored["one"]) > 0 != c.stays {
				t.Fatalf("it is there: %v, with %d readings", has(), len(r.stored["one"]))
			}
			if c.stays {
				return
			}
			began := r.now()
			r.show("one", 80, flow)
			if !has() || r.brews["one"].Started.Before(began.Add(-time.Second)) {
				t.Fatal("its own water did not begin it")
			}
			if !slices.ContainsFunc(r.brews["one"].Events, func(e brew.Event) bool { return e.Key == "scale-0" }) {
				t.Errorf("events do not count from the first: %v", slices.Collect(maps.Keys(r.kinds("one"))))
			}
		})
	}
}

// Mutation caught: a session is closed while a screen follows it, so that the screen gets no more
// numbers.
func TestSessionStaysOpenWhileAScreenFollows(t *testing.T) {
	t.Parallel()
	r := newRig(t)
	r.begin("one", noon)
	r.open("one")
	numbers, cancel, err := r.ss.Follow("one")
	if err != nil {
		t.Fatal(err)
	}
	r.tick(2 * idleAfter)
	r.ss.Tend()
	r.show("one", 80, func(i int) float64 { return 0.25 * float64(i) })
	select {
	case n := <-numbers:
		if n.Grams < 10 {
			t.Errorf("the screen shows %v", n.Grams)
		}
	default:
		t.Error("the screen gets no numbers")
	}
	r.store()
	cancel()
	r.tick(2 * idleAfter)
	r.ss.Tend()
	if _, _, err := r.ss.Follow("one"); !errors.Is(err, ErrNoSession) {
		t.Errorf("an idle session stays open: %v", err)
	}
}

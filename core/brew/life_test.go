package brew

import (
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"reflect"
	"slices"
	"testing"
	"time"

	"yardbloom/core/coach"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

var noon = time.Date(2026, 5, 12, 12, 0, 0, 0, time.UTC)

func draft() Draft {
	d := Draft{Sheet: Sheet{ID: "d", BagID: "bag", Recipe: written,
		Bag: coffee.Bag{ID: "bag", Roast: coffee.Medium, RoastedOn: "2026-04-20"},
		Gear: gear.Set{Brewer: gear.Brewer{Kind: gear.OpenCone, Material: gear.Plastic, Filter: gear.StandardPaper, Holds: 480,
			Retained: 2},
			Grinder: gear.Grinder{Burrs: gear.HandMill, Dial: gear.Dial{Kind: gear.Clicks, Zero: 50, Step: 20}, Loss: 0.5},
			Kettle:  gear.Kettle{Thermostat: true}, Boiling: 100}}}
	d.Recipe.Grind = 650
	return d
}

func begun(t *testing.T) Brew {
	t.Helper()
	b, err := Begin(draft(), Event{Key: "start", Kind: Start, Instant: noon})
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// after applies taps at their own seconds.
func after(t *testing.T, b Brew, events ...Event) Brew {
	t.Helper()
	for _, e := range events {
		e.Key = fmt.Sprint(e.Kind, e.At, e.Mark)
		var err error
		if b, err = b.Apply(e, noon.Add(time.Duration(e.At)*time.Second)); err != nil {
			t.Fatalf("%s at %v: %v", e.Kind, e.At, err)
		}
	}
	return b
}

func TestBrewFromFirstWaterToAdvice(t *testing.T) {
	b := begun(t)
	if b.Status != Running || !b.Started.Equal(noon) || len(b.Plan.Steps) != 4 || b.Forecast == nil || b.Forecast.DrawdownError <= 0 {
		t.Fatalf("begun as %+v", b)
	}
	if _, err := b.Taste(cup.Cup{}, coach.Person{}); !errors.Is(err, ErrStatus) {
		t.Errorf("tasted while it runs: %v", err)
	}
	b = after(t, b, taps(13, 44, 62, 84, 101, 125.5, 141, 205)...)
	if b.Status != Poured || b.Cup.Drawdown != 205 || b.Ended.Sub(b.Started) != 205*time.Second {
		t.Fatalf("poured as %s in %v", b.Status, b.Cup.Drawdown)
	}
	if again, err := b.Apply(Event{Key: "late", Kind: Advance, At: 300}, noon.Add(5*time.Minute)); err != nil || again.Cup.Drawdown != 205 ||
		!again.Ended.Equal(b.Ended) {
		t.Errorf("finished twice: %v, drawdown %v", err, again.Cup.Drawdown)
	}
	c := cup.Cup{Beverage: 261, TDS: 1.2, Drawdown: 205, Taste: cup.Taste{Steps: map[cup.Sense]int{cup.Acidity: 5, cup.Sweetness: 1}}}
	b, err := b.Taste(c, coach.Person{})
	if err != nil || b.Status != Done || b.Advice == nil || b.Advice.First == nil || b.Advice.First.Knob != recipe.Grind {
		t.Fatalf("advice on a sour cup: %+v (%v)", b.Advice, err)
	}
	next := b.Next("next", b.Advice.First, noon)
	if got := recipe.Changes(b.Recipe, next.Recipe); len(got) != 1 || got[0].To != b.Advice.First.To || next.Parent != b.ID {
		t.Errorf("the next recipe changes %+v", got)
	}
}

// The coach gets the earlier brews oldest first: a finer grind that made the cup worse differs from a
// coarser one that made it better. Mutation caught: a reversed path.
func TestTasteKeepsTheOrderOfThePath(t *testing.T) {
	pour := func(id string, grind units.Micrometres, at time.Time, mark int, steps map[cup.Sense]int) Brew {
		d := draft()
		d.ID, d.Recipe.Grind = id, grind
		b, err := Begin(d, Event{Kind: Start, Key: id, Instant: at})
		if err != nil {
			t.Fatal(err)
		}
		b, err = b.Apply(Event{Key: id + " end", Kind: Finish, At: 205}, at.Add(206*time.Second))
		if err != nil {
			t.Fatal(err)
		}
		b.Status, b.Cup = Done, cup.Cup{Drawdown: 205, Taste: cup.Taste{Steps: steps, Overall: mark}}
		return b.withTasting()
	}
	sour := map[cup.Sense]int{cup.Acidity: 4, cup.Sweetness: 2}
	bitter := map[cup.Sense]int{cup.Bitterness: 5, cup.Sweetness: 1}
	first := pour("first", 650, noon.Add(-48*time.Hour), 7, sour)
	second := pour("second", 560, noon.Add(-24*time.Hour), 3, bitter)
	third := pour("third", 560, noon, 4, bitter)
	tasted, err := third.Taste(third.Cup, coach.Person{}, first, second)
	if err != nil {
		t.Fatal(err)
	}
	advise := func(path ...coach.Case) coach.Advice {
		c := third.Case(coach.Person{})
		c.Path = path
		return coach.Advise(c)
	}
	a, b := first.Case(coach.Person{}), second.Case(coach.Person{})
	if want := advise(a, b); !reflect.DeepEqual(*tasted.Advice, want) {
		t.Errorf("advice %+v, want %+v", *tasted.Advice, want)
	}
	if reflect.DeepEqual(*tasted.Advice, advise(b, a)) {
		t.Error("the order of the path makes no difference")
	}
}

func TestIncompleteDraftDoesNotBegin(t *testing.T) {
	d := draft()
	d.Typed = map[string]string{"dose": "much"}
	if _, err := Begin(d, Event{Kind: Start, Instant: noon}); !errors.Is(err, ErrUnfinished) {
		t.Errorf("begun: %v", err)
	}
	if _, err := Begin(draft(), Event{Kind: Advance}); !errors.Is(err, ErrStatus) {
		t.Errorf("begun by a tap: %v", err)
	}
}

// A tablet that was offline sends its taps late: each counts at its own second, also after the end.
// Mutations caught: clamping them to the last tap, refusing them.
func TestLateTapCountsAtItsOwnTime(t *testing.T) {
	b := after(t, begun(t), taps(13, 44, 62, 84)...)
	late, err := b.Apply(Event{Key: "late", Kind: MarkEvent, Mark: cup.DrySpot, At: 20}, noon.Add(90*time.Second))
	if err != nil || late.At(noon.Add(90 * time.Second)).Marks[0].At != 20 ||
		late.At(noon.Add(90*time.Second)).Current != b.At(noon.Add(90*time.Second)).Current {
		t.Errorf("a late mark: %+v, %v", late.Events, err)
	}
	b = after(t, b, taps(101, 125.5, 141, 205)...)
	ended, now := b.Ended, noon.Add(6*time.Minute)
	b, err = b.Apply(Event{Key: "later", Kind: MarkEvent, Mark: cup.Stall, At: 150}, now)
	if err != nil || b.Status != Poured || !b.Ended.Equal(ended) || len(b.Case(coach.Person{}).Marks) != 1 {
		t.Errorf("a mark that came after the end: %s, %v", b.Status, err)
	}
	tasted, _ := b.Taste(cup.Cup{TDS: 1.3}, coach.Person{})
	for name, c := range map[string]struct {
		b   Brew
		e   Event
		now time.Time
	}{
		"made after the end of a tasted cup": {tasted, Event{Kind: Later, At: 300}, now},
		"31 days later":                      {b, Event{Kind: MarkEvent, Mark: cup.Stall, At: 150}, now.Add(31 * 24 * time.Hour)},
		"undo of a tasted cup":               {tasted, Event{Kind: Undo, At: 210}, now},
		"a second start of a tasted cup":     {tasted, Event{Kind: Start, Instant: noon}, now},
		"a start without its time":           {b, Event{Kind: Start}, now},
		"a tap that counts from no start":    {b, Event{Kind: Advance, At: 20, Start: "unknown"}, now},
	} {
		c.e.Key = name
		if _, err := c.b.Apply(c.e, c.now); !errors.Is(err, ErrStatus) {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func TestLastTapCanBeTakenBack(t *testing.T) {
	b := after(t, begun(t), taps(13, 44, 62, 84, 101, 125.5, 141, 180)...)
	b, err := b.Apply(Event{Key: "not yet", Kind: Undo, At: 182}, noon.Add(182*time.Second))
	if err != nil || b.Status != Running || !b.Ended.IsZero() || b.Cup.Drawdown != 0 {
		t.Fatalf("%s, ended %v, %v", b.Status, b.Ended, err)
	}
	if b = after(t, b, Event{Kind: Advance, At: 205}); b.Status != Poured || b.Cup.Drawdown != 205 {
		t.Errorf("%s in %v", b.Status, b.Cup.Drawdown)
	}
}

// Taps that arrive late, twice and in any order give the same brew as in their own order. Mutation caught:
// ordering taps by arrival.
func FuzzLateTaps(f *testing.F) {
	f.Add([]byte{12, 0, 40, 1, 10, 2, 9, 3, 8, 0, 30, 4}, uint64(1))
	f.Add([]byte{1, 3, 1, 0, 1, 3, 200, 0}, uint64(7))
	start, err := Begin(draft(), Event{Key: "start", Kind: Start, Instant: noon})
	if err != nil {
		f.Fatal(err)
	}
	f.Fuzz(func(t *testing.T, script []byte, seed uint64) {
		kinds := []EventKind{Advance, Later, MarkEvent, Undo, ScaleReading}
		var events []Event
		at, advances := units.Seconds(0), 0
		for i := 0; i+1 < len(script) && at < 80; i += 2 {
			e := Event{Key: fmt.Sprint(i), Kind: kinds[script[i+1]%5]}
			if e.Kind == Advance {
				if advances++; advances > 3 { // a brew that never ends accepts every tap
					continue
				}
			}
			if e.Kind == MarkEvent {
				e.Mark = cup.Stall
			}
			at += (1 + units.Seconds(script[i])) / 8 // eighths of a second are exact in floating point
			e.At = at
			events = append(events, e)
		}
		apply := func(b Brew, e Event, now units.Seconds) Brew {
			b, err := b.Apply(e, b.instant(now))
			if err != nil {
				t.Fatalf("%+v: %v", e, err)
			}
			return b
		}
		plain := start
		for _, e := range events {
			plain = apply(plain, e, e.At)
		}
		late, order := start, rand.New(rand.NewPCG(seed, 1))
		twice := append(slices.Clone(events), events...)
		order.Shuffle(len(twice), func(i, j int) { twice[i], twice[j] = twice[j], twice[i] })
		for _, e := range twice {
			late = apply(late, e, 150)
		}
		now := noon.Add(150 * time.Second)
		if want, got := plain.At(now), late.At(now); !reflect.DeepEqual(want, got) || len(late.Events) != len(events)+1 {
			t.Fatalf("late: %+v, in order: %+v", got, want)
		}
	})
}

// Apply does not modify its receiver, which another screen may hold.
func TestApplyDoesNotModifyItsReceiver(t *testing.T) {
	b := after(t, begun(t), taps(12, 44)...)
	before := len(b.Events)
	one := after(t, b, Event{Kind: MarkEvent, Mark: cup.Stall, At: 50})
	two := after(t, b, Event{Kind: Later, At: 51})
	if len(b.Events) != before || one.Events[before].Kind != MarkEvent || two.Events[before].Kind != Later {
		t.Errorf("%+v, %+v, %+v", b.Events, one.Events, two.Events)
	}
}

func TestSameEventTwiceCountsOnce(t *testing.T) {
	b := begun(t)
	for range 3 {
		var err error
		if b, err = b.Apply(Event{Key: "same", Kind: Advance, At: 12}, noon.Add(20*time.Second)); err != nil || len(b.Events) != 2 ||
			b.Events[1].At != 12 {
			t.Errorf("%+v, %v", b.Events, err)
		}
	}
}

func TestStopCanBeUndone(t *testing.T) {
	b := after(t, begun(t), Event{Kind: Advance, At: 12}, Event{Kind: Abandon, At: 50})
	if b.Status != Abandoned || b.Ended.Sub(noon) != 50*time.Second {
		t.Fatalf("%s after %v", b.Status, b.Ended.Sub(noon))
	}
	if _, err := b.Apply(Event{Key: "x", Kind: Advance, At: 60}, noon.Add(time.Minute)); !errors.Is(err, ErrStatus) {
		t.Errorf("a tap on a stopped brew: %v", err)
	}
	b = after(t, b, Event{Kind: Resume, At: 60})
	if b.Status != Running || b.Elapsed(noon.Add(time.Minute)) != 60 || !b.Ended.IsZero() {
		t.Errorf("continues as %+v", b)
	}
	if b.LastTap() == "" || At(b.Plan, append(b.Events, Event{Kind: Undo, At: 61}), 62).Now().To != 135 {
		t.Error("undo takes back the tap, not the stop")
	}
}

// Scale readings are in the same list and do not affect a brew that is led by taps.
func TestReadingsBetweenTaps(t *testing.T) {
	touched := taps(13, 44, 62, 84, 101, 125.5, 141)
	var both []Event
	for i, e := range touched {
		both = append(both, e)
		for j := range 30 { // ten a second
			both = append(both, Event{Kind: ScaleReading, At: e.At + units.Seconds(j)/10, Grams: units.Grams(20*i + j)})
		}
	}
	plain, read := At(plan, touched, 160), At(plan, both, 160)
	if !reflect.DeepEqual(plain.Stages, read.Stages) || read.Weight != 149 {
		t.Errorf("with readings the stages are %+v, want %+v; the scale shows %v", read.Stages, plain.Stages, read.Weight)
	}
	// The scale may detect the end before a tap.
	if s := At(plan, append(both, Event{Kind: Finish, At: 150}), 160); !s.Finished || s.Drawdown != 150 {
		t.Errorf("finished %v at %v", s.Finished, s.Drawdown)
	}
}

func measured(tds float64, asked *coach.Proposal) Brew {
	return Brew{Sheet: Sheet{Recipe: written, Advised: asked, Gear: gear.Set{Brewer: gear.Brewer{Kind: gear.OpenCone, Retained: 2}}},
		Status: Done, Plan: plan, Cup: cup.Cup{Beverage: 261, TDS: tds, Drawdown: 200}}
}

func TestChangeIsComparedWithItsExpectation(t *testing.T) {
	up := &coach.Proposal{Effect: coach.Effect{Yield: 0.8}}
	for _, c := range []struct {
		name  string
		after float64
		asked *coach.Proposal
		want  Verdict
	}{
		{"far more", 1.50, up, AsExpected},
		{"a little more", 1.36, up, WithinError},
		{"hardly more", 1.31, up, NoChange},
		{"a little less", 1.26, up, NoChange},
		{"far less", 1.10, up, Opposite},
		{"more, but nothing was asked", 1.50, nil, ""},
		{"not measured", 0, up, ""},
	} {
		o := Compare(measured(1.30, nil), measured(c.after, c.asked))
		if o.Verdict != c.want {
			t.Errorf("%s: %q, want %q", c.name, o.Verdict, c.want)
		}
		if (o.Yield == nil) != (c.after == 0) || o.Time == nil {
			t.Errorf("%s: yield %v, time %v", c.name, o.Yield, o.Time)
		}
	}
}

func TestBagWindowOverridesThePlan(t *testing.T) {
	b := measured(1.3, nil)
	if got := b.Window(); got != b.Plan.Window {
		t.Errorf("without its own window: %v", got)
	}
	b.Bag.Window = coffee.Window{From: 150, To: 170}
	if got := b.Case(coach.Person{}).Window; got != b.Bag.Window {
		t.Errorf("with one: %v", got)
	}
}

func TestMarksAreEvidence(t *testing.T) {
	b := after(t, begun(t), Event{Kind: MarkEvent, Mark: cup.DrySpot, At: 10}, Event{Kind: MarkEvent, Mark: cup.Stall, At: 20},
		Event{Kind: Undo, At: 22}, Event{Kind: Finish, At: 200})
	if got := b.Case(coach.Person{}).Marks; len(got) != 1 || got[0] != cup.DrySpot {
		t.Errorf("marks: %v", got)
	}
}

func TestRatioStaysAsTyped(t *testing.T) {
	d := draft()
	d.SetRatio = 16.5
	d.Recipe = d.Recipe.ResizeRounded(18.5, units.Grams(math.Round(18.5*16.5)))
	if got := d.Ratio(); got != 16.5 {
		t.Errorf("305 g on 18.5 g read 1 : %v", got)
	}
	d.Recipe = d.Recipe.ResizeRounded(18.5, 320)
	if got := d.Ratio(); math.Abs(got-17.3) > 0.01 {
		t.Errorf("320 g on 18.5 g read 1 : %v", got)
	}
}

// Coffee that was purged counts in the bag if its line was ticked. Mutation caught: a purge that always or never counts.
func TestTickedPurgeCountsInTheBag(t *testing.T) {
	t.Parallel()
	for _, ticked := range []bool{false, true} {
		d := draft()
		want := d.Recipe.Dose + d.Gear.Grinder.Loss
		if ticked {
			d.Checked, want = []string{"weigh", "purge"}, want+d.Gear.Grinder.Purge()
		}
		b, err := Begin(d, Event{Key: "start", Kind: Start, Instant: noon})
		if err != nil || b.Uses() != want || d.Gear.Grinder.Purge() == 0 {
			t.Errorf("ticked %v: %v, the bag gives %v g, want %v", ticked, err, b.Uses(), want)
		}
	}
}

package brew

import (
	"cmp"
	"flag"
	"fmt"
	"math"
	"math/rand/v2"
	"reflect"
	"slices"
	"testing"
	"time"

	"yardbloom/core/cup"
	"yardbloom/core/units"
)

var histories = flag.Int("histories", 60, "random histories of two tablets and a scale")

// A tale holds the events of one brew on two tablets and a scale, each in its own order, and the true outcome.
type tale struct {
	devices [3][]Event // tablet A, tablet B, the scale
	zero    time.Time  // the earliest first water
	left    map[int]units.Seconds
	marks   int
	drained units.Seconds
}

// tell makes a random tale. Every boundary of a stage is touched on one tablet or on both, a few seconds apart, or seen by the
// scale, before the clock would move it. Taps that were mistaken are undone.
func tell(r *rand.Rand) tale {
	t := tale{zero: noon, left: map[int]units.Seconds{}}
	aStart, bStart := Event{Key: "start a", Kind: Start, Instant: noon}, Event{Key: "start b", Kind: Start}
	frames := [2]Event{aStart, aStart}
	t.devices[0] = append(t.devices[0], aStart)
	if r.IntN(2) == 0 { // the second tablet has its own start
		bStart.Instant = noon.Add(time.Duration(r.IntN(5000)-2500) * time.Millisecond)
		frames[1] = bStart
		t.devices[1] = append(t.devices[1], bStart)
		if bStart.Instant.Before(noon) {
			t.zero = bStart.Instant
		}
	}
	n := 0
	on := func(device int, e Event, at units.Seconds) Event {
		n++
		frame := aStart
		if device < 2 {
			frame = frames[device]
		}
		e.Key, e.Start = fmt.Sprintf("%s-%c-%d", e.Kind, 'a'+device, n), frame.Key
		e.At = at + units.Seconds(t.zero.Sub(frame.Instant).Seconds())
		if device == 2 || e.At >= 0 { // a screen has no taps from before its start
			t.devices[device] = append(t.devices[device], e)
		}
		return e
	}
	quarter := func(least, most float64) units.Seconds {
		return units.Seconds(math.Round(4*(least+r.Float64()*(most-least))) / 4)
	}
	scale := r.IntN(3) == 0
	if scale {
		on(2, Event{Kind: Watched, Note: "scale"}, 0)
	}
	late := units.Seconds(0)
	boundary := func(stage int, at units.Seconds) {
		first, both := r.IntN(2), r.IntN(2) == 0
		if mistaken := at - quarter(2, 3); r.IntN(8) == 0 && mistaken > 1 && stage > 0 {
			wrong := on(first, Event{Kind: Advance, Stage: stage + 1}, mistaken)
			on(first, Event{Kind: Undo, Undoes: wrong.Key}, mistaken+1)
		}
		on(first, Event{Kind: Advance, Stage: stage + 1}, at)
		if both {
			on(1-first, Event{Kind: Advance, Stage: stage + 1}, at+quarter(0, 3))
		}
		t.left[stage] = at
	}
	for k, step := range plan.Steps {
		pour := 2 * k
		start := step.Start + late
		if k > 0 {
			start -= quarter(0, 3)
			late = start - step.Start
			if scale {
				on(2, Event{Kind: Began}, start)
				t.left[pour-1] = start
			} else {
				boundary(pour-1, start)
			}
		}
		end := start + max(5, step.Lasts-quarter(0, 2))
		if scale {
			on(2, Event{Kind: Ended, Grams: step.Total}, end)
			t.left[pour] = end
		} else {
			boundary(pour, end)
		}
		if r.IntN(3) == 0 {
			on(r.IntN(2), Event{Kind: MarkEvent, Mark: cup.DrySpot}, end+quarter(0.5, 2))
			t.marks++
		}
	}
	last := t.left[2*(len(plan.Steps)-1)]
	t.drained = last + quarter(60, 80)
	boundary(2*len(plan.Steps)-1, t.drained)
	for d := range t.devices { // a screen sends its taps in the order in which they were made
		slices.SortStableFunc(t.devices[d], func(a, b Event) int {
			return cmp.Or(cmp.Compare(isFirst(b), isFirst(a)), cmp.Compare(a.At, b.At))
		})
	}
	return t
}

func isFirst(e Event) int {
	if e.Kind == Start {
		return 1
	}
	return 0
}

// interleavings calls f with orders of arrival that keep the order of each device: all of them up to most, or else some.
func interleavings(r *rand.Rand, t tale, most, some int, f func([]Event)) {
	count, total := 1.0, 0
	for _, d := range t.devices {
		for i := range d {
			total++
			count *= float64(total) / float64(i+1)
		}
	}
	next := [3]int{}
	ready := func(d int) bool { // taps count from a start that has arrived
		e := t.devices[d][next[d]]
		return e.Kind == Start || slices.ContainsFunc([]int{0, 1}, func(o int) bool {
			return next[o] > 0 && t.devices[o][0].Kind == Start && t.devices[o][0].Key == e.Start
		})
	}
	order := make([]Event, 0, total)
	var all func()
	all = func() {
		if len(order) == total {
			f(order)
			return
		}
		for d := range t.devices {
			if next[d] < len(t.devices[d]) && ready(d) {
				order = append(order, t.devices[d][next[d]])
				next[d]++
				all()
				next[d]--
				order = order[:len(order)-1]
			}
		}
	}
	if count <= float64(most) {
		all()
		return
	}
	for range some {
		order, next = order[:0], [3]int{}
		for len(order) < total {
			d := r.IntN(3)
			if r.IntN(2) == 0 && len(order) > 0 { // often the same device again, as after a time offline
				d = slices.IndexFunc(t.devices[:], func(all []Event) bool {
					return slices.ContainsFunc(all, func(e Event) bool { return e.Key == order[len(order)-1].Key })
				})
			}
			if next[d] < len(t.devices[d]) && ready(d) {
				order = append(order, t.devices[d][next[d]])
				next[d]++
			}
		}
		f(order)
	}
}

// arrive applies events in the order of their arrival, long after they happened.
func arrive(t *testing.T, begun Brew, order []Event, revise bool) Brew {
	t.Helper()
	b := begun
	b.Events, b.Started = []Event{order[0]}, order[0].Instant
	for _, e := range order[1:] {
		var err error
		if b, err = b.Apply(e, noon.Add(time.Hour)); err != nil {
			t.Fatalf("%s at %v is refused (%v)", e.Kind, float64(e.At), err)
		}
		if revise {
			b = b.Revised()
		}
	}
	return b
}

// outcome returns the results that must not depend on the order of arrival.
func outcome(b Brew) any {
	s := b.At(b.Ended)
	return []any{b.Status, b.Started, b.Ended, b.Cup.Drawdown, s.Stages, s.Marks, s.Weight, s.Late, s.Plan()}
}

// Whatever the order in which the events of two tablets and a scale arrive, the brew is the one that truly happened. Mutations
// caught: events in the order of arrival, a tap without its stage, taps that count from the wrong start, the latest start,
// an undo of the latest tap, a tap refused because the brew has ended.
func TestTwoTabletsAndAScaleAgree(t *testing.T) {
	begun := begun(t)
	begun.Plan = plan
	orders := 0
	for seed := range *histories {
		r := rand.New(rand.NewPCG(uint64(seed), 22))
		told := tell(r)
		var want any
		interleavings(r, told, 5000, 200, func(order []Event) {
			orders++
			b := arrive(t, begun, order, false)
			got := outcome(b)
			if want != nil {
				if !reflect.DeepEqual(got, want) {
					t.Fatalf("history %d: %+v\nin another order: %+v", seed, got, want)
				}
				return
			}
			want = got
			s := b.At(b.Ended)
			if b.Status != Poured || !b.Started.Equal(told.zero) || !isNearTime(b.Cup.Drawdown, told.drained) || len(s.Marks) != told.marks {
				t.Fatalf("history %d: %s since %v, drawdown %v of %v, %d marks of %d", seed, b.Status, b.Started.Sub(noon), float64(b.Cup.Drawdown),
					float64(told.drained), len(s.Marks), told.marks)
			}
			for stage, left := range told.left {
				if !isNearTime(s.Stages[stage].Left, left) {
					t.Fatalf("history %d: stage %d ends at %v, and truly at %v", seed, stage, float64(s.Stages[stage].Left), float64(left))
				}
			}
		})
	}
	t.Logf("%d histories, %d orders", *histories, orders)
}

// The revisions of the plan follow from the events too. Mutation caught: a revision for other events that still counts.
func TestRevisionsDoNotDependOnArrival(t *testing.T) {
	begun := begun(t)
	revised := 0
	for seed := range 4 {
		r := rand.New(rand.NewPCG(uint64(seed), 4))
		told := tell(r)
		var want any
		interleavings(r, told, 0, 4, func(order []Event) {
			b := arrive(t, begun, order, true)
			got := outcome(b)
			for _, e := range b.Events {
				if e.Kind == Bend && e.Plan != nil {
					revised++
				}
			}
			if want == nil {
				want = got
			}
			if !reflect.DeepEqual(got, want) {
				t.Errorf("history %d: %+v\nin another order: %+v", seed, got, want)
			}
		})
	}
	if revised == 0 {
		t.Error("nothing was revised, so this test says nothing")
	}
}

// Two tablets that were offline began one brew 20 s apart and tapped it through. Mutations caught: taps of the second tablet on
// the clock of the first, a missing question, a split brew with taps of the other.
func TestTwoStartsOfOneBrew(t *testing.T) {
	b := begun(t) // at noon, on the first tablet
	b.Plan = plan
	apply := func(e Event) {
		t.Helper()
		var err error
		if b, err = b.Apply(e, noon.Add(time.Hour)); err != nil {
			t.Fatalf("%s is refused: %v", e.Key, err)
		}
	}
	apply(Event{Key: "start b", Kind: Start, Instant: noon.Add(20 * time.Second)})
	times := []units.Seconds{13, 44, 62, 84, 101, 125, 141, 205}
	for i, at := range times[:4] {
		apply(Event{Key: fmt.Sprint("a", i), Kind: Advance, Stage: i + 1, At: at, Start: "start"})
	}
	if len(b.Rivals()) != 0 {
		t.Error("asked about a start without taps")
	}
	for i, at := range times {
		apply(Event{Key: fmt.Sprint("b", i), Kind: Advance, Stage: i + 1, At: at - 20, Start: "start b"})
	}
	if b.Status != Poured || b.Cup.Drawdown != 205 || !b.Started.Equal(noon) {
		t.Errorf("%s, drawdown %v, begun at %v", b.Status, float64(b.Cup.Drawdown), b.Started)
	}
	rivals := b.Rivals()
	if len(rivals) != 1 || rivals[0].Start.Key != "start b" || rivals[0].Taps != 8 {
		t.Fatalf("rivals: %+v", rivals)
	}
	same, err := b.Apply(Event{Key: "same", Kind: Undo, Undoes: "start b", At: 300}, noon.Add(time.Hour))
	if err != nil || same.Cup.Drawdown != 205 || len(same.Rivals()) != 0 {
		t.Errorf("the same brew: drawdown %v, %d questions (%v)", float64(same.Cup.Drawdown), len(same.Rivals()), err)
	}
	later, err := b.Apply(Event{Key: "later", Kind: Undo, Undoes: "start", At: 300}, noon.Add(time.Hour))
	if err != nil || later.Cup.Drawdown != 185 || !later.Started.Equal(noon.Add(20*time.Second)) {
		t.Errorf("begun later: drawdown %v (%v)", float64(later.Cup.Drawdown), err)
	}
	rest, other, err := b.Split("start b", "other", "apart", noon.Add(time.Hour))
	if err != nil || other.ID != "other" || other.Cup.Drawdown != 185 || !other.Started.Equal(noon.Add(20*time.Second)) || other.Status != Poured {
		t.Errorf("the other brew: %s, drawdown %v (%v)", other.Status, float64(other.Cup.Drawdown), err)
	}
	if s := rest.At(noon.Add(90 * time.Second)); rest.Status != Running || s.Stages[3].Left != 84 || len(rest.Rivals()) != 0 {
		t.Errorf("the first brew: %s, %+v", rest.Status, s.Stages[3])
	}
	if _, _, err := rest.Split("start b", "third", "again", noon.Add(time.Hour)); err == nil {
		t.Error("split twice")
	}
}

// One pour, finished on two tablets: the later arrival of the earlier tap moves nothing but the end of the pour. Mutation
// caught: a tap that counts for the stage of its time.
func TestTwoTapsOfOneStage(t *testing.T) {
	b := begun(t)
	b.Plan = plan
	for _, e := range []Event{{Key: "a", Kind: Advance, Stage: 1, At: 13}, {Key: "b", Kind: Advance, Stage: 1, At: 12}} {
		b, _ = b.Apply(e, noon.Add(20*time.Second))
	}
	if s := b.At(noon.Add(20 * time.Second)); s.Now().Kind != Waiting || s.Stages[0].Left != 12 || s.Now().Left != plan.Steps[1].Start {
		t.Errorf("%s since %v until %v", s.Now().Kind, float64(s.Now().Entered), float64(s.Now().Left))
	}
}

// Events of any kind, with or without a stage and a start, give the same brew in any order. Mutation caught: a rule that looks
// at what arrived before.
func TestRandomEventsAgree(t *testing.T) {
	begun := begun(t)
	begun.Plan = plan
	kinds := []EventKind{Advance, Advance, Advance, Later, MarkEvent, Finish, Undo, Abandon, Resume}
	seen := []EventKind{Watched, Began, Grown, Ended, Weighed, Off, Back, Unwatched}
	for seed := range *histories {
		r := rand.New(rand.NewPCG(uint64(seed), 23))
		second := noon.Add(time.Duration(r.IntN(20)-10) * time.Second)
		told := tale{devices: [3][]Event{{{Key: "start a", Kind: Start, Instant: noon}}, {{Key: "start b", Kind: Start, Instant: second}}}}
		for d := range told.devices {
			at := units.Seconds(0)
			for i := range 3 + r.IntN(5) {
				at += units.Seconds(r.IntN(120)) / 4
				e := Event{Key: fmt.Sprint(d, "-", i), Kind: kinds[r.IntN(len(kinds)-2)], At: at, Start: []string{"start a", "start b", "start a"}[d]}
				switch {
				case d == 2:
					e.Kind, e.Grams = seen[r.IntN(len(seen))], units.Grams(r.IntN(300))
					if e.Kind == Grown { // is only accepted while water runs early
						e.Kind = Ended
					}
				case e.Kind == MarkEvent:
					e.Mark = cup.Stall
				case e.Kind == Undo && r.IntN(2) == 0:
					e.Undoes = told.devices[d][r.IntN(len(told.devices[d]))].Key
				case e.Kind == Advance || e.Kind == Later:
					e.Stage = r.IntN(9)
				}
				told.devices[d] = append(told.devices[d], e)
			}
		}
		var want any
		interleavings(r, told, 0, 20, func(order []Event) {
			got := outcome(arrive(t, begun, order, false))
			if want == nil {
				want = got
			}
			if !reflect.DeepEqual(got, want) {
				t.Fatalf("history %d: %+v\nin another order: %+v", seed, got, want)
			}
		})
	}
}

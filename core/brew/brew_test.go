package brew

import (
	"math"
	"testing"

	"yardbloom/core/cup"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// plan pours 54 g at 0:00, then at 0:45, 1:25 and 2:05 to 297 g, and aims at 3:22.
var plan = written.Plan()

var written = recipe.ThreeRounds.Style().Generate(18, 297, 94)

func taps(at ...units.Seconds) (events []Event) {
	for _, t := range at {
		events = append(events, Event{Kind: Advance, At: t})
	}
	return events
}

func TestWithoutTapsTheClockLeads(t *testing.T) {
	for _, c := range []struct {
		now  units.Seconds
		kind StageKind
		to   units.Grams
	}{{0, Pouring, 54}, {44.9, Pouring, 54}, {45, Pouring, 135}, {90, Pouring, 216}, {126, Pouring, 297}, {140, Pouring, 297},
		{153, Draining, 297}, {1000, Draining, 297}} {
		s := At(plan, nil, c.now)
		if got := s.Now(); got.Kind != c.kind || got.To != c.to || s.Late != 0 {
			t.Errorf("at %v: %v to %v g, %v late; want %v to %v g", c.now, got.Kind, got.To, s.Late, c.kind, c.to)
		}
	}
}

func TestTapsLeadThroughTheWholeBrew(t *testing.T) {
	events := taps(13, 44, 62, 84, 101, 125.5, 141, 205)
	kinds := []StageKind{Waiting, Pouring, Waiting, Pouring, Waiting, Pouring, Draining}
	for i, k := range kinds {
		if got := At(plan, events[:i+1], events[i].At+1).Now().Kind; got != k {
			t.Errorf("after tap %d: %v, want %v", i+1, got, k)
		}
	}
	s := At(plan, events, 300)
	if !s.Finished || s.Drawdown != 205 {
		t.Errorf("finished %v at %v, want 3:25", s.Finished, s.Drawdown)
	}
	if s.Stages[6].Entered != 125.5 || s.Stages[6].Left != 141 {
		t.Errorf("the last pour runs from %v to %v", s.Stages[6].Entered, s.Stages[6].Left)
	}
}

// A tap shortly after the clock has started a pour does not end it.
func TestTapJustAfterTheClockConfirmsIt(t *testing.T) {
	s := At(plan, taps(12, 47), 48)
	if s.Now().Kind != Pouring || s.Now().To != 135 || s.Late != 2 {
		t.Errorf("a tap 2 s after the clock: %v to %v g, %v late", s.Now().Kind, s.Now().To, s.Late)
	}
	if s = At(plan, taps(12, 47, 63), 64); s.Now().Kind != Waiting || s.Now().Left != 87 {
		t.Errorf("then a tap at the target: %v until %v; want waiting until 1:27, 2 s later than planned", s.Now().Kind, s.Now().Left)
	}
	// The clock starts draining at 2:32; a tap at 2:40 confirms the pour, one at 3:20 finishes the brew.
	if s = At(plan, taps(160), 161); s.Finished || s.Now().Kind != Draining {
		t.Errorf("a tap early in an untapped drain finished the brew")
	}
	if s = At(plan, taps(160, 200), 201); !s.Finished || s.Drawdown != 200 {
		t.Errorf("the tap at the last stream did not finish: %+v", s.Now())
	}
}

func TestStartingEarlyOrLateMovesTheRest(t *testing.T) {
	early := At(plan, taps(12, 39), 40)
	if early.Late != -6 || early.Ahead()[1].Entered != 79 {
		t.Errorf("6 s early: late by %v, next pour at %v", early.Late, early.Ahead()[1].Entered)
	}
	later := At(plan, append(taps(12), Event{Kind: Later, At: 40}, Event{Kind: Later, At: 41}), 50)
	if later.Now().Kind != Waiting || later.Now().Left != 55 {
		t.Errorf("moved 10 s: %v until %v", later.Now().Kind, later.Now().Left)
	}
	notYet := At(plan, append(taps(12), Event{Kind: Later, At: 46}), 47)
	if notYet.Now().Kind != Waiting || notYet.Now().Left != 50 {
		t.Errorf("\"not yet\" a second after the clock: %v until %v, want waiting until 0:50", notYet.Now().Kind, notYet.Now().Left)
	}
	if quick := At(plan, taps(12, 44, 50), 51); quick.Now().Left != 84 {
		t.Errorf("a fast pour leaves the next start alone: waiting until %v, want 1:24", quick.Now().Left)
	}
}

func TestDoubleTapCountsOnce(t *testing.T) {
	s := At(plan, taps(12, 12.3, 12.6), 20)
	if s.Now().Kind != Waiting {
		t.Errorf("three taps in 0.6 s lead to %v", s.Now().Kind)
	}
	if s = At(plan, taps(12, 13), 20); s.Now().Kind != Pouring || s.Now().To != 135 {
		t.Errorf("two taps a second apart lead to %v to %v g", s.Now().Kind, s.Now().To)
	}
}

func TestUndoRemovesTheLastTap(t *testing.T) {
	events := append(taps(12, 20), Event{Kind: Undo, At: 23})
	if s := At(plan, events, 24); s.Now().Kind != Waiting || s.Now().Left != 45 || s.Late != 0 {
		t.Errorf("after undo: %v until %v, %v late", s.Now().Kind, s.Now().Left, s.Late)
	}
	marked := append(taps(12), Event{Kind: MarkEvent, Mark: cup.DrySpot, At: 15}, Event{Kind: MarkEvent, Mark: cup.Channel, At: 16},
		Event{Kind: Undo, At: 18})
	if s := At(plan, marked, 24); len(s.Marks) != 1 || s.Marks[0].What != cup.DrySpot {
		t.Errorf("marks after undo: %v", s.Marks)
	}
	if At(plan, []Event{{Key: "a", Kind: Advance, At: 12}, {Kind: Undo, At: 13}}, 14).LastTap() != "" || At(plan, nil, 9).LastTap() != "" {
		t.Error("there is nothing to take back")
	}
}

// A tap without effect is not the one that an undo takes back. Mutation caught: the last tap by time.
func TestUndoTakesBackTheLastTapWithAnEffect(t *testing.T) {
	events := []Event{{Key: "end", Kind: Finish, At: 200}, {Key: "late", Kind: Advance, At: 210}, {Key: "later", Kind: Later, At: 211}}
	if got := At(plan, events, 220).LastTap(); got != "end" {
		t.Errorf("an undo takes back %q", got)
	}
	if s := At(plan, append(events, Event{Key: "undo", Kind: Undo, At: 215, Undoes: "end"}), 220); !s.Finished || s.Drawdown != 210 {
		t.Errorf("then the tap at 210 counts: finished %t at %v", s.Finished, float64(s.Drawdown))
	}
}

func TestTapIsStoredAtItsOwnTime(t *testing.T) {
	for _, c := range []struct{ said, now, want units.Seconds }{{40, 55, 40}, {60, 55, 55}, {5, 55, 5}, {-9, 55, 0}} {
		if got := eventTime(c.said, c.now); got != c.want {
			t.Errorf("event at %v, now %v: placed at %v, want %v", c.said, c.now, got, c.want)
		}
	}
}

// For any taps at any times, time runs forward and the state is consistent.
func FuzzTaps(f *testing.F) {
	f.Add([]byte{12, 0, 40, 0, 60, 1, 70, 2, 80, 3, 200, 0})
	f.Fuzz(func(t *testing.T, b []byte) {
		kinds := []EventKind{Advance, Later, MarkEvent, Undo, Finish, ScaleReading}
		var events []Event
		at := units.Seconds(0)
		for i := 0; i+1 < len(b) && i < 120; i += 2 {
			at += units.Seconds(b[i]) / 4
			events = append(events, Event{Kind: kinds[b[i+1]%6], Mark: cup.Stall, At: at})
		}
		s := At(plan, events, at+5)
		for i, st := range s.Stages {
			if st.Left < st.Entered-1e-9 || math.IsNaN(float64(st.Left)) {
				t.Fatalf("stage %d runs from %v to %v", i, st.Entered, st.Left)
			}
			if i > 0 && st.Entered < s.Stages[i-1].Entered-1e-9 {
				t.Fatalf("stage %d begins at %v, before %d at %v", i, st.Entered, i-1, s.Stages[i-1].Entered)
			}
		}
		for i, st := range s.Ahead()[1:] {
			if st.Entered < at {
				t.Fatalf("ahead %d begins at %v, now is %v", i, st.Entered, at)
			}
		}
	})
}

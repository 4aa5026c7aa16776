package brew

import (
	"cmp"
	"hash/fnv"
	"slices"
	"strconv"
	"time"

	"yardbloom/core/units"
)

// A history holds the events of a brew in the order in which they happened, on one clock, without undone events. It does not
// depend on the order of arrival, so all screens agree after they were offline.
type history struct {
	start  Event   // the earliest first water that was not undone; the zero value if there is no Start
	events []Event // At counts from start
}

// historyOf returns the history of events that arrived in any order.
func historyOf(arrived []Event) history {
	undone, apart := map[string]bool{}, map[string]bool{}
	starts := map[string]time.Time{}
	for _, e := range arrived {
		switch e.Kind {
		case Undo:
			undone[e.Undoes] = e.Undoes != ""
		case Apart:
			undone[e.Undoes], apart[e.Undoes] = true, true
		case Start:
			starts[e.Key] = e.Instant
		}
	}
	h := history{start: winner(arrived, undone)}
	first := firstStart(arrived)
	var takenBack []units.Seconds
	for _, e := range arrived {
		frame := cmp.Or(e.Start, first.Key)
		if e.Kind == Start || e.Kind == Apart || apart[frame] {
			continue
		}
		zero, known := starts[frame]
		if !known {
			zero = first.Instant
		}
		e.At += units.Seconds(zero.Sub(h.start.Instant).Seconds())
		if undone[e.Key] && e.Kind.IsTap() {
			if e.Kind == Advance {
				takenBack = append(takenBack, e.At)
			}
			continue
		}
		h.events = append(h.events, e)
	}
	h.events = slices.DeleteFunc(h.events, func(e Event) bool { // the second half of a double tap is undone with the first
		return e.Kind == Advance && slices.ContainsFunc(takenBack, func(at units.Seconds) bool { return at <= e.At && e.At < at+doubleTap })
	})
	slices.SortFunc(h.events, func(a, b Event) int {
		return cmp.Or(cmp.Compare(a.At, b.At), cmp.Compare(rank[a.Kind], rank[b.Kind]), cmp.Compare(a.Key, b.Key))
	})
	h.undoLast()
	return h
}

// rank orders events of the same time: events of a scale before taps.
var rank = map[EventKind]int{Tared: -4, Watched: -3, Began: -2, Grown: -2, Ended: -1, Heated: 1, Weighed: 1, Off: 1, Back: 1, Undo: 2, Unwatched: 3,
	Bend: 4}

// winner returns the earliest Start that was not undone; if all were, the earliest.
func winner(arrived []Event, undone map[string]bool) (first Event) {
	for _, e := range arrived {
		earlier := first.Key == "" && first.Instant.IsZero() || undone[first.Key] && !undone[e.Key]
		if undone[first.Key] == undone[e.Key] {
			earlier = earlier || e.Instant.Before(first.Instant) || e.Instant.Equal(first.Instant) && e.Key < first.Key
		}
		if e.Kind == Start && earlier {
			first = e
		}
	}
	return first
}

// firstStart returns the Start that arrived first.
func firstStart(arrived []Event) Event {
	if i := slices.IndexFunc(arrived, func(e Event) bool { return e.Kind == Start }); i >= 0 {
		return arrived[i]
	}
	return Event{}
}

// undoLast applies each Undo without a name to the last tap before it.
func (h *history) undoLast() {
	out := make([]Event, 0, len(h.events))
	for _, e := range h.events {
		if e.Kind != Undo {
			out = append(out, e)
			continue
		}
		for i := len(out) - 1; i >= 0 && e.Undoes == ""; i-- {
			if out[i].Kind.IsTap() {
				out = slices.Delete(out, i, i+1)
				break
			}
		}
	}
	h.events = out
}

// LastTap returns the key of the tap that an Undo takes back now: the last one with an effect; empty for none.
func (s State) LastTap() string {
	if len(s.taps) == 0 {
		return ""
	}
	return s.taps[len(s.taps)-1]
}

// LastTap returns the key of the tap that an Undo takes back now; empty for none.
func (b Brew) LastTap() string { return At(b.Plan, b.Events, 0).LastTap() }

// TimeOf returns the time of an event on the clock of the brew; false for one that is unknown or undone.
func (b Brew) TimeOf(key string) (units.Seconds, bool) {
	for _, e := range historyOf(b.Events).events {
		if e.Key == key {
			return e.At, true
		}
	}
	return 0, false
}

// A basis identifies the events that a revision of the plan was derived from. It grows event by event.
type basis uint64

func (h history) basis() basis { return basis(0).with(h.start) }

func (b basis) with(e Event) basis {
	h := fnv.New64a()
	_, _ = h.Write([]byte(b.String() + e.Key)) // never fails
	return basis(h.Sum64())
}

func (b basis) String() string { return strconv.FormatUint(uint64(b), 36) }

// affectsPlan reports whether an event can change when and how much to pour.
func (k EventKind) affectsPlan() bool {
	switch k {
	case Bend, MarkEvent, ScaleReading, Weighed, Abandon, Resume:
		return false
	}
	return true
}

// revisions returns the revisions of the plan by their basis.
func revisions(events []Event) map[string]Event {
	out := map[string]Event{}
	for _, e := range events {
		if e.Kind == Bend && e.Basis != "" {
			out[e.Basis] = e
		}
	}
	return out
}

// Origin returns the first water that was stored first. Readings of a scale count from it.
func (b Brew) Origin() Event { return firstStart(b.Events) }

// Kettle returns the last known temperature of the kettle; 0 if unknown.
func (b Brew) Kettle() (last units.Celsius) {
	for _, e := range historyOf(b.Events).events {
		if e.Kind == Heated {
			last = e.Celsius
		}
	}
	return last
}

// LatestEvent returns the moment of the latest event.
func (b Brew) LatestEvent() time.Time {
	if all := historyOf(b.Events).events; len(all) > 0 {
		return b.instant(max(0, all[len(all)-1].At))
	}
	return b.Started
}

// StartKey returns the key of the Start from which the brew counts.
func (b Brew) StartKey() string { return historyOf(b.Events).start.Key }

package brew

import (
	"slices"

	"yardbloom/core/units"
)

// EventKind is what a hand told the screen.
type EventKind string

// The kinds of event.
const (
	Advance   EventKind = "advance" // done with this, on to the next; at the end: finished
	Later     EventKind = "later"   // the bed is not ready: move the rest by LaterBy
	MarkEvent EventKind = "mark"    // something seen
	Undo      EventKind = "undo"    // take the last standing event back
)

// LaterBy is how much one Later moves the rest, s.
const LaterBy units.Seconds = 5

// What can be marked while pouring.
const (
	DrySpot = "dry spot"
	Channel = "channel"
	Stall   = "stall"
	Spill   = "spill"
)

// Marks lists what can be marked.
func Marks() []string { return []string{DrySpot, Channel, Stall, Spill} }

// A Mark is something that the person saw, and when.
type Mark struct {
	What string
	At   units.Seconds
}

// An Event is one touch during a brew. Key tells a repeated sending of the same
// touch from a new one; At is in seconds since the start.
type Event struct {
	Key  string        `json:"key" db:"key"`
	Kind EventKind     `json:"kind" db:"kind"`
	Mark string        `json:"mark,omitempty" db:"mark"`
	At   units.Seconds `json:"at" db:"at"`
}

// Valid says whether an event is one that the product knows.
func (e Event) Valid() bool {
	switch e.Kind {
	case Advance, Later, Undo:
		return e.Mark == ""
	case MarkEvent:
		return slices.Contains(Marks(), e.Mark)
	}
	return false
}

// standing returns the events that no Undo has taken back.
func standing(events []Event) []Event {
	var out []Event
	for _, e := range events {
		if e.Kind != Undo {
			out = append(out, e)
		} else if len(out) > 0 {
			out = out[:len(out)-1]
		}
	}
	return out
}

// HasUndo says whether there is anything to take back.
func HasUndo(events []Event) bool { return len(standing(events)) > 0 }

// When places a touch in time: at the moment that the screen says it happened,
// but never before an event that is already kept nor after now. A screen that
// lost the server sends its touches later, with their own times.
func When(said, now units.Seconds, events []Event) units.Seconds {
	at := min(said, now)
	if n := len(events); n > 0 {
		at = max(at, events[n-1].At)
	}
	return max(at, 0)
}

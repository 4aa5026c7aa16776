package brew

import (
	"cmp"
	"slices"
	"time"

	"yardbloom/core/cup"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// EventKind is what an event says.
type EventKind string

// The kinds of event.
const (
	Start     EventKind = "start"   // the first water; the first event of every brew
	Advance   EventKind = "advance" // done with this, on to the next; at the end: finished
	Finish    EventKind = "finish"  // the last steady stream has ended, wherever the plan stands
	Later     EventKind = "later"   // the bed is not ready: move the rest by LaterBy
	MarkEvent EventKind = "mark"    // something seen
	Undo      EventKind = "undo"    // take the last touch that stands back
	Reading   EventKind = "reading" // of the scale, typed or tapped
	Abandon   EventKind = "abandon" // given up; its Note says why
	Resume    EventKind = "resume"  // it was not given up
	Bend      EventKind = "bend"    // the rest was worked out anew: Plan is how it goes on, Note says so in a few words

	// What a scale saw, by core/trace.
	Tared     EventKind = "tared"     // Grams is what the scale showed when the brew began, and counts as nothing
	Watched   EventKind = "watched"   // a scale sees it from now on; its Note is the scale's id
	Unwatched EventKind = "unwatched" // the scale was lost
	Began     EventKind = "began"     // water runs
	Ended     EventKind = "ended"     // it runs no more; Grams is the total
	Grown     EventKind = "grown"     // water that runs long before a pour is due is that pour: Grams is the total so far
	Weighed   EventKind = "weighed"   // Grams is the total at rest, after the pour that ended last
	Off       EventKind = "off"       // the brewer was lifted off for good; Grams is what the scale shows without it
	Back      EventKind = "back"      // it was not: it stands on the scale again
)

// LaterBy is how much one Later moves the rest, s.
const LaterBy units.Seconds = 5

// A Mark is something that the person saw, and when.
type Mark struct {
	What cup.Mark
	At   units.Seconds
}

// An Event is one thing that happened in a brew. Key tells a repeated sending of
// the same event from a new one. At counts from the first water; the start has an
// Instant of its own, from which all others count.
type Event struct {
	Key     string
	Kind    EventKind
	At      units.Seconds
	Instant time.Time   // of a Start
	Mark    cup.Mark    // of a MarkEvent
	Grams   units.Grams // of a Reading, and of what a scale saw
	Plan    *recipe.Plan
	Note    string
}

// Touch says that a hand made the event on a screen, so that it can be taken back.
func (k EventKind) Touch() bool {
	return k == Advance || k == Later || k == MarkEvent || k == Finish
}

// Valid says whether an event is one that the product knows.
func (e Event) Valid() bool {
	switch e.Kind {
	case MarkEvent:
		return slices.Contains(cup.Marks(), e.Mark)
	case Start:
		return e.Mark == "" && !e.Instant.IsZero()
	case Bend:
		return e.Mark == "" && e.Plan != nil
	case Advance, Finish, Later, Undo, Reading, Abandon, Resume, Tared, Watched, Unwatched, Began, Grown, Ended, Weighed, Off, Back:
		return e.Mark == ""
	}
	return false
}

// standing returns the events that no Undo has taken back, in the order in which
// they happened: a screen that lost the server sends its touches later than they were made.
func standing(events []Event) []Event {
	byTime := slices.Clone(events)
	slices.SortStableFunc(byTime, func(a, b Event) int { return cmp.Compare(a.At, b.At) })
	out := make([]Event, 0, len(events))
	for _, e := range byTime {
		if e.Kind != Undo {
			out = append(out, e)
			continue
		}
		for i := len(out) - 1; i >= 0; i-- {
			if out[i].Kind.Touch() {
				out = slices.Delete(out, i, i+1)
				break
			}
		}
	}
	return out
}

// HasUndo says whether there is anything to take back.
func HasUndo(events []Event) bool {
	return slices.ContainsFunc(standing(events), func(e Event) bool { return e.Kind.Touch() })
}

// when places an event in time: at the moment that the screen says it happened,
// but not after now.
func when(said, now units.Seconds) units.Seconds { return max(0, min(said, now)) }

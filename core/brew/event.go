package brew

import (
	"slices"
	"time"

	"yardbloom/core/cup"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// EventKind is the kind of an event.
type EventKind string

// The kinds of event.
const (
	Start        EventKind = "start"   // first water, as a screen saw it; the first event of every brew
	Advance      EventKind = "advance" // go on to the next stage; in the last stage: finished
	Finish       EventKind = "finish"  // the last steady stream has ended, at any stage
	Later        EventKind = "later"   // the bed is not ready: delay the rest by LaterBy
	More         EventKind = "more"    // MoreWater was added to the bloom, which was not wet enough
	MarkEvent    EventKind = "mark"    // an observation
	Undo         EventKind = "undo"    // undo the tap or the start that Undoes names; without a name the last tap before it
	ScaleReading EventKind = "reading" // scale reading, typed or tapped
	Apart        EventKind = "apart"   // the Start named by Undoes, and the events that count from it, belong to another brew; Note is its id
	Abandon      EventKind = "abandon" // stopped; Note has the reason
	Resume       EventKind = "resume"  // undo an Abandon
	Bend         EventKind = "bend"    // the rest was revised: Plan is the new plan, Note describes the change; see Brew.Revised
	Heated       EventKind = "heated"  // the kettle is at Celsius

	// Events of a scale, from core/trace.
	Tared     EventKind = "tared"     // Grams is the scale reading at the start and becomes the zero point
	Watched   EventKind = "watched"   // a scale is connected; Note is its id
	Unwatched EventKind = "unwatched" // the scale was lost
	Began     EventKind = "began"     // water starts to run
	Ended     EventKind = "ended"     // water stops; Grams is the total
	Grown     EventKind = "grown"     // water that runs long before the next pour is due belongs to it; Grams is the total so far
	Weighed   EventKind = "weighed"   // Grams is the settled total after the last pour
	Off       EventKind = "off"       // the brewer was lifted off for good; Grams is the reading without it
	Back      EventKind = "back"      // the brewer is back on the scale
)

// LaterDelay is the delay of one Later event, s.
const LaterDelay units.Seconds = 5

// MoreWater is the water of one More event, g.
const MoreWater units.Grams = 10

// A Mark is an observation with its time.
type Mark struct {
	What cup.Mark
	At   units.Seconds
}

// An Event is something that happened in a brew. Key identifies it, so that sending it again has no effect.
//
// Several screens may have started a brew, each on its own clock. A Start has the Instant of the first water. All other events
// have the seconds since one of the Starts.
type Event struct {
	Key     string
	Kind    EventKind
	At      units.Seconds
	Start   string // Key of the Start from which At counts; empty: the first that was stored
	Stage   int    // the stage to which an Advance or a Later refers, counted from 1; 0: the stage at its time
	Undoes  string // of an Undo
	Instant time.Time
	Mark    cup.Mark      // of a MarkEvent
	Grams   units.Grams   // of a ScaleReading and of scale events
	Celsius units.Celsius // of Heated
	Plan    *recipe.Plan  // of a Bend; nil: the plan stays
	Basis   string        // of a Bend: identifies the events from which it was derived
	Note    string
	By      string // id of the person who tapped; empty: the yard, or a scale
}

// IsTap reports whether the event comes from a tap, so that it can be undone.
func (k EventKind) IsTap() bool {
	return k == Advance || k == Later || k == More || k == MarkEvent || k == Finish
}

// Valid reports whether the event is well-formed.
func (e Event) Valid() bool {
	switch e.Kind {
	case MarkEvent:
		return slices.Contains(cup.Marks(), e.Mark)
	case Start:
		return e.Mark == "" && !e.Instant.IsZero()
	case Bend:
		return e.Mark == "" && (e.Plan != nil || e.Basis != "")
	case Heated:
		return e.Mark == "" && e.Celsius > 0
	case Apart:
		return e.Mark == "" && e.Undoes != ""
	case Advance, Finish, Later, More, Undo, ScaleReading, Abandon, Resume, Tared, Watched, Unwatched, Began, Grown, Ended, Weighed, Off, Back:
		return e.Mark == ""
	}
	return false
}

// eventTime returns the time of an event: the time given by the screen, but not later than now.
func eventTime(said, now units.Seconds) units.Seconds { return max(0, min(said, now)) }

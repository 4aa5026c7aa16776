package brew

import (
	"math"
	"slices"

	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// StageKind is what a stretch of a brew consists of.
type StageKind string

// The kinds of stage.
const (
	Pouring   StageKind = "pour"
	Stirring  StageKind = "stir"
	Releasing StageKind = "release"
	Waiting   StageKind = "wait"
	Draining  StageKind = "drain" // until the last steady stream
)

// A Stage is one stretch of a brew: something to do, or waiting for it.
type Stage struct {
	Kind StageKind
	// Step is the step of the plan that the stage does or, while waiting, has done.
	Step int
	// Lasts is how long the plan gives it.
	Lasts units.Seconds
	// From and To are the totals on the scale when it starts and ends.
	From, To units.Grams
	// Entered and Left are when it began and ended; Left is where it is expected
	// to end while it runs or lies ahead.
	Entered, Left units.Seconds
	// Tapped says that a hand, not the clock, began it.
	Tapped bool
	// Skipped says that the clock passed over it, because what follows was due.
	Skipped bool
	// Seen says that a scale saw it begin, and Got is the total that was weighed at its
	// end; 0 where nobody weighed it.
	Seen bool
	Got  units.Grams
}

// Poured is the total on the scale when the stage was done: as it was weighed, or as it was planned.
func (s Stage) Poured() units.Grams {
	if s.Got > 0 {
		return s.Got
	}
	return s.To
}

// Does says that the hand is busy in the stage.
func (s Stage) Does() bool { return s.Kind != Waiting && s.Kind != Draining }

// kinds of the stages that do something, by act.
var doing = map[recipe.Act]StageKind{recipe.PourWater: Pouring, recipe.BreakCrust: Stirring, recipe.OpenValve: Releasing}

// Stages lays a plan out as stages: something to do and a wait by turns, and
// the draining at the end. Where a step is due before the one before it is done,
// there is no wait between them.
func Stages(p recipe.Plan) []Stage {
	var out []Stage
	for i, s := range p.Steps {
		next, kind := p.Finish, Draining
		if i+1 < len(p.Steps) {
			next, kind = p.Steps[i+1].Start, Waiting
		}
		out = append(out,
			Stage{Kind: doing[s.Act], Step: i, Lasts: s.Lasts, From: s.Total - s.Water, To: s.Total, Entered: s.Start, Left: s.End()},
			Stage{Kind: kind, Step: i, Lasts: max(0, next-s.End()), From: s.Total, To: s.Total, Entered: s.End(), Left: next})
	}
	return out
}

// State is a brew at one moment.
type State struct {
	Stages  []Stage
	Current int
	// Late is how much later than the plan the rest runs; negative for earlier.
	Late     units.Seconds
	Marks    []Mark
	Finished bool
	// Drawdown is when the last steady stream ended, once Finished.
	Drawdown units.Seconds
	// Weight is the total that was weighed last, g; 0 before the first.
	Weight units.Grams
	// Watched says that a scale sees the brew: pours begin and end when it sees them.
	Watched bool
	// Scale is the id of the scale that saw the brew last, and Under what stood on it when it
	// was tared, 0 where nobody knows.
	Scale string
	Under units.Grams
	// Lifted is what the scale shows without the brewer, once it was lifted off for good.
	Lifted *units.Grams
	// Bent is what the last change of the plan said, until the next thing to do begins.
	Bent string

	plan    recipe.Plan
	last    units.Seconds // of the last tap
	auto    bool          // the clock began the current stage by itself
	held    units.Seconds // how much later the next thing is wanted, by taps since the stage began
	byScale bool          // the scale, not a hand, ended it
	early   units.Seconds // when water ran long before it was due
}

// lastPourGrace is how long after its planned end the last thing to do counts
// as done when nobody taps.
const lastPourGrace units.Seconds = 10

// At works out the state at a moment, in seconds since the start.
func At(p recipe.Plan, events []Event, now units.Seconds) State {
	s := State{Stages: Stages(p), plan: p, last: units.Seconds(math.Inf(-1))}
	for _, e := range standing(events) {
		s.clockTo(e.At)
		s.apply(e)
	}
	s.clockTo(now)
	s.expect()
	return s
}

// Plan is the schedule as it stands: what was bent, and the rest moved by how late it runs.
func (s State) Plan() recipe.Plan {
	p := s.plan
	p.Steps = slices.Clone(p.Steps)
	if s.Finished {
		return p
	}
	for i := s.Now().Step + 1; i < len(p.Steps); i++ {
		p.Steps[i].Start += s.Late
	}
	p.Finish += s.Late
	if p.Window.Set() {
		p.Window.From, p.Window.To = p.Window.From+s.Late, p.Window.To+s.Late
	}
	return p
}

// due is when the thing to do in a step is to start.
func (s *State) due(step int) units.Seconds { return s.plan.Steps[step].Start + s.Late }

// clockTo moves on by the clock alone: waiting ends when the next thing to do
// is due, and so does a pour that nobody tapped as done.
func (s *State) clockTo(now units.Seconds) {
	for !s.Finished && s.Current < len(s.Stages)-1 {
		at, to := s.nextByClock()
		if at > now {
			return
		}
		for skipped := s.Current + 1; skipped < to; skipped++ {
			s.Stages[skipped].Entered, s.Stages[skipped].Left, s.Stages[skipped].Skipped = at, at, true
		}
		s.enter(to, at, false)
	}
}

// nextByClock returns when the clock moves on by itself, and to which stage.
func (s *State) nextByClock() (at units.Seconds, to int) {
	cur := s.Stages[s.Current]
	if s.Watched && cur.Kind == Pouring { // the scale will see its end
		return units.Seconds(math.Inf(1)), s.Current
	}
	if cur.Step+1 < len(s.plan.Steps) {
		return max(cur.Entered, s.due(cur.Step+1)), 2 * (cur.Step + 1)
	}
	return cur.Entered + cur.Lasts + lastPourGrace, s.Current + 1
}

func (s *State) enter(stage int, at units.Seconds, tapped bool) {
	s.Stages[s.Current].Left = at
	s.Current, s.auto, s.held = stage, !tapped, 0
	s.Stages[stage].Entered, s.Stages[stage].Tapped = at, tapped
	if st := s.Stages[stage]; st.Does() {
		s.Late, s.Bent = at-s.plan.Steps[st.Step].Start, "" // what was said of it has come
	}
}

func (s *State) apply(e Event) {
	switch e.Kind {
	case Advance:
		if s.Finished || s.ignores(e.At) {
			return
		}
		s.last = e.At
		switch {
		case s.confirms(e.At):
			s.enterAgain(e.At)
		case s.Current == len(s.Stages)-1:
			s.finish(e.At)
		default:
			if cur := &s.Stages[s.Current]; s.Watched && cur.Kind == Pouring && s.Weight > cur.From {
				cur.Got = s.Weight // a hand says that this is all
			}
			s.enter(s.Current+1, e.At, true)
		}
	case Later:
		if s.confirms(e.At) && s.Now().Does() { // not yet: back to waiting
			s.Current--
			s.Stages[s.Current].Skipped, s.auto = false, false
		}
		s.Late += LaterBy
		s.held += LaterBy
	case Finish:
		if !s.Finished {
			s.finish(e.At)
		}
	case Reading:
		s.Weight = e.Grams
	case Bend:
		s.bend(*e.Plan, e.Note)
	case Watched:
		s.Watched, s.Scale, s.Under = true, e.Note, e.Grams
	case Unwatched:
		s.Watched = false
	case Began, Grown, Ended, Weighed, Off, Back:
		s.see(e)
	case MarkEvent:
		s.Marks = append(s.Marks, Mark{What: e.Mark, At: e.At})
	}
}

// finish ends the brew at its last steady stream. Stages that were not reached
// are passed over.
func (s *State) finish(at units.Seconds) {
	s.Stages[s.Current].Left = at
	for i := s.Current + 1; i < len(s.Stages); i++ {
		s.Stages[i].Entered, s.Stages[i].Left, s.Stages[i].Skipped = at, at, true
	}
	s.Finished, s.Drawdown, s.Current = true, at, len(s.Stages)-1
}

// enterAgain takes a tap as the true beginning of a stage that the clock began.
func (s *State) enterAgain(at units.Seconds) {
	s.Stages[s.Current-1].Left = at
	st := &s.Stages[s.Current]
	st.Entered, st.Tapped, s.auto = at, true, false
	if st.Does() {
		s.Late = at - s.plan.Steps[st.Step].Start
	}
}

// doubleTap is the time in which a second touch of a wet hand is the same touch, s.
const doubleTap = 0.7

func (s *State) ignores(at units.Seconds) bool { return at-s.last < doubleTap }

// confirms says whether a tap at this moment repeats what the clock has just done by
// itself. A hand that reaches the screen a moment after the clock must not end
// the stage that it means to begin.
func (s *State) confirms(at units.Seconds) bool {
	if !s.auto || s.Current == 0 {
		return false
	}
	cur := s.Stages[s.Current]
	within := units.Seconds(3)
	if cur.Kind == Draining {
		within = cur.Lasts / 2
	}
	return at-cur.Entered <= within
}

// expect fills in when the running stage and those ahead are expected to end.
func (s *State) expect() {
	if s.Finished {
		return
	}
	for i := s.Current; i < len(s.Stages); i++ {
		st := &s.Stages[i]
		if i > s.Current {
			st.Entered = s.Stages[i-1].Left
		}
		switch {
		case st.Kind == Waiting:
			st.Left = max(st.Entered, s.due(st.Step+1))
		default:
			st.Left = st.Entered + st.Lasts
		}
	}
}

// Now returns the running stage.
func (s State) Now() Stage { return s.Stages[s.Current] }

// Ahead returns, from the running stage on, the stages that the clock alone
// will begin and when, so that a screen can keep time without the server: by the clock
// also where a scale sees the brew, which may be lost.
func (s State) Ahead() []Stage {
	return slices.DeleteFunc(s.AheadOfTaps(), func(st Stage) bool { return st.Skipped })
}

// AheadOfTaps is Ahead with the waits after pours, which only a tap begins, as Skipped.
func (s State) AheadOfTaps() []Stage {
	ahead := s
	ahead.Watched = false
	ahead.Stages = append([]Stage(nil), s.Stages...)
	out := []Stage{s.Now()}
	for !ahead.Finished && ahead.Current < len(ahead.Stages)-1 {
		at, to := ahead.nextByClock()
		for skipped := ahead.Current + 1; skipped < to; skipped++ {
			wait := ahead.Stages[skipped]
			wait.Left, wait.Skipped = at, true
			out = append(out, wait)
		}
		ahead.enter(to, at, false)
		ahead.expect()
		out = append(out, ahead.Now())
	}
	return out
}

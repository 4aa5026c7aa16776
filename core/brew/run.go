package brew

import (
	"math"
	"slices"

	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// StageKind is the kind of a stage.
type StageKind string

// The kinds of stage.
const (
	Pouring   StageKind = "pour"
	Stirring  StageKind = "stir"
	Releasing StageKind = "release"
	Waiting   StageKind = "wait"
	Draining  StageKind = "drain" // until the last steady stream
)

// A Stage is a period of a brew: an action, or waiting for it.
type Stage struct {
	Kind StageKind
	// Step is the index of the plan's step that the stage performs or, while waiting, has performed.
	Step int
	// Lasts is the planned duration.
	Lasts units.Seconds
	// From and To are the scale totals at its start and end.
	From, To units.Grams
	// Entered and Left are its start and end. Left is the expected end of a running or future stage.
	Entered, Left units.Seconds
	// Tapped is true if a tap, not the clock, started it.
	Tapped bool
	// Skipped is true if the clock passed over it because the next step was due.
	Skipped bool
	// Seen is true if a scale detected its start. Got is the weighed total at its end; 0 if unknown.
	ByScale bool
	Weighed units.Grams
}

// Poured returns the scale total at the end of the stage: weighed, or else planned.
func (s Stage) Poured() units.Grams {
	if s.Weighed > 0 {
		return s.Weighed
	}
	return s.To
}

// Busy reports whether the hand is busy in the stage.
func (s Stage) Busy() bool { return s.Kind != Waiting && s.Kind != Draining }

// doing maps acts to the kinds of their stages.
var doing = map[recipe.Act]StageKind{recipe.PourWater: Pouring, recipe.BreakCrust: Stirring, recipe.OpenValve: Releasing}

// Number returns the number of a stage in its brew, counted from 1.
func (s Stage) Number() int {
	if s.Busy() {
		return 2*s.Step + 1
	}
	return 2*s.Step + 2
}

// Stages converts a plan to stages: actions and waits in turn, and the draining at the end. Overlapping
// steps have no wait between them.
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

// State is the state of a brew at a moment.
type State struct {
	Stages  []Stage
	Current int
	// Late is the delay of the rest against the plan; negative if early.
	Late     units.Seconds
	Marks    []Mark
	Finished bool
	// Drawdown is the end of the last steady stream, once Finished.
	Drawdown units.Seconds
	// Weight is the last weighed total, g; 0 before the first.
	Weight units.Grams
	// Watched is true while a scale is connected: it detects the start and end of pours.
	Watched bool
	// Scale is the id of the scale that was connected last. Under is its reading when it was tared, 0 if
	// unknown.
	Scale    string
	TareLoad units.Grams
	// Lifted is the scale reading without the brewer, after it was lifted off for good.
	Lifted *units.Grams
	// Abandoned is true if the brew was stopped.
	Abandoned bool
	// Bent describes the last revision of the plan, until the next action begins.
	RevisionNote string

	plan       recipe.Plan
	kettle     units.Celsius // 0 if unknown
	taps       []string      // keys of the taps that had an effect
	last       units.Seconds // time of the last tap that ended a stage
	byClock    bool          // the clock started the current stage
	delay      units.Seconds // delay of the next action by taps since the stage began
	byScale    bool          // the scale, not a tap, ended it
	earlyStart units.Seconds // start of water that runs long before it is due
}

// lastPourGrace is the time after the planned end of the last action at which it counts as done without a
// tap.
const lastPourGrace units.Seconds = 10

// At computes the state of a brew at a number of seconds after the start. It is a function of the set of events: the order in
// which they arrived does not matter.
func At(p recipe.Plan, events []Event, now units.Seconds) State {
	h := historyOf(events)
	return h.state(p, revisions(events), len(h.events), now)
}

// state computes the state after the first n events of a history, at a number of seconds after the start.
func (h history) state(p recipe.Plan, revised map[string]Event, n int, now units.Seconds) State {
	s := State{Stages: Stages(p), plan: p, last: units.Seconds(math.Inf(-1))}
	from := h.basis()
	for _, e := range h.events[:n] {
		s.advanceClock(e.At)
		s.apply(e)
		if !e.Kind.affectsPlan() {
			continue
		}
		from = from.with(e)
		if r, ok := revised[from.String()]; ok && r.Plan != nil {
			s.revise(*r.Plan, r.Note)
		}
	}
	s.advanceClock(now)
	s.expect()
	return s
}

// Plan returns the current schedule: with revisions, and with the rest moved by its delay.
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
	if p.Window.IsSet() {
		p.Window.From, p.Window.To = p.Window.From+s.Late, p.Window.To+s.Late
	}
	return p
}

// due returns the start time of a step.
func (s *State) due(step int) units.Seconds { return s.plan.Steps[step].Start + s.Late }

// advanceClock advances by the clock alone: a wait ends when the next action is due, and so does a pour without
// a tap at its end.
func (s *State) advanceClock(now units.Seconds) {
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

// nextByClock returns the time of the clock's next advance, and the stage it leads to.
func (s *State) nextByClock() (at units.Seconds, to int) {
	cur := s.Stages[s.Current]
	if s.Watched && cur.Kind == Pouring { // the scale will detect its end
		return units.Seconds(math.Inf(1)), s.Current
	}
	if cur.Step+1 < len(s.plan.Steps) {
		return max(cur.Entered, s.due(cur.Step+1)), 2 * (cur.Step + 1)
	}
	return cur.Entered + cur.Lasts + lastPourGrace, s.Current + 1
}

func (s *State) enter(stage int, at units.Seconds, tapped bool) {
	s.Stages[s.Current].Left = at
	s.Current, s.byClock, s.delay = stage, !tapped, 0
	s.Stages[stage].Entered, s.Stages[stage].Tapped = at, tapped
	if st := s.Stages[stage]; st.Busy() {
		s.Late, s.RevisionNote = at-s.plan.Steps[st.Step].Start, "" // the delayed action has begun
	}
}

func (s *State) apply(e Event) {
	switch e.Kind {
	case Advance:
		s.advance(e)
	case Later:
		s.delayRest(e)
	case More:
		s.addToBloom(e)
	case Finish:
		if !s.Finished {
			s.taps = append(s.taps, e.Key)
			s.finish(e.At)
		}
	case ScaleReading:
		s.Weight = e.Grams
	case Bend:
		if e.Basis == "" {
			s.revise(*e.Plan, e.Note)
		}
	case Heated:
		s.kettle = e.Celsius
	case Abandon, Resume:
		s.Abandoned = e.Kind == Abandon
	case Watched:
		s.Watched, s.Scale, s.TareLoad = true, e.Note, e.Grams
	case Unwatched:
		s.Watched = false
	case Began, Grown, Ended, Weighed, Off, Back:
		s.applyScale(e)
	case MarkEvent:
		s.taps = append(s.taps, e.Key)
		s.Marks = append(s.Marks, Mark{What: e.Mark, At: e.At})
	}
}

// advance ends the stage to which a tap refers. A tap on a stage that another tap or the scale has ended does nothing. A tap
// on one that only the clock has ended tells when it really ended.
func (s *State) advance(e Event) {
	if s.Finished || s.ignores(e.At) {
		return
	}
	stage := s.Current
	if e.Stage > 0 && e.Stage <= len(s.Stages) {
		stage = e.Stage - 1
	}
	if stage < s.Current {
		if !s.clockSince(stage) {
			return
		}
		s.goBack(stage)
	}
	for s.Current < stage { // the screen was ahead
		now := s.Now()
		s.enter(s.Current+1, min(e.At, now.Entered+now.Lasts), false)
	}
	s.last, s.taps = e.At, append(s.taps, e.Key)
	switch {
	case s.confirms(e.At):
		s.reenter(e.At)
	case s.Current == len(s.Stages)-1:
		s.finish(e.At)
	default:
		if cur := &s.Stages[s.Current]; s.Watched && cur.Kind == Pouring && s.Weight > cur.From {
			cur.Weighed = s.Weight // the tap means that no more water follows
		}
		s.enter(s.Current+1, e.At, true)
	}
}

// clockSince reports whether the clock alone has ended a stage and all stages since.
func (s *State) clockSince(stage int) bool {
	for _, st := range s.Stages[stage+1 : s.Current+1] {
		if st.Tapped || st.ByScale {
			return false
		}
	}
	return true
}

// goBack returns to a stage that the clock has left.
func (s *State) goBack(stage int) {
	for i := stage; i <= s.Current; i++ {
		s.Stages[i].Skipped = false
	}
	s.Current, s.byClock = stage, false
}

// delayRest delays what follows the stage to which a tap refers. Once that stage has ended, the tap does nothing.
func (s *State) delayRest(e Event) {
	back := s.confirms(e.At) && s.Now().Busy() // not yet: return to waiting
	if s.Finished || e.Stage > 0 && e.Stage != s.Current+1 && !(back && e.Stage == s.Current) {
		return
	}
	if back {
		s.goBack(s.Current - 1)
	}
	s.taps = append(s.taps, e.Key)
	s.Late += LaterDelay
	s.delay += LaterDelay
}

// addToBloom adds water to the bloom, until the next pour begins.
func (s *State) addToBloom(e Event) {
	if s.Finished || s.Current > 1 || !s.plan.Steps[0].Bloom {
		return
	}
	s.taps = append(s.taps, e.Key)
	s.Stages[0].Weighed = s.Stages[0].Poured() + MoreWater
}

// maxBloomByEye is the bloom above which no more water is offered, g per g of dose: half a dose above what the model's bed takes up.
const maxBloomByEye = 4.5

// CanAddToBloom reports whether more water is offered for the bloom: in a style that judges it by eye, until the next pour, and up
// to maxBloomByEye.
func (s State) CanAddToBloom(r recipe.Recipe) bool {
	return !s.Finished && r.Style == recipe.BloomByEye && s.Current <= 1 && s.plan.Steps[0].Bloom &&
		s.Stages[0].Poured()+MoreWater <= maxBloomByEye*r.Dose
}

// finish ends the brew at its last steady stream and skips the remaining stages.
func (s *State) finish(at units.Seconds) {
	s.Stages[s.Current].Left = at
	for i := s.Current + 1; i < len(s.Stages); i++ {
		s.Stages[i].Entered, s.Stages[i].Left, s.Stages[i].Skipped = at, at, true
	}
	s.Finished, s.Drawdown, s.Current = true, at, len(s.Stages)-1
}

// reenter treats a tap as the actual start of a stage that the clock began.
func (s *State) reenter(at units.Seconds) {
	s.Stages[s.Current-1].Left = at
	st := &s.Stages[s.Current]
	st.Entered, st.Tapped, s.byClock = at, true, false
	if st.Busy() {
		s.Late = at - s.plan.Steps[st.Step].Start
	}
}

// doubleTap is the time in which a second tap counts as the same tap, s.
const doubleTap = 0.7

func (s *State) ignores(at units.Seconds) bool { return at-s.last < doubleTap }

// confirms reports whether a tap repeats the last advance of the clock. A tap shortly after the clock must
// not end the stage that it was meant to start.
func (s *State) confirms(at units.Seconds) bool {
	if !s.byClock || s.Current == 0 {
		return false
	}
	cur := s.Stages[s.Current]
	within := units.Seconds(3)
	if cur.Kind == Draining {
		within = cur.Lasts / 2
	}
	return at-cur.Entered <= within
}

// expect computes the expected ends of the running and the future stages.
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

// Now returns the running stage; the zero Stage for a plan without steps.
func (s State) Now() Stage {
	if s.Current >= len(s.Stages) {
		return Stage{}
	}
	return s.Stages[s.Current]
}

// Ahead returns the stages from the running one on, with the times at which the clock alone starts them, so
// that a screen can follow without the server. It also uses the clock for a brew with a scale, which may be
// lost.
func (s State) Ahead() []Stage {
	return slices.DeleteFunc(s.AheadOfTaps(), func(st Stage) bool { return st.Skipped })
}

// AheadOfTaps is Ahead with the waits after pours, which only a tap starts, as Skipped.
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

package brew

import (
	"math"

	"yardbloom/core/recipe"
	"yardbloom/core/trace"
	"yardbloom/core/units"
)

// Scale readings advance a brew the same way taps do, and also carry the poured weight.

const (
	// shortfall is the shortfall, in grams, within which a pour still counts as finished. With more missing
	// the hand has only paused.
	shortfall units.Grams = 3
	// shortfallShare is the same limit as a share of the pour.
	shortfallShare units.Grams = 0.15
	// earlyWindow: water flowing within this many seconds before a pour is due is credited to that pour.
	// Earlier water may belong to the last one.
	earlyWindow units.Seconds = 10
	// excess is the excess over a pour's total, g, from which further water belongs to the next pour.
	excess units.Grams = 8
	// firstWater is the time after the start, s, in which the scale's detection of the first pour adds
	// nothing.
	firstWater units.Seconds = 3
)

// eventKinds maps the kinds of trace events to events of a brew.
var eventKinds = map[trace.Kind]EventKind{trace.Began: Began, trace.Grown: Grown, trace.Ended: Ended, trace.Weighed: Weighed, trace.Off: Off,
	trace.Back: Back}

// EventOf converts a trace event to an event of a brew. It returns false for events that do not affect a brew,
// such as a swirl.
func EventOf(seen trace.Seen) (Event, bool) {
	kind, ok := eventKinds[seen.Kind]
	return Event{Kind: kind, At: max(0, seen.At), Grams: seen.Total}, ok
}

// applyScale applies an event of a scale.
func (s *State) applyScale(e Event) {
	switch e.Kind {
	case Began:
		s.waterStarted(e.At)
	case Grown:
		s.waterIncreased(e)
	case Ended:
		s.waterStopped(e)
	case Weighed:
		s.setWeight(e.Grams)
	case Off:
		s.Lifted = &e.Grams
		if !s.Finished && s.Current == len(s.Stages)-1 {
			s.finish(e.At)
			s.byScale = true
		}
	case Back:
		s.Lifted = nil
		if s.Finished && s.byScale {
			s.Finished, s.byScale, s.Drawdown = false, false, 0
		}
	}
}

// waterStarted treats the start of water as the start of the due pour, or of the next one.
func (s *State) waterStarted(at units.Seconds) {
	if s.Finished {
		return
	}
	if next := s.Current + 1; s.Now().Kind == Waiting && s.Stages[next].Kind == Pouring {
		if at < s.due(s.Stages[next].Step)-earlyWindow {
			s.earlyStart = at
			return
		}
		s.enter(next, at, true)
	}
	st := &s.Stages[s.Current]
	if st.Kind != Pouring || st.ByScale {
		return
	}
	st.ByScale = true
	if st.Step == 0 && at < firstWater {
		return
	}
	if s.Current > 0 {
		at = max(at, s.Stages[s.Current-1].Entered)
		s.Stages[s.Current-1].Left = at
	}
	st.Entered, st.Tapped, s.byClock = at, true, false
	s.Late = at - s.plan.Steps[st.Step].Start
}

// isEarlyWater reports whether water runs early, so that it is unknown to which pour it belongs.
func (s State) isEarlyWater() bool {
	return !s.Finished && s.Now().Kind == Waiting && s.earlyStart > s.Now().Entered && s.Stages[s.Current+1].Kind == Pouring
}

// waterIncreased credits early water to the next pour once it is too much for the last one.
func (s *State) waterIncreased(e Event) {
	if !s.isEarlyWater() || e.Grams < s.Stages[s.Current-1].To+excess {
		return
	}
	s.enter(s.Current+1, s.earlyStart, true)
	s.Stages[s.Current].ByScale = true
}

// waterStopped ends the running pour if nearly all of it is poured. After a pour that a tap or the clock has
// ended, it only records the amount.
func (s *State) waterStopped(e Event) {
	s.Weight = e.Grams
	if next := s.Current + 1; !s.Finished && s.Now().Kind == Waiting && s.Stages[next].Kind == Pouring &&
		e.Grams-s.Stages[s.Current-1].Poured() > (s.Stages[next].To-s.Stages[next].From)/2 {
		s.enter(next, max(s.earlyStart, s.Now().Entered), true) // it was the next pour
		s.Stages[next].ByScale = true
	}
	st := &s.Stages[s.Current]
	if s.Finished || st.Kind != Pouring {
		s.setWeight(e.Grams)
		return
	}
	missing := st.To - e.Grams
	if missing > max(shortfall, shortfallShare*(st.To-st.From)) {
		return
	}
	st.Weighed, st.ByScale = e.Grams, true
	s.enter(s.Current+1, max(e.At, st.Entered), true)
}

// setWeight records the total of the last finished pour.
func (s *State) setWeight(total units.Grams) {
	s.Weight = total
	for i := s.Current; i >= 0; i-- {
		if st := &s.Stages[i]; st.Kind == Pouring && (i < s.Current || s.Finished) && !st.Skipped {
			st.Weighed = total
			return
		}
	}
}

// Carafe returns the weight of the carafe with the beverage, after the brewer was lifted off a scale that
// was tared with both; false if unknown.
func (s State) Carafe() (units.Grams, bool) {
	if s.Lifted == nil || s.TareLoad <= 0 || s.TareLoad+*s.Lifted <= 0 {
		return 0, false
	}
	return s.TareLoad + *s.Lifted, true
}

// KettleChange returns the kettle temperature of the pour that has just ended and the one to set for the next
// pour. It returns false while water runs and if both are equal.
func (s State) KettleChange() (was, next units.Celsius, changes bool) {
	now := s.Now()
	if s.Finished || now.Kind != Waiting {
		return 0, 0, false
	}
	was = s.plan.Steps[now.Step].Temperature
	for _, step := range s.plan.Steps[now.Step+1:] {
		if step.Act == recipe.PourWater {
			return was, step.Temperature, was > 0 && step.Temperature > 0 && step.Temperature != was
		}
	}
	return 0, 0, false
}

// revise continues with a revised plan from the current stage.
func (s *State) revise(p recipe.Plan, said string) {
	if len(p.Steps) != len(s.plan.Steps) || s.Finished {
		return // the plan of another recipe
	}
	s.plan, s.Late, s.delay, s.RevisionNote = p, 0, 0, said
	for i, fresh := range Stages(p) {
		st := &s.Stages[i]
		switch {
		case i > s.Current:
			*st = fresh
		case i == s.Current:
			st.Lasts = fresh.Lasts
			if !st.Busy() {
				st.Lasts = max(0, fresh.Left-st.Entered)
			}
		}
	}
	if st := s.Now(); st.Busy() {
		s.Late = st.Entered - p.Steps[st.Step].Start
	}
	// The next stage begins with the total on the scale.
	if st := &s.Stages[s.Current]; !st.Busy() && s.Current > 0 {
		st.From, st.To = s.Stages[s.Current-1].Poured(), s.Stages[s.Current-1].Poured()
	}
}

// Pours returns the finished and running pours as poured, with weighed totals if there was a scale. To is
// infinite for a running pour.
func (s State) Pours() (done []Stage) {
	for i, st := range s.Stages {
		if st.Kind != Pouring || st.Skipped || i > s.Current {
			continue
		}
		if i == s.Current && !s.Finished {
			st.Left = units.Seconds(math.Inf(1))
		}
		done = append(done, st)
	}
	return done
}

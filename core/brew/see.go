package brew

import (
	"math"

	"yardbloom/core/recipe"
	"yardbloom/core/trace"
	"yardbloom/core/units"
)

// What a scale sees moves a brew as a hand's taps do, and knows more: how much came.

const (
	// shortBy is how much less than it should a pour may have given and still be one that
	// is done, g; with more missing the hand has only paused.
	shortBy units.Grams = 3
	// shortShare is that as a share of the pour.
	shortShare units.Grams = 0.15
	// ahead is how long before a pour is due water that runs is that pour, s: before that it
	// may be a drop more for the last one.
	ahead units.Seconds = 10
	// tooMuch is how far over a pour's total nobody pours after, g.
	tooMuch units.Grams = 8
	// firstWater is how long after the start the scale's own view of the first pour's
	// beginning says nothing new, s.
	firstWater units.Seconds = 3
)

// sawAs are the events that a brew is told, by what was understood of its trace.
var sawAs = map[trace.Kind]EventKind{trace.Began: Began, trace.Grown: Grown, trace.Ended: Ended, trace.Weighed: Weighed, trace.Off: Off, trace.Back: Back}

// Saw is what a brew is told of what was understood of its trace; false for what is none of
// its business, such as a swirl.
func Saw(seen trace.Seen) (Event, bool) {
	kind, ok := sawAs[seen.Kind]
	return Event{Kind: kind, At: max(0, seen.At), Grams: seen.Total}, ok
}

// see takes in what a scale saw.
func (s *State) see(e Event) {
	switch e.Kind {
	case Began:
		s.waterRuns(e.At)
	case Grown:
		s.waterGrows(e)
	case Ended:
		s.waterStops(e)
	case Weighed:
		s.weighed(e.Grams)
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

// waterRuns takes the moment at which water began to run as the beginning of the pour
// that is due, or of the next one.
func (s *State) waterRuns(at units.Seconds) {
	if s.Finished {
		return
	}
	if next := s.Current + 1; s.Now().Kind == Waiting && s.Stages[next].Kind == Pouring {
		if at < s.due(s.Stages[next].Step)-ahead {
			s.early = at
			return
		}
		s.enter(next, at, true)
	}
	st := &s.Stages[s.Current]
	if st.Kind != Pouring || st.Seen {
		return
	}
	st.Seen = true
	if st.Step == 0 && at < firstWater {
		return
	}
	if s.Current > 0 {
		at = max(at, s.Stages[s.Current-1].Entered)
		s.Stages[s.Current-1].Left = at
	}
	st.Entered, st.Tapped, s.auto = at, true, false
	s.Late = at - s.plan.Steps[st.Step].Start
}

// runsEarly says that water runs of which nobody knows yet whether it is the next pour.
func (s State) runsEarly() bool {
	return !s.Finished && s.Now().Kind == Waiting && s.early > s.Now().Entered && s.Stages[s.Current+1].Kind == Pouring
}

// waterGrows takes water that runs early as the next pour once it is too much for the last one.
func (s *State) waterGrows(e Event) {
	if !s.runsEarly() || e.Grams < s.Stages[s.Current-1].To+tooMuch {
		return
	}
	s.enter(s.Current+1, s.early, true)
	s.Stages[s.Current].Seen = true
}

// waterStops ends the running pour where about all of it is in. The end of a pour that a
// hand or the clock has ended already only says how much it was.
func (s *State) waterStops(e Event) {
	s.Weight = e.Grams
	if next := s.Current + 1; !s.Finished && s.Now().Kind == Waiting && s.Stages[next].Kind == Pouring && e.Grams-s.Stages[s.Current-1].Poured() > (s.Stages[next].To-s.Stages[next].From)/2 {
		s.enter(next, max(s.early, s.Now().Entered), true) // it was the next pour after all
		s.Stages[next].Seen = true
	}
	st := &s.Stages[s.Current]
	if s.Finished || st.Kind != Pouring {
		s.weighed(e.Grams)
		return
	}
	missing := st.To - e.Grams
	if missing > max(shortBy, shortShare*(st.To-st.From)) {
		return
	}
	st.Got, st.Seen = e.Grams, true
	s.enter(s.Current+1, max(e.At, st.Entered), true)
}

// weighed says what the last pour that is done has come to.
func (s *State) weighed(total units.Grams) {
	s.Weight = total
	for i := s.Current; i >= 0; i-- {
		if st := &s.Stages[i]; st.Kind == Pouring && (i < s.Current || s.Finished) && !st.Skipped {
			st.Got = total
			return
		}
	}
}

// Carafe is what the carafe weighs with the beverage in it, once the brewer was lifted off
// a scale that was tared with all of it; false where that is not known.
func (s State) Carafe() (units.Grams, bool) {
	if s.Lifted == nil || s.Under <= 0 || s.Under+*s.Lifted <= 0 {
		return 0, false
	}
	return s.Under + *s.Lifted, true
}

// Heats says what the kettle was at for the pour that is in, and what it shall be at for the
// next one; false while water runs, and where there is nothing to change.
func (s State) Heats() (was, next units.Celsius, changes bool) {
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

// bend goes on by another plan from the current stage.
func (s *State) bend(p recipe.Plan, said string) {
	if len(p.Steps) != len(s.plan.Steps) || s.Finished {
		return // of another recipe
	}
	s.plan, s.Late, s.held, s.Bent = p, 0, 0, said
	for i, fresh := range Stages(p) {
		st := &s.Stages[i]
		switch {
		case i > s.Current:
			*st = fresh
		case i == s.Current:
			st.Lasts = fresh.Lasts
			if !st.Does() {
				st.Lasts = max(0, fresh.Left-st.Entered)
			}
		}
	}
	if st := s.Now(); st.Does() {
		s.Late = st.Entered - p.Steps[st.Step].Start
	}
	// What lies ahead begins with what is on the scale.
	if st := &s.Stages[s.Current]; !st.Does() && s.Current > 0 {
		st.From, st.To = s.Stages[s.Current-1].Poured(), s.Stages[s.Current-1].Poured()
	}
}

// Pours are the pours that are done or run, as they were really poured: the total as it
// was weighed where a scale saw it. To is infinite for one that still runs.
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

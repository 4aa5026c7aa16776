package brew

import (
	"errors"
	"fmt"
	"slices"
	"time"

	"yardbloom/core/coach"
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/units"
)

var (
	// ErrStatus is returned for an event that a brew at that point does not take.
	ErrStatus = errors.New("the brew is not at that point")
	// ErrUnfinished is returned for a draft with something on it that cannot be brewed.
	ErrUnfinished = errors.New("the recipe is not finished")
)

// Begin makes a brew of a draft at its first water. From here on the plan, what
// the model expects, the coffee and the gear stay as they are.
func Begin(d Draft, start Event) (Brew, error) {
	if start.Kind != Start || !start.Valid() {
		return Brew{}, fmt.Errorf("begin with a %q: %w", start.Kind, ErrStatus)
	}
	if !d.Ready() {
		return Brew{}, ErrUnfinished
	}
	start.At = 0
	b := Brew{Sheet: d.Sheet, Status: Running, Plan: d.Recipe.Plan(), Started: start.Instant, Events: []Event{start}}
	if f, err := forecast.Of(d.Question(start.Instant)); err == nil {
		figures := f.Figures()
		b.Plan, b.Forecast = f.Plan, &figures
	}
	return b, nil
}

// Apply adds an event to a brew: a touch, a reading, the end, a stop or its taking
// back. An event whose key is known changes nothing. An event that a brew at that
// point does not take is an ErrStatus.
func (b Brew) Apply(e Event, now time.Time) (Brew, error) {
	if slices.ContainsFunc(b.Events, func(kept Event) bool { return kept.Key == e.Key }) {
		return b, nil
	}
	e.At = when(e.At, b.Elapsed(now))
	if !e.Valid() || !b.takes(e, now) {
		return b, ErrStatus
	}
	b.Events = append(slices.Clone(b.Events), e)
	switch {
	case e.Kind == Abandon:
		b.Status, b.Ended = Abandoned, b.instant(e.At)
	case e.Kind == Resume: // the clock has gone on, as the water has
		b.Status, b.Ended = Running, time.Time{}
	case b.Status == Running || b.Status == Poured:
		b.Status, b.Ended, b.Cup.Drawdown = Running, time.Time{}, 0
		if state := At(b.Plan, b.Events, b.Elapsed(now)); state.Finished {
			b.Status, b.Ended, b.Cup.Drawdown = Poured, b.instant(state.Drawdown), state.Drawdown
		}
	}
	return b, nil
}

// LateBy is how long after its end a brew still takes what happened before it: a
// screen that lost the server sends its touches when it is back.
const LateBy = 30 * time.Minute

// takes says whether an event can be added to the brew as it stands. After the
// end these are the touches that were made before it, and, until the cup is
// tasted, an Undo.
func (b Brew) takes(e Event, now time.Time) bool {
	switch {
	case e.Kind == Start:
		return false
	case e.Kind == Resume:
		return b.Status == Abandoned
	case e.Kind == Grown: // says something new of water that runs early alone
		return b.Status == Running && At(b.Plan, b.Events, e.At).runsEarly()
	case b.Status == Running:
		return true
	case e.Kind == Abandon || now.Sub(b.Ended) > LateBy:
		return false
	case e.Kind == Undo, e.Kind == Back:
		return b.Status == Poured
	}
	return b.instant(e.At).Before(b.Ended)
}

// instant is the moment so many seconds after the first water.
func (b Brew) instant(at units.Seconds) time.Time {
	return b.Started.Add(time.Duration(float64(at) * float64(time.Second)))
}

// Taste adds what was measured and tasted, and what the coach says of it to a person who
// brewed the path before. It can be done again: the last one counts.
func (b Brew) Taste(c cup.Cup, who coach.Person, path ...Brew) (Brew, error) {
	if !b.Over() {
		return b, ErrStatus
	}
	b.Status, b.Cup = Done, c
	now := b.Case(who)
	for _, before := range path {
		if before.Status == Done && before.Started.Before(b.Started) && before.Gear.Brewer.ID == b.Gear.Brewer.ID && before.Gear.Grinder.ID == b.Gear.Grinder.ID {
			past := before.Case(who)
			now.Path = append(now.Path, past)
			now.Measures = now.Measures || past.Cup.TDS > 0
		}
	}
	advice := coach.Advise(now)
	if b.Advice != nil {
		advice.Earlier = b.Advice.Told(advice)
	}
	b.Advice = &advice
	return b, nil
}

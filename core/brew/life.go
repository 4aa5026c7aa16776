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
	// ErrStatus is returned for an event that is invalid in the present status of the brew.
	ErrStatus = errors.New("the event is not valid in the present status of the brew")
	// ErrUnfinished is returned for a draft with invalid input.
	ErrUnfinished = errors.New("the recipe has invalid input")
)

// Begin turns a draft into a brew at its first water. From then on the plan, the forecast, the coffee and
// the gear are fixed.
func Begin(d Draft, start Event) (Brew, error) {
	if start.Kind != Start || !start.Valid() {
		return Brew{}, fmt.Errorf("begin with a %q: %w", start.Kind, ErrStatus)
	}
	if !d.Ready() {
		return Brew{}, ErrUnfinished
	}
	start.At = 0
	b := Brew{Sheet: d.Sheet, Status: Running, BrewedBy: start.By, Plan: d.Recipe.Plan(), Started: start.Instant, Events: []Event{start}}
	if f, err := forecast.Predict(d.Question(start.Instant)); err == nil {
		figures := f.Figures()
		b.Plan, b.Forecast = f.Plan, &figures
	}
	return b, nil
}

// Apply adds an event to a brew. An event with a known key changes nothing. An event that is invalid in the
// present status is an ErrStatus.
func (b Brew) Apply(e Event, now time.Time) (Brew, error) {
	if slices.ContainsFunc(b.Events, func(kept Event) bool { return kept.Key == e.Key }) {
		return b, nil
	}
	e.At = eventTime(e.At, b.Elapsed(now))
	if !e.Valid() || !b.accepts(e, now) {
		return b, ErrStatus
	}
	b.Events = append(slices.Clone(b.Events), e)
	switch {
	case e.Kind == Abandon:
		b.Status, b.Ended = Abandoned, b.instant(e.At)
	case e.Kind == Resume: // time went on meanwhile
		b.Status, b.Ended = Running, time.Time{}
	case b.Status == Running || b.Status == Poured:
		b.Status, b.Ended, b.Cup.Drawdown = Running, time.Time{}, 0
		if state := At(b.Plan, b.Events, b.Elapsed(now)); state.Finished {
			b.Status, b.Ended, b.Cup.Drawdown = Poured, b.instant(state.Drawdown), state.Drawdown
		}
	}
	return b, nil
}

// LateLimit is the time after its end in which a brew still accepts earlier events: a screen that was offline
// sends its taps when it is connected again.
const LateLimit = 30 * time.Minute

// accepts reports whether an event can be added. After the end these are taps made before it and, until the
// cup is tasted, an Undo.
func (b Brew) accepts(e Event, now time.Time) bool {
	switch {
	case e.Kind == Start:
		return false
	case e.Kind == Resume:
		return b.Status == Abandoned
	case e.Kind == Grown: // matters only while water runs early
		return b.Status == Running && At(b.Plan, b.Events, e.At).isEarlyWater()
	case b.Status == Running:
		return true
	case e.Kind == Abandon || now.Sub(b.Ended) > LateLimit:
		return false
	case e.Kind == Undo, e.Kind == Back:
		return b.Status == Poured
	}
	return b.instant(e.At).Before(b.Ended)
}

// instant returns the moment at a number of seconds after the first water.
func (b Brew) instant(at units.Seconds) time.Time {
	return b.Started.Add(time.Duration(float64(at) * float64(time.Second)))
}

// Taste adds the measurements and the tasting of the cup by the brew's taster, and the coach's advice for them
// after the brews of path. It can be repeated; the last call counts.
func (b Brew) Taste(c cup.Cup, who coach.Person, path ...Brew) (Brew, error) {
	if !b.Over() {
		return b, ErrStatus
	}
	b.Status, b.Cup = Done, c
	now := b.Case(who)
	for _, before := range path {
		if before = before.For(b.Taster); before.Status == Done && before.Started.Before(b.Started) && before.Gear.Brewer.ID == b.Gear.Brewer.ID &&
			before.Gear.Grinder.ID == b.Gear.Grinder.ID {
			past := before.Case(who)
			now.Path = append(now.Path, past)
			now.Measures = now.Measures || past.Cup.TDS > 0
		}
	}
	advice := coach.Advise(now)
	if b.Advice != nil {
		advice.Earlier = b.Advice.History(advice)
	}
	b.Advice = &advice
	return b.withTasting(), nil
}

package brew

import (
	"cmp"
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
// the gear are fixed. A kept recipe is an ErrStatus: its copies are brewed.
func Begin(d Draft, start Event) (Brew, error) {
	if start.Kind != Start || !start.Valid() || d.Name != "" {
		return Brew{}, fmt.Errorf("begin %q with a %q: %w", d.Name, start.Kind, ErrStatus)
	}
	if !d.Ready() {
		return Brew{}, ErrUnfinished
	}
	start.At = 0
	b := Brew{Sheet: d.Sheet, Status: Running, BrewedBy: start.By, Plan: d.Recipe.Plan(), Started: start.Instant, Events: []Event{start}}
	if slices.Contains(d.Checked, purgeItem) {
		b.Purged = d.Gear.Grinder.Purge()
	}
	if f, err := forecast.Predict(d.Question(start.Instant)); err == nil {
		figures := f.Figures()
		b.Plan, b.Forecast = f.Plan, &figures
	}
	return b, nil
}

// Apply adds an event to a brew. An event with a known key changes nothing. An event that is invalid in the
// present status is an ErrStatus.
//
// The result does not depend on the order in which events arrive, as long as all are accepted: status, start, end and drawdown
// follow from the set of events. A tap that no longer matters is kept and has no effect.
func (b Brew) Apply(e Event, now time.Time) (Brew, error) {
	if slices.ContainsFunc(b.Events, func(kept Event) bool { return kept.Key == e.Key }) {
		return b, nil
	}
	e.At = min(LatestEvent, eventTime(e.At, units.Seconds(now.Sub(b.zeroOf(e)).Seconds())))
	if !e.Valid() || !b.accepts(e, now) {
		return b, ErrStatus
	}
	was := b.Events
	b.Events = append(slices.Clone(b.Events), e)
	if e.Kind == Start || e.Kind == Undo || e.Kind == Apart {
		if start := historyOf(b.Events).start; start.Key != historyOf(was).start.Key {
			b.Started, b.BrewedBy = start.Instant, cmp.Or(start.By, b.BrewedBy)
		}
	}
	if b.Status != Done {
		b.follow(now)
	}
	return b, nil
}

// follow sets the status, the end and the drawdown by the events.
func (b *Brew) follow(now time.Time) {
	state := At(b.Plan, b.Events, b.Elapsed(now))
	b.Status, b.Ended, b.Cup.Drawdown = Running, time.Time{}, 0
	switch {
	case state.Abandoned:
		b.Status = Abandoned
		for _, e := range historyOf(b.Events).events {
			if e.Kind == Abandon {
				b.Ended = b.instant(max(0, e.At))
			}
		}
	case state.Finished:
		b.Status, b.Ended, b.Cup.Drawdown = Poured, b.instant(state.Drawdown), state.Drawdown
	}
}

// zeroOf returns the moment from which an event counts.
func (b Brew) zeroOf(e Event) time.Time {
	zero := b.Origin().Instant
	for _, s := range b.Events {
		if s.Kind == Start && s.Key == e.Start {
			zero = s.Instant
		}
	}
	return zero
}

// LateLimit is the time after its end in which a brew still accepts taps: a screen that was offline sends them when it is
// connected again.
const LateLimit = 30 * 24 * time.Hour

// LatestEvent limits the time of an event, s after its start. A brew that was forgotten for longer ends then.
const LatestEvent units.Seconds = 366 * 24 * 3600

// accepts reports whether an event can be added. Once the cup is tasted, these are only taps from before the end.
func (b Brew) accepts(e Event, now time.Time) bool {
	switch {
	case e.Start != "" && !slices.ContainsFunc(b.Events, func(s Event) bool { return s.Kind == Start && s.Key == e.Start }):
		return false
	case b.Status != Running && now.Sub(b.Ended) > LateLimit:
		return false
	case e.Kind == Start:
		return b.Status != Done
	case e.Kind == Resume:
		return b.Status == Abandoned
	case e.Kind == Grown: // matters only while water runs early
		return b.Status == Running && At(b.Plan, b.Events, b.elapsedAt(e)).isEarlyWater()
	case b.Status == Running:
		return true
	case b.Status == Poured:
		return e.Kind != Abandon
	case e.Kind == Abandon, e.Kind == Undo, e.Kind == Back:
		return false
	}
	return b.zeroOf(e).Add(time.Duration(float64(e.At) * float64(time.Second))).Before(b.Ended)
}

// elapsedAt returns the time of an event on the clock of the brew.
func (b Brew) elapsedAt(e Event) units.Seconds {
	return e.At + units.Seconds(b.zeroOf(e).Sub(b.Started).Seconds())
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
	if b.Advice != nil && b.Advice.First != nil {
		now.Said = &b.Advice.First.Change
	}
	advice := coach.Advise(now)
	if b.Advice != nil {
		advice.Earlier = b.Advice.History(advice)
	}
	b.Advice = &advice
	return b.withTasting(), nil
}

package brew

import (
	"cmp"
	"slices"
	"time"

	"yardbloom/core/cup"
)

// A Rival is a later start by another screen, which may belong to another brew.
type Rival struct {
	Start Event
	Taps  int
}

// startTolerance is the time between two starts within which they are the same touch on two screens.
const startTolerance = 5 * time.Second

// Rivals returns the starts that may belong to another brew: more than 5 s after the start that counts, with taps that count
// from them, and not yet confirmed by a person. The start that counts must have taps too. A tasted brew has no rivals.
func (b Brew) Rivals() (out []Rival) {
	if b.Status == Done || b.Status == Abandoned {
		return nil
	}
	h := historyOf(b.Events)
	taps, judged := map[string]int{}, map[string]bool{}
	for _, e := range h.events {
		if e.Kind == Advance || e.Kind == Finish {
			taps[cmp.Or(e.Start, b.Origin().Key)]++
		}
	}
	for _, e := range b.Events {
		if e.Kind == Undo || e.Kind == Apart {
			judged[e.Undoes] = true
		}
	}
	if taps[h.start.Key] == 0 {
		return nil
	}
	for _, e := range b.Events {
		if e.Kind == Start && !judged[e.Key] && e.Instant.Sub(h.start.Instant) > startTolerance && taps[e.Key] > 0 {
			out = append(out, Rival{e, taps[e.Key]})
		}
	}
	return out
}

// Split moves a rival start and the events that count from it to a new brew with the same recipe and the given id. apart is the
// key of the event that records the split. It returns ErrStatus if the start is not a rival.
func (b Brew) Split(startKey, id, apart string, now time.Time) (rest, other Brew, err error) {
	if !slices.ContainsFunc(b.Rivals(), func(r Rival) bool { return r.Start.Key == startKey }) {
		return b, Brew{}, ErrStatus
	}
	other = b
	other.ID, other.Events, other.Tastings, other.Version = id, nil, nil, 0
	other.Advice, other.Cup, other.MeasuredBy = nil, cup.Cup{}, ""
	for _, e := range b.Events {
		if e.Kind == Start && e.Key == startKey {
			other.Started, other.BrewedBy = e.Instant, cmp.Or(e.By, b.BrewedBy)
			other.Events = append([]Event{e}, other.Events...)
		} else if e.Start == startKey {
			other.Events = append(other.Events, e)
		}
	}
	other.follow(now)
	rest, err = b.Apply(Event{Key: apart, Kind: Apart, Undoes: startKey, Note: id, At: b.Elapsed(now)}, now)
	return rest, other, err
}

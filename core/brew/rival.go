package brew

import (
	"cmp"
	"slices"
	"time"

	"yardbloom/core/cup"
)

// A Rival is a second first water, long after the one that counts: it may be another brew.
type Rival struct {
	Start Event
	Taps  int
}

// startTolerance is the time between two starts within which they are the same touch on two screens.
const startTolerance = 5 * time.Second

// Rivals returns the first waters that may belong to another brew: those that nobody has judged, are more than 5 s later than
// the one that counts, and have taps of their own, as it has too. There are none once the cup is tasted.
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

// Split takes a start and all that counts from it out of a brew and makes it a brew of its own with the same recipe, which
// gets an id. apart is the key of the event that records it. The start must be a rival, else it is an ErrStatus.
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

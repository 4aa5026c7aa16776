package brew

import (
	"slices"

	"yardbloom/core/units"
)

// HappeningKind is the kind of a Happening.
type HappeningKind string

// The kinds of happening.
const (
	BrewStarted  HappeningKind = "brew-started"
	PourFinished HappeningKind = "pour-finished"
	BrewEnded    HappeningKind = "brew-ended" // drawn down, or stopped
	CupSaved     HappeningKind = "cup-saved"
)

// A Happening is a step in the life of a brew of which other programs are notified.
type Happening struct {
	Kind HappeningKind
	Pour int         // of PourFinished: counted from 1
	Of   int         // pours of the plan
	Sum  units.Grams // of PourFinished: total on the scale
}

// Happenings returns the steps by which one state of a brew became another. A pour that a tap or a scale ended is reported with that event,
// one that the clock ended with the next event. A tap that is taken back takes nothing back.
func Happenings(was, now Brew) []Happening {
	var out []Happening
	before, after := finishedPours(was), finishedPours(now)
	of := pours(now)
	for i := len(before); i < len(after); i++ {
		out = append(out, Happening{Kind: PourFinished, Pour: i + 1, Of: of, Sum: after[i]})
	}
	if was.Status == Running && now.Status != Running {
		out = append(out, Happening{Kind: BrewEnded, Of: of})
	}
	if now.Status == Done && TastingsChanged(was, now) {
		out = append(out, Happening{Kind: CupSaved, Of: of})
	}
	return out
}

// TastingsChanged reports whether a cup was tasted or measured between two states of a brew.
func TastingsChanged(was, now Brew) bool {
	return !slices.EqualFunc(was.Tastings, now.Tastings, func(a, b Tasting) bool { return a.Taster == b.Taster && a.Advice == b.Advice })
}

// pours returns the number of pours of the plan.
func pours(b Brew) (n int) {
	for _, st := range At(b.Plan, b.Events, 0).Stages {
		if st.Kind == Pouring {
			n++
		}
	}
	return n
}

// finishedPours returns the totals of the pours that are finished at the last event.
func finishedPours(b Brew) (out []units.Grams) {
	last := units.Seconds(0)
	for _, e := range b.Events {
		last = max(last, e.At)
	}
	state := At(b.Plan, b.Events, last)
	for i, st := range state.Stages {
		if st.Kind == Pouring && !st.Skipped && (i < state.Current || state.Finished) {
			out = append(out, st.Poured())
		}
	}
	return out
}

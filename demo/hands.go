package demo

import (
	"fmt"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/recipe"
	"yardbloom/core/trace"
	"yardbloom/core/units"
	"yardbloom/device"
)

// newHand is the number of days for which the nursery's people have been pouring well.
const newHand = 7

// scaleReadings returns the scale readings of a brew, poured by one of the nursery's people and lifted off at the
// time of the story, and the events detected in them.
func scaleReadings(b brew.Brew, drawdown units.Seconds, days int, marks []brew.Mark) (readings []trace.Reading, happened []brew.Event) {
	manner, seed := device.Usual, device.SeedOf(b.ID)
	if days < newHand {
		manner = device.Practised
	}
	hand := device.NewHand(seed, manner, b.Question(b.Started))
	hand.LiftAt(drawdown)
	scale := hand.TaredScale(seed)
	happened = append(happened, brew.Event{Key: "watched", Kind: brew.Watched, Note: devices[0].ID, Grams: hand.InitialLoad().Grams})
	var reader trace.Reader
	for i := 1; !hand.Finished(); i++ {
		x := trace.Reading{At: units.Seconds(float64(i) * device.Every), Grams: scale.Step(hand.Step(b.Plan))}.Rounded()
		readings = append(readings, x)
		for _, seen := range reader.Read(x) {
			if e, ok := brew.EventOf(seen); ok && e.Kind != brew.Grown { // no pour of the story starts early
				e.Key = fmt.Sprintf("scale-%d", len(happened))
				happened = append(happened, e)
			}
		}
		if len(marks) > 0 && x.At >= marks[0].At {
			happened = append(happened, brew.Event{Key: fmt.Sprintf("mark-%d", i), Kind: brew.MarkEvent, At: x.At, Mark: marks[0].What})
			marks = marks[1:]
		}
	}
	return readings, happened
}

// taps returns the taps of a person who follows a plan: each a second or so off, the last one at the
// last steady stream.
func taps(p recipe.Plan, drawdown units.Seconds, n int, marks []brew.Mark) []brew.Event {
	var out []brew.Event
	add := func(at units.Seconds, e brew.Event) {
		e.Key, e.At = fmt.Sprintf("tap-%d", len(out)), at
		out = append(out, e)
	}
	off := func(i int) units.Seconds { return units.Seconds((i*7+n*3)%5) * 0.6 }
	for i, s := range p.Steps {
		if i > 0 {
			add(s.Start+off(i)-1, brew.Event{Kind: brew.Advance})
		}
		for len(marks) > 0 && marks[0].At < s.End() {
			add(max(marks[0].At, s.Start+2), brew.Event{Kind: brew.MarkEvent, Mark: marks[0].What})
			marks = marks[1:]
		}
		add(s.End()+off(i+3), brew.Event{Kind: brew.Advance})
	}
	add(drawdown, brew.Event{Kind: brew.Advance})
	return out
}

// applyAll returns the brew after events that the server received an hour after the time at.
func applyAll(b brew.Brew, events []brew.Event, at time.Time) (brew.Brew, error) {
	var err error
	for _, e := range events {
		if b, err = b.Apply(e, at.Add(time.Hour)); err != nil {
			return b, err
		}
	}
	return b, nil
}

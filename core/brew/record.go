package brew

import (
	"time"

	"yardbloom/core/cup"
	"yardbloom/core/units"
)

// Recorded holds the facts of a brew that was made away from any screen.
type Recorded struct {
	Key      string // of its start
	By       string // id of the person who brewed; empty: the yard
	Started  time.Time
	Drawdown units.Seconds // from the first water to the end of the last steady stream
	Now      time.Time
}

// afterwards ends the key of the end of a recorded brew.
const afterwards = "-end"

// RecordedAfterwards reports whether the brew was made away from any screen, so that its pours are those of its plan.
func (b Brew) RecordedAfterwards() bool {
	return len(b.Events) == 2 && b.Events[1].Key == b.Events[0].Key+afterwards
}

// Kept returns a recorded brew with the cup of a record from elsewhere, which the coach was not asked about.
func (b Brew) Kept(c cup.Cup) Brew {
	b.Status, b.Cup, b.Advice = Done, c, nil
	return b.withTasting()
}

// Record turns a draft into a finished brew that was made away from any screen: as its recipe says, with a drawdown. It counts like any
// other. Errors are ErrUnfinished and, for a brew that has not ended yet, ErrStatus.
func Record(d Draft, r Recorded) (Brew, error) {
	b, err := Begin(d, Event{Key: r.Key, Kind: Start, Instant: r.Started, By: r.By})
	if err != nil {
		return b, err
	}
	if r.Drawdown <= 0 || b.instant(r.Drawdown).After(r.Now) {
		return b, ErrStatus
	}
	return b.Apply(Event{Key: r.Key + afterwards, Kind: Finish, At: r.Drawdown, By: r.By}, b.instant(r.Drawdown))
}

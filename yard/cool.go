package yard

import (
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/units"
)

// CupVolume is the largest amount of coffee in one cup, g; the rest stays in the carafe.
const CupVolume = 200

// Cooling is the predicted temperature of a cup while it cools.
type Cooling struct {
	Now   units.Celsius
	Stage cup.Stage // that it has reached
	Next  []StageDue
}

// A StageDue is a later stage of tasting and the time at which the cup has cooled down to it.
type StageDue struct {
	Stage cup.Stage
	At    time.Time
}

// Cool predicts the temperature of the cup of a brew that has been poured. ok is false if the
// model cannot predict it.
func Cool(b brew.Brew, now time.Time) (c Cooling, ok bool) {
	var f forecast.Forecast
	q := b.Sheet.Question(b.Started)
	if f.Run(q) != nil {
		return Cooling{Stage: cup.Hot}, false
	}
	cooling := cup.Pour(min(CupVolume, f.Beverage), f.CupTemp, q.Air())
	c = Cooling{Now: cooling.At(now.Sub(b.Ended)), Stage: cup.Hot}
	for _, stage := range cup.Stages()[1:] {
		after, reached := cooling.TimeTo(stage)
		due := b.Ended.Add(after)
		switch {
		case !reached:
		case due.Before(now):
			c.Stage = stage
		default:
			c.Next = append(c.Next, StageDue{stage, due})
		}
	}
	return c, true
}

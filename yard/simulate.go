package yard

import (
	"context"
	"crypto/rand"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/recipe"
	"yardbloom/core/trace"
	"yardbloom/core/units"
	"yardbloom/device"
)

// SimulatedScale is the ID of the scale on which a simulated hand pours.
const SimulatedScale = "stand-in"

// Simulate starts a draft and lets a simulated hand pour it over a simulated scale, speed times
// faster than real time (1 or more).
func (y *Yard) Simulate(ctx context.Context, d brew.Draft, m device.Manner, speed float64) error {
	if err := y.TakeOffScale(ctx, d.ID); err != nil {
		return err
	}
	y.clocks.Accelerate(d.ID, speed)
	// Its start is set back, so that it ends at about the present.
	lasts := float64(d.Recipe.Plan().Finish) * float64(time.Second)
	b, err := y.Start(ctx, d.ID, d.By, rand.Text(), time.Duration(lasts*(1-1/speed)))
	if err != nil {
		return err
	}
	if err := y.completeSheet(ctx, &b.Sheet, b.BrewedBy); err != nil {
		return err
	}
	hand := device.NewHand(device.SeedOf(b.ID), m, b.Question(b.Started))
	y.running.Go(func() { y.pour(hand, b, speed) })
	return nil
}

// pour lets a hand pour a brew to its end, following its plan as it changes.
func (y *Yard) pour(hand *device.Hand, b brew.Brew, speed float64) {
	const planEvery = 10 // steps
	scale, tared := hand.TaredScale(device.SeedOf(b.ID)), hand.InitialLoad()
	plan := b.Plan
	tick := time.NewTicker(time.Duration(device.Every / speed * float64(time.Second)))
	defer tick.Stop()
	begun := y.Now()
	for i := 0; !hand.Finished(); {
		select {
		case <-y.Hub.Closed():
			return
		case <-tick.C:
		}
		// A late tick is made up for with more steps.
		for due := int(y.Now().Sub(begun).Seconds() * speed / device.Every); i < due && !hand.Finished(); i++ {
			if i%planEvery == 0 {
				now, ok := y.planOf(b.ID)
				if !ok {
					return
				}
				plan = now
			}
			x := trace.Reading{At: units.Seconds(float64(i+1) * device.Every), Grams: scale.Step(hand.Step(plan))}
			if y.ReadAt(b.ID, SimulatedScale, tared.Grams, x) != nil {
				return
			}
		}
	}
}

// planOf returns the present plan of a brew; false if it was stopped.
func (y *Yard) planOf(brewID string) (recipe.Plan, bool) {
	b, err := y.Store.Brew(y.Hub.Context(), brewID)
	if err != nil || b.Status == brew.Abandoned {
		return recipe.Plan{}, false
	}
	return b.At(y.Moment(&b)).Plan(), true
}

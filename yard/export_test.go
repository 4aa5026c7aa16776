package yard

import (
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// Internals for tests of package yard_test, which needs the demo data.

// Settle acts on the reports that are waiting, besides the background work that does so.
func (y *Yard) Settle() {
	for r, ok := y.sessions.Next(); ok; r, ok = y.sessions.Next() {
		y.act(r)
	}
}

func (y *Yard) PlanOf(brewID string) (recipe.Plan, bool) { return y.planOf(brewID) }

func (y *Yard) Read(brewID, scaleID string, g units.Grams) error {
	if err := y.open(brewID); err != nil {
		return err
	}
	return y.sessions.Read(brewID, scaleID, g)
}

// OccupyAdvice makes the next advice wait until the returned function is called.
func (y *Yard) OccupyAdvice() (release func()) {
	y.advising <- struct{}{}
	return func() { <-y.advising }
}

func (y *Yard) StoreReadings() { y.storeReadings() }

func (y *Yard) FollowWithKettle(was, next units.Celsius) { y.followWithKettle(was, next) }

func (y *Yard) PlansMade() int { return y.plans.made }

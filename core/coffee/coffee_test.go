package coffee

import (
	"testing"
	"time"
)

func TestAgeCountsCalendarDaysWhereThePersonIs(t *testing.T) {
	east := time.FixedZone("east", 13*3600)
	b := Bag{Roast: Medium, RoastedOn: "2026-03-01"}
	for _, c := range []struct {
		now  time.Time
		want int
	}{
		{time.Date(2026, 3, 1, 23, 59, 0, 0, time.UTC), 0},
		{time.Date(2026, 3, 2, 0, 1, 0, 0, time.UTC), 1},
		{time.Date(2026, 3, 31, 6, 0, 0, 0, east), 30}, // still the 30th in UTC
	} {
		if got, ok := b.Age(c.now); !ok || got != c.want {
			t.Errorf("on %v the bag is %d days old, want %d", c.now, got, c.want)
		}
	}
	if _, ok := (Bag{RoastedOn: "yesterday"}).Age(time.Now()); ok {
		t.Error("an unreadable roast date has an age")
	}
}

func TestDarkerCoffeeRestsAndLastsLess(t *testing.T) {
	roasted := time.Date(2026, 3, 1, 0, 0, 0, 0, time.UTC)
	at := func(r Roast, days int) Freshness {
		return Bag{Roast: r, RoastedOn: "2026-03-01"}.Freshness(roasted.AddDate(0, 0, days))
	}
	for _, c := range []struct {
		roast Roast
		days  int
		want  Freshness
	}{
		{Light, 5, TooFresh}, {Dark, 5, InWindow}, {Light, 40, InWindow}, {Dark, 40, GettingOld}, {Light, 51, GettingOld},
	} {
		if got := at(c.roast, c.days); got != c.want {
			t.Errorf("%v after %d days is %q, want %q", c.roast, c.days, got, c.want)
		}
	}
}

func TestBrewsLeftCountsTheGrindersLoss(t *testing.T) {
	if got := BrewsLeft(90, 18, 0); got != 5 {
		t.Errorf("90 g are %d brews of 18 g", got)
	}
	if got := BrewsLeft(90, 18, 0.4); got != 4 {
		t.Errorf("90 g are %d brews of 18 g with 0.4 g lost each", got)
	}
	if got := BrewsLeft(-3, 18, 0); got != 0 {
		t.Errorf("an overdrawn bag has %d brews", got)
	}
}

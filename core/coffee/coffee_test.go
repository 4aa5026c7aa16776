package coffee

import (
	"testing"
	"time"
)

func TestAgeCountsLocalCalendarDays(t *testing.T) {
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

// Mutation caught: a window that begins or ends a day early or late, for any roast.
func TestFreshnessChangesOnTheDaysOfItsTable(t *testing.T) {
	roasted := time.Date(2026, 3, 1, 0, 0, 0, 0, time.UTC)
	for roast, days := range map[Roast][2]int{Light: {10, 50}, MediumLight: {8, 45}, Medium: {6, 38}, MediumDark: {4, 30}, Dark: {3, 24}} {
		first, last := days[0], days[1]
		for day, want := range map[int]Freshness{first - 1: TooFresh, first: InWindow, last: InWindow, last + 1: GettingOld} {
			if got := (Bag{Roast: roast, RoastedOn: "2026-03-01"}).Freshness(roasted.AddDate(0, 0, day)); got != want {
				t.Errorf("%v on day %d: %q, want %q", roast, day, got, want)
			}
		}
	}
	if got := (Bag{Roast: Light}).Freshness(roasted); got != AgeUnknown {
		t.Errorf("without a roast date: %q", got)
	}
}

// Mutations caught: days in the freezer added to the age, counted twice, or lost when the bag is thawed or
// frozen again.
func TestFrozenBagDoesNotAge(t *testing.T) {
	day := func(d int) time.Time { return time.Date(2026, 3, 1+d, 12, 0, 0, 0, time.UTC) }
	bag := Bag{RoastedOn: "2026-03-01"}
	age := func(what string, on, want int) {
		t.Helper()
		if got, ok := bag.Age(day(on)); !ok || got != want {
			t.Errorf("%s: %d days old on day %d, want %d", what, got, on, want)
		}
	}
	bag = bag.Freeze(day(7))
	age("frozen on day 7", 7, 7)
	age("frozen on day 7", 20, 7)
	bag = bag.Freeze(day(12)) // already frozen
	age("frozen a second time", 20, 7)
	bag = bag.Thaw(day(20))
	age("thawed on day 20", 20, 7)
	age("thawed on day 20", 23, 10)
	bag = bag.Freeze(day(23)).Thaw(day(28))
	age("frozen once more", 30, 12)
}

// Mutations caught: a wrong share of the bag, a cost that is not rounded to the minor unit.
func TestCostIsTheShareOfTheBag(t *testing.T) {
	for _, c := range []struct {
		bag  Bag
		want int64
	}{{Bag{Price: 1250, Weight: 250}, 90}, {Bag{Price: 1199, Weight: 340}, 63}, {Bag{Price: 1250}, 0}, {Bag{Weight: 250}, 0}} {
		if got := c.bag.Cost(18); got != c.want {
			t.Errorf("18 g of %v per %v g cost %d, want %d", c.bag.Price, c.bag.Weight, got, c.want)
		}
	}
}

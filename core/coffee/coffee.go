// Package coffee describes a bag: what is in it, how old it is, how much is left.
package coffee

import (
	"math"
	"time"

	"yardbloom/core/units"
)

// Process is what was done to the fruit.
type Process string

// The processes.
const (
	Washed    Process = "washed"
	Natural   Process = "natural"
	Honey     Process = "honey"
	Anaerobic Process = "anaerobic"
	Decaf     Process = "decaf"
)

// Processes lists the processes in the order in which they are offered.
func Processes() []Process { return []Process{Washed, Natural, Honey, Anaerobic, Decaf} }

// Roast is a level from 1, light, to 5, dark.
type Roast int

// The roast levels.
const (
	Light Roast = iota + 1
	MediumLight
	Medium
	MediumDark
	Dark
)

var roastNames = [...]string{"", "light", "medium-light", "medium", "medium-dark", "dark"}

// Roasts lists the levels from light to dark.
func Roasts() []Roast { return []Roast{Light, MediumLight, Medium, MediumDark, Dark} }

func (r Roast) String() string {
	if r < Light || r > Dark {
		return "unknown roast"
	}
	return roastNames[r]
}

// A Window is the span in which a brew's drawdown is wanted, both ends included. The zero Window is not set.
type Window struct {
	From units.Seconds `db:"window_from"`
	To   units.Seconds `db:"window_to"`
}

// Set says whether there is a window at all.
func (w Window) Set() bool { return w.To > 0 }

// A Bag is one bag of coffee.
type Bag struct {
	ID       string  `db:"id"`
	Name     string  `db:"name"`
	Roaster  string  `db:"roaster"`
	Process  Process `db:"process"`
	Roast    Roast   `db:"roast"`
	Altitude int     `db:"altitude"` // where it grew, m; 0 where unknown
	// RoastedOn and OpenedOn are days, YYYY-MM-DD; OpenedOn is empty for a closed bag.
	RoastedOn string      `db:"roasted_on"`
	OpenedOn  string      `db:"opened_on"`
	Weight    units.Grams `db:"weight"` // when full, g
	Price     int64       `db:"price"`  // minor units of Currency; 0 where unknown
	Currency  string      `db:"currency"`
	Notes     string      `db:"notes"`
	Variety   string      `db:"variety"`
	Density   float64     `db:"density"` // of the roasted beans, loosely filled, g/l; 0 where unknown
	// WhenFast and WhenSlow are what it tastes like when it drains too fast and too slow, in the person's own words.
	WhenFast string `db:"when_fast"`
	WhenSlow string `db:"when_slow"`
	// FrozenOn is the day since when it is frozen, empty where it is not; FrozenDays how
	// many days it was frozen before. Age stands still meanwhile.
	FrozenOn   string `db:"frozen_on"`
	FrozenDays int    `db:"frozen_days"`
	// Origin is the bag that a frozen portion was taken from; empty for a bag of its own.
	Origin string `db:"origin"`
	Window
}

// Same is the coffee that a bag holds: that of the bag from which it was taken.
func (b Bag) Same() string {
	if b.Origin != "" {
		return b.Origin
	}
	return b.ID
}

// Freeze returns the bag frozen on a day.
func (b Bag) Freeze(now time.Time) Bag {
	if b.FrozenOn == "" {
		b.FrozenOn = now.Format(Day)
	}
	return b
}

// Thaw returns the bag taken out of the freezer on a day.
func (b Bag) Thaw(now time.Time) Bag {
	b.FrozenDays, b.FrozenOn = b.frozen(now), ""
	return b
}

// frozen is how many days the bag has been frozen by the day of now.
func (b Bag) frozen(now time.Time) int {
	since, err := time.Parse(Day, b.FrozenOn)
	if err != nil {
		return b.FrozenDays
	}
	return b.FrozenDays + max(0, daysFrom(since, now))
}

// daysFrom counts calendar days from a day to that of now, where the person is.
func daysFrom(day, now time.Time) int {
	y, m, d := now.Date()
	return int(time.Date(y, m, d, 0, 0, 0, 0, time.UTC).Sub(day).Hours() / 24)
}

// Cost is what so many g of the coffee cost, in minor units of its currency; 0 where
// the price is unknown.
func (b Bag) Cost(g units.Grams) int64 {
	if b.Weight <= 0 {
		return 0
	}
	return int64(math.Round(float64(b.Price) * float64(g/b.Weight)))
}

// Wanted is the drawdown that is wanted of a brew: the bag's own where it has one,
// else that of the plan.
func (b Bag) Wanted(planned Window) Window {
	if b.Set() {
		return b.Window
	}
	return planned
}

// Day is the layout of the days kept in a Bag.
const Day = time.DateOnly

// Age returns the days since roast on the day of now, without those in the freezer,
// and false where the roast date is unknown.
func (b Bag) Age(now time.Time) (days int, known bool) {
	roasted, err := time.Parse(Day, b.RoastedOn)
	if err != nil {
		return 0, false
	}
	return daysFrom(roasted, now) - b.frozen(now), true
}

// Freshness is what a bag's age means for brewing it.
type Freshness string

// The stages of a bag's life.
const (
	TooFresh   Freshness = "very fresh"
	InWindow   Freshness = "in its window"
	GettingOld Freshness = "getting flat"
	AgeUnknown Freshness = "age unknown"
)

// Means says in a sentence what the stage means for brewing.
func (f Freshness) Means() string { return meanings[f] }

var meanings = map[Freshness]string{
	TooFresh:   "It is full of gas, which keeps water out: bloom longer, or leave it some days.",
	InWindow:   "At its best about now.",
	GettingOld: "A weak bloom and a flat cup come from age: no grind mends that. Brew it soon, stronger, or over ice.",
	AgeUnknown: "With a roast date the bloom and the expected cup follow its age.",
}

// rest is, per roast, the first and the last day after roast on which a bag
// usually tastes its best: light, dense coffee gives off its gas slowly and lasts longer.
var rest = map[Roast]struct{ from, to int }{
	Light: {10, 50}, MediumLight: {8, 45}, Medium: {6, 38}, MediumDark: {4, 30}, Dark: {3, 24},
}

// Freshness says where the bag stands on the day of now.
func (b Bag) Freshness(now time.Time) Freshness {
	days, known := b.Age(now)
	r, ok := rest[b.Roast]
	switch {
	case !known || !ok:
		return AgeUnknown
	case days < r.from:
		return TooFresh
	case days > r.to:
		return GettingOld
	default:
		return InWindow
	}
}

// BrewsLeft returns the whole brews that so many grams give, at a dose plus the grinder's loss per grind.
func BrewsLeft(left, dose, loss units.Grams) int {
	if left <= 0 || dose+loss <= 0 {
		return 0
	}
	const slack = 1e-6 // so that 90 g are five doses of 18 g
	return int(math.Floor(float64(left/(dose+loss)) + slack))
}

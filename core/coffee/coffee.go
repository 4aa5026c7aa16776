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
	Window
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

// Age returns the days since roast on the day of now, and false where the roast date is unknown.
func (b Bag) Age(now time.Time) (days int, known bool) {
	roasted, err := time.Parse(Day, b.RoastedOn)
	if err != nil {
		return 0, false
	}
	y, m, d := now.Date()
	today := time.Date(y, m, d, 0, 0, 0, 0, time.UTC)
	return int(today.Sub(roasted).Hours() / 24), true
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

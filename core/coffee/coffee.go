// Package coffee describes a bag of coffee: process, roast, age and stock.
package coffee

import (
	"fmt"
	"math"
	"time"

	"yardbloom/core/units"
)

// Process is the processing method of the coffee cherry.
type Process string

// The processes.
const (
	Washed    Process = "washed"
	Natural   Process = "natural"
	Honey     Process = "honey"
	Anaerobic Process = "anaerobic"
	Decaf     Process = "decaf"
)

// ProcessUnknown and RoastUnknown mark an unknown property. The model then assumes a washed, medium coffee.
const (
	ProcessUnknown Process = ""
	RoastUnknown   Roast   = 0
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

// A Window is the target range of a brew's drawdown, both ends included. The zero Window is not set.
type Window struct {
	From units.Seconds `db:"window_from"`
	To   units.Seconds `db:"window_to"`
}

// IsSet reports whether the window is set.
func (w Window) IsSet() bool { return w.To > 0 }

// Kind describes process and roast, such as "washed, medium", omitting an unknown property.
func (b Bag) Kind() string {
	switch {
	case b.Roast == RoastUnknown && b.Process == ProcessUnknown:
		return "roast unknown"
	case b.Roast == RoastUnknown:
		return string(b.Process)
	case b.Process == ProcessUnknown:
		return b.Roast.String()
	}
	return fmt.Sprintf("%s, %s", b.Process, b.Roast)
}

// A Bag is one bag of coffee.
type Bag struct {
	ID       string  `db:"id"`
	Name     string  `db:"name"`
	Roaster  string  `db:"roaster"`
	Process  Process `db:"process"`
	Roast    Roast   `db:"roast"`
	Altitude int     `db:"altitude"` // of the farm, m; 0 if unknown
	// RoastedOn and OpenedOn are days, YYYY-MM-DD; OpenedOn is empty for a closed bag.
	RoastedOn string      `db:"roasted_on"`
	OpenedOn  string      `db:"opened_on"`
	Weight    units.Grams `db:"weight"` // when full, g; 0 if unknown
	Price     int64       `db:"price"`  // minor units of Currency; 0 if unknown
	Currency  string      `db:"currency"`
	Notes     string      `db:"notes"`
	Variety   string      `db:"variety"`
	Density   float64     `db:"density"` // of loosely filled roasted beans, g/l; 0 if unknown
	// WhenFast and WhenSlow are the person's notes on the taste after a fast and a slow drawdown.
	WhenFast string `db:"when_fast"`
	WhenSlow string `db:"when_slow"`
	// FrozenOn is the day on which the bag was frozen, empty if it is not frozen. FrozenDays counts its
	// earlier days in the freezer. A frozen bag does not age.
	FrozenOn   string `db:"frozen_on"`
	FrozenDays int    `db:"frozen_days"`
	// Origin is the id of the bag from which a frozen portion was taken; empty for other bags.
	Origin string `db:"origin"`
	Window
}

// CoffeeID returns the id of the coffee in a bag: a frozen portion and its bag have the same one.
func (b Bag) CoffeeID() string {
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

// frozen returns the days the bag has spent in the freezer, up to the day of now.
func (b Bag) frozen(now time.Time) int {
	since, err := time.Parse(Day, b.FrozenOn)
	if err != nil {
		return b.FrozenDays
	}
	return b.FrozenDays + max(0, daysFrom(since, now))
}

// daysFrom counts calendar days from a day to the day of now, in the time zone of now.
func daysFrom(day, now time.Time) int {
	y, m, d := now.Date()
	return int(time.Date(y, m, d, 0, 0, 0, 0, time.UTC).Sub(day).Hours() / 24)
}

// MinorPerMajor is the number of minor units of a currency in a major one.
const MinorPerMajor = 100.0

// Cost returns the price of g grams of the coffee, in minor units of its currency; 0 if the price is
// unknown.
func (b Bag) Cost(g units.Grams) int64 {
	if b.Weight <= 0 {
		return 0
	}
	return int64(math.Round(float64(b.Price) * float64(g/b.Weight)))
}

// TargetWindow returns the target window of a brew's drawdown: the bag's own, or the planned one if the bag has
// none.
func (b Bag) TargetWindow(planned Window) Window {
	if b.IsSet() {
		return b.Window
	}
	return planned
}

// Day is the layout of the dates in a Bag.
const Day = time.DateOnly

// Age returns the days since roast on the day of now, without those in the freezer, and false if the roast
// date is unknown.
func (b Bag) Age(now time.Time) (days int, known bool) {
	roasted, err := time.Parse(Day, b.RoastedOn)
	if err != nil {
		return 0, false
	}
	return daysFrom(roasted, now) - b.frozen(now), true
}

// Freshness is a stage in the life of a bag.
type Freshness string

// The stages of a bag's life.
const (
	TooFresh   Freshness = "very fresh"
	InWindow   Freshness = "in its window"
	GettingOld Freshness = "getting flat"
	AgeUnknown Freshness = "age unknown"
)

// Meaning returns a sentence about brewing coffee of this freshness.
func (f Freshness) Meaning() string { return meanings[f] }

var meanings = map[Freshness]string{
	TooFresh:   "It is full of gas, which keeps water out: bloom longer, or let it rest for some days.",
	InWindow:   "At its best about now.",
	GettingOld: "Its age causes a weak bloom and a flat cup, which no grind can correct. Brew it soon, stronger, or over ice.",
	AgeUnknown: "With a roast date, the bloom and the prediction take its age into account.",
}

// rest is the first and the last day after roast on which a bag usually tastes best, by roast. Light, dense
// coffee degasses slowly and keeps longer.
var rest = map[Roast]struct{ from, to int }{
	Light: {10, 50}, MediumLight: {8, 45}, Medium: {6, 38}, MediumDark: {4, 30}, Dark: {3, 24},
}

// Freshness returns the stage of the bag on the day of now.
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

// BestFrom returns the first day on which a bag that is too fresh usually tastes best; false if it is not too fresh, or is frozen.
func (b Bag) BestFrom(now time.Time) (day time.Time, resting bool) {
	days, _ := b.Age(now)
	if b.Freshness(now) != TooFresh || b.FrozenOn != "" {
		return time.Time{}, false
	}
	return now.AddDate(0, 0, rest[b.Roast].from-days), true
}

// BrewsLeft returns the number of whole brews in the remaining grams, at a dose plus the grinder's loss per
// brew.
func BrewsLeft(left, dose, loss units.Grams) int {
	if left <= 0 || dose+loss <= 0 {
		return 0
	}
	const slack = 1e-6 // so that 90 g are five doses of 18 g
	return int(math.Floor(float64(left/(dose+loss)) + slack))
}

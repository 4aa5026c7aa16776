package table

import (
	"regexp"
	"strings"

	"yardbloom/core/units"
)

// A FieldID identifies a value of a brew.
type FieldID string

// The fields.
const (
	Date        FieldID = "date"
	Clock       FieldID = "clock"
	Coffee      FieldID = "coffee"
	Roaster     FieldID = "roaster"
	RoastedOn   FieldID = "roasted-on"
	Brewer      FieldID = "brewer"
	Grinder     FieldID = "grinder"
	Dial        FieldID = "dial"
	GrindSize   FieldID = "grind-size"
	Dose        FieldID = "dose"
	Water       FieldID = "water"
	Ratio       FieldID = "ratio"
	Temperature FieldID = "temperature"
	Drawdown    FieldID = "drawdown"
	Beverage    FieldID = "beverage"
	TDS         FieldID = "tds"
	Mark        FieldID = "mark"
	Notes       FieldID = "notes"
)

// A Field is a value of a brew that a column may contain.
type Field struct {
	ID    FieldID
	Name  string
	names []string // known headers, normalized by plain
	kind  units.Kind
	valid units.Range
}

var tableFields = []Field{
	{ID: Date, Name: "Date", names: []string{"date", "day", "brewed", "brewed on", "started at", "started", "when", "timestamp", "brew date"}},
	{ID: Clock, Name: "Time of day", names: []string{"clock", "time of day", "hour", "start time"}},
	{ID: Coffee, Name: "Coffee", names: []string{"coffee", "bean", "beans", "coffee name", "bag", "name", "origin"}},
	{ID: Roaster, Name: "Roaster", names: []string{"roaster", "roastery", "roasted by"}},
	{ID: RoastedOn, Name: "Roasted on", names: []string{"roasted on", "roast date", "roasted", "roastdate"}},
	{ID: Brewer, Name: "Brewer", names: []string{"brewer", "dripper", "device", "method", "brew method", "equipment"}},
	{ID: Grinder, Name: "Grinder", names: []string{"grinder", "mill"}},
	{ID: Dial, Name: "Grinder setting", names: []string{"dial", "grind", "grind setting", "setting", "clicks", "grinder setting", "grind size setting"}},
	{ID: GrindSize, Name: "Grind size", names: []string{"grind um", "grind µm", "grind size", "microns", "particle size"}, kind: units.Grind,
		valid: units.Range{Lo: 100, Hi: 2000}},
	{ID: Dose, Name: "Dose", names: []string{"dose", "coffee g", "coffee weight", "coffee in", "grams", "coffee amount", "coffee dose", "coffee oz",
		"coffee grams"}, kind: units.Dose, valid: units.Range{Lo: 1, Hi: 500}},
	{ID: Water, Name: "Water", names: []string{"water", "total water", "water weight", "water in", "water amount", "brew water g", "water grams"},
		kind: units.Water, valid: units.Range{Lo: 20, Hi: 8000}},
	{ID: Ratio, Name: "Ratio", names: []string{"ratio", "brew ratio", "coffee to water"}, kind: units.Ratio, valid: units.Range{Lo: 2, Hi: 40}},
	{ID: Temperature, Name: "Water temperature", names: []string{"temperature", "temp", "water temp", "water temperature", "brew temp", "kettle"},
		kind: units.Temperature, valid: units.Range{Lo: 20, Hi: 100.5}},
	{ID: Drawdown, Name: "Drawdown", names: []string{"drawdown", "brew time", "total time", "time", "duration", "total brew time", "contact time",
		"minutes"}, kind: units.Time, valid: units.Range{Lo: 20, Hi: 7200}},
	{ID: Beverage, Name: "Beverage", names: []string{"beverage", "beverage weight", "output", "out", "cup weight", "coffee out", "yield g", "brewed weight"},
		kind: units.Water, valid: units.Range{Lo: 10, Hi: 8000}},
	{ID: TDS, Name: "TDS", names: []string{"tds", "strength", "tds percent"}, kind: units.Strength, valid: units.Range{Lo: 0.2, Hi: 20}},
	{ID: Mark, Name: "Mark", names: []string{"mark", "score", "rating", "stars", "grade", "points", "overall"}, valid: units.Range{Lo: 1, Hi: 10}},
	{ID: Notes, Name: "Notes", names: []string{"notes", "note", "comment", "comments", "taste", "tasting notes", "remarks"}},
}

// Fields lists the fields in display order.
func Fields() []Field { return tableFields }

func fieldOf(id FieldID) (Field, bool) {
	for _, f := range tableFields {
		if f.ID == id {
			return f, true
		}
	}
	return Field{}, false
}

// A Unit is the unit of numbers without one.
type Unit string

// The units. The zero Unit is g, °C or marks out of ten.
const (
	Metric     Unit = ""
	Ounces     Unit = "oz"
	Fahrenheit Unit = "f"
	OfFive     Unit = "5"   // marks out of five
	OfHundred  Unit = "100" // marks out of a hundred
)

// UnitsOf lists the units of a field, or nil if there is only one.
func UnitsOf(id FieldID) []Unit {
	switch id {
	case Dose, Water, Beverage:
		return []Unit{Metric, Ounces}
	case Temperature:
		return []Unit{Metric, Fahrenheit}
	case Mark:
		return []Unit{Metric, OfFive, OfHundred}
	}
	return nil
}

// A Column maps a column of a sheet to a field.
type Column struct {
	Field FieldID // empty: ignored
	Unit  Unit
}

// An Order is the order of day and month in dates such as 3/4/2026.
type Order string

// The orders.
const (
	DayFirst   Order = "day"
	MonthFirst Order = "month"
)

// A Mapping maps the columns of a sheet.
type Mapping struct {
	Columns []Column // in the order of the sheet
	Order   Order
}

var signs = regexp.MustCompile(`[^\p{L}\p{N}µ]+`)

// plain normalizes a header: lower case, without punctuation, such as "dose g".
func plain(header string) string {
	return strings.TrimSpace(signs.ReplaceAllString(strings.ToLower(header), " "))
}

// unitWords maps words in headers to units.
var unitWords = map[string]Unit{"g": Metric, "gr": Metric, "gram": Metric, "grams": Metric, "ml": Metric, "c": Metric, "celsius": Metric,
	"oz": Ounces, "ounce": Ounces, "ounces": Ounces, "f": Fahrenheit, "fahrenheit": Fahrenheit, "s": Metric, "sec": Metric, "percent": Metric,
	"µm": Metric, "um": Metric}

// Guess derives a mapping from headers and cells. Each field is used at most once.
func Guess(s Sheet) Mapping {
	m := Mapping{Columns: make([]Column, len(s.Headers)), Order: guessOrder(s)}
	taken := map[FieldID]bool{}
	take := func(i int, id FieldID, u Unit) {
		if id == Drawdown && clocks(s, i) {
			id = Clock
		}
		if m.Columns[i].Field == "" && !taken[id] {
			m.Columns[i], taken[id] = Column{id, u}, true
		}
	}
	for _, whole := range []bool{true, false} { // whole headers first, then headers without their unit
		for i, header := range s.Headers {
			name, unit := plain(header), Metric
			if !whole {
				name, unit = withoutUnit(name)
			}
			for _, f := range tableFields {
				for _, known := range f.names {
					if name == known {
						take(i, f.ID, unit)
					}
				}
			}
		}
	}
	for i := range m.Columns {
		c := &m.Columns[i]
		highest := 0.0
		for _, row := range s.Rows {
			if v, err := units.ParseNumber(row[i], ""); err == nil {
				highest = max(highest, v)
			}
		}
		switch {
		case c.Field == Temperature && highest > 101:
			c.Unit = Fahrenheit
		case c.Field == Mark && highest > 10:
			c.Unit = OfHundred
		case c.Field == Mark && highest <= 5 && strings.Contains(plain(s.Headers[i]), "star"):
			c.Unit = OfFive
		case c.Field == Dose && c.Unit == Metric && highest > 0 && highest < 3:
			c.Unit = Ounces
		case c.Field == Dial && highest > 100 && strings.Contains(plain(s.Headers[i]), "um"):
			c.Field = GrindSize
		}
	}
	return m
}

// withoutUnit splits a header into its name and unit.
func withoutUnit(name string) (string, Unit) {
	words := strings.Fields(name)
	if len(words) < 2 {
		return name, Metric
	}
	unit, ok := unitWords[words[len(words)-1]]
	if !ok {
		return name, Metric
	}
	return strings.Join(words[:len(words)-1], " "), unit
}

// clocks reports whether a column contains times of day rather than durations.
func clocks(s Sheet, i int) bool {
	const longest = 7 * 60 // s, and at the same time 7:00 in the morning
	late, n := 0, 0
	for _, row := range s.Rows {
		at, err := units.ParseClock(row[i])
		if err != nil {
			if strings.HasSuffix(strings.ToLower(row[i]), "m") && strings.Contains(row[i], ":") { // 8:30 am
				late, n = late+1, n+1
			}
			continue
		}
		n++
		if at >= longest && strings.Contains(row[i], ":") {
			late++
		}
	}
	return n > 0 && 2*late > n
}

package table

import (
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"

	"yardbloom/core/units"
)

// A Row is a parsed row of a sheet. Missing values are zero.
type Row struct {
	Line        int // in the file
	At          time.Time
	Coffee      string
	Roaster     string
	RoastedOn   time.Time
	Brewer      string
	Grinder     string
	Dial        string // as typed
	GrindSize   units.Micrometres
	Dose        units.Grams
	Water       units.Grams
	Temperature units.Celsius
	Drawdown    units.Seconds
	Beverage    units.Grams
	TDS         float64
	Mark        int
	Notes       string

	Cells  []Cell // one for each column
	Faults []string
}

// A Cell is a parsed cell.
type Cell struct {
	Typed string
	Means string // parsed value in metric units; empty if the column is not mapped
	Wrong string // parse error
}

// OK reports whether the row has a date, a coffee, a dose and water.
func (r Row) OK() bool { return len(r.Faults) == 0 }

// The errors of dates.
var (
	errDate   = errors.New("not a date")
	errFuture = errors.New("in the future")
	errOld    = errors.New("before 1970")
)

// ReadRows parses the rows of a sheet. Dates without a zone use the zone of now. Invalid cells have an error and no value. Rows without a
// required value have Faults.
func ReadRows(s Sheet, m Mapping, now time.Time) []Row {
	out := make([]Row, len(s.Rows))
	for i, cells := range s.Rows {
		out[i] = readRow(cells, m, now)
		out[i].Line = s.Lines[i]
	}
	return out
}

func readRow(cells []string, m Mapping, now time.Time) Row {
	r := Row{Cells: make([]Cell, len(m.Columns))}
	var clock time.Duration
	var ratio float64
	whole := false // the date has a time
	for i, column := range m.Columns {
		typed := ""
		if i < len(cells) {
			typed = strings.TrimPrefix(cells[i], "'") // the escape of formulas by this package
		}
		c := &r.Cells[i]
		c.Typed = typed
		f, known := fieldOf(column.Field)
		if !known || typed == "" || typed == "-" || typed == "–" {
			continue
		}
		var err error
		var v float64
		if f.valid != (units.Range{}) {
			v, err = quantity(f, column.Unit, typed)
		}
		switch {
		case err != nil:
		case f.ID == Date:
			r.At, whole, err = readDate(typed, m.Order, now)
			c.Means = r.At.Format("2006-01-02 15:04")
			if !whole {
				c.Means = r.At.Format(time.DateOnly)
			}
		case f.ID == RoastedOn:
			r.RoastedOn, _, err = readDate(typed, m.Order, now)
			c.Means = r.RoastedOn.Format(time.DateOnly)
		case f.ID == Clock:
			clock, err = readClock(typed)
			c.Means = time.Time{}.Add(clock).Format("15:04")
		default:
			ratio = r.set(f.ID, typed, v, ratio)
			c.Means = meaning(f, typed, v)
		}
		if err != nil {
			c.Wrong, c.Means = err.Error(), ""
		}
	}
	if !whole && clock > 0 && !r.At.IsZero() {
		r.At = r.At.Add(clock)
	}
	r.complete(ratio, now)
	return r
}

// set stores a value other than a date, and returns the ratio.
func (r *Row) set(id FieldID, typed string, v, ratio float64) float64 {
	switch id {
	case Coffee:
		r.Coffee = typed
	case Roaster:
		r.Roaster = typed
	case Brewer:
		r.Brewer = typed
	case Grinder:
		r.Grinder = typed
	case Dial:
		r.Dial = typed
	case Notes:
		r.Notes = typed
	case GrindSize:
		r.GrindSize = units.Micrometres(v)
	case Dose:
		r.Dose = units.Grams(v)
	case Water:
		r.Water = units.Grams(v)
	case Temperature:
		r.Temperature = units.Celsius(v)
	case Drawdown:
		r.Drawdown = units.Seconds(v)
	case Beverage:
		r.Beverage = units.Grams(v)
	case TDS:
		r.TDS = v
	case Mark:
		r.Mark = int(math.Round(v))
	case Ratio:
		return v
	}
	return ratio
}

// complete derives dose or water from the ratio, and checks required values.
func (r *Row) complete(ratio float64, now time.Time) {
	switch {
	case r.Water == 0 && ratio > 0 && r.Dose > 0:
		r.Water = units.Grams(math.Round(ratio * float64(r.Dose)))
	case r.Dose == 0 && ratio > 0 && r.Water > 0:
		r.Dose = units.Grams(math.Round(10*float64(r.Water)/ratio) / 10)
	}
	if r.Dose > 0 && r.Water > 0 && ratio > 0 {
		const off = 0.06 // of the ratio: people round it
		if is := float64(r.Water / r.Dose); math.Abs(is/ratio-1) > off {
			r.Faults = append(r.Faults, fmt.Sprintf("the ratio is 1:%s, but dose and water make 1:%.1f", strconv.FormatFloat(ratio, 'f', -1, 64), is))
		}
	}
	if r.Dose > 0 && r.Water > 0 && (r.Water < 2*r.Dose || r.Water > 60*r.Dose) {
		r.Faults = append(r.Faults, "implausible ratio of water to dose: check the columns")
	}
	for _, need := range []struct {
		name    string
		missing bool
	}{{"date", r.At.IsZero()}, {"coffee", r.Coffee == ""}, {"dose", r.Dose == 0}, {"water", r.Water == 0}} {
		if need.missing {
			r.Faults = append(r.Faults, "no "+need.name)
		}
	}
	if !r.At.IsZero() && r.At.Add(time.Duration(float64(r.Drawdown)*float64(time.Second))).After(now) {
		r.Faults = append(r.Faults, "not finished yet")
	}
}

// quantity parses a number with an optional unit.
func quantity(f Field, u Unit, typed string) (float64, error) {
	var v float64
	var err error
	switch f.ID {
	case Mark:
		scale := map[Unit]float64{OfFive: 2, OfHundred: 0.1}[u]
		if scale == 0 {
			scale = 1
		}
		before, of, found := strings.Cut(typed, "/")
		if n, ofErr := units.ParseNumber(of, ""); found && ofErr == nil && n > 0 {
			typed, scale = before, 10/n
		}
		v, err = units.ParseNumber(typed, "")
		v *= scale
	case TDS:
		if v, err = units.ParseNumber(typed, "%"); err == nil && strings.HasPrefix(strings.TrimSpace(typed), "0.0") {
			v *= 100 // a fraction: the raw value of a percentage cell
		}
	default:
		unit := units.Prefs{Ounces: u == Ounces, Fahrenheit: u == Fahrenheit}.Unit(f.kind)
		if f.kind == units.Time && strings.Count(typed, ":") == 2 { // h:mm:ss
			if rest, ok := strings.CutPrefix(strings.TrimLeft(typed, "0"), ":"); ok {
				typed = rest
			}
		}
		v, err = unit.ParseIn(typed, f.valid)
	}
	if err != nil {
		return 0, errors.New("not a number here")
	}
	if v < f.valid.Lo || v > f.valid.Hi {
		return 0, fmt.Errorf("not between %s and %s", short(f.valid.Lo), short(f.valid.Hi))
	}
	return v, nil
}

func short(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }

// meaning formats a parsed value.
func meaning(f Field, typed string, v float64) string {
	switch {
	case f.ID == Mark:
		return fmt.Sprintf("%.0f of 10", v)
	case f.valid == (units.Range{}):
		return typed
	}
	return units.Prefs{}.Unit(f.kind).Format(v)
}

// Layouts of unambiguous dates, and of times.
var (
	dateLayouts = []string{"2006-01-02", "2006/01/02", "2006.01.02", "20060102", "2 Jan 2006", "2 January 2006", "2. January 2006", "Jan 2 2006",
		"Jan 2, 2006", "January 2, 2006", "2-Jan-2006", "2-Jan-06", "Mon 2 Jan 2006", "Monday, January 2, 2006"}
	clockLayouts = []string{"15:04:05", "15:04", "3:04 PM", "3:04:05 PM", "3:04PM", "3PM", "3 PM"}
)

// readDate parses a date with an optional time.
func readDate(typed string, order Order, now time.Time) (at time.Time, whole bool, err error) {
	text := strings.TrimSpace(typed)
	for _, layout := range []string{time.RFC3339, "2006-01-02T15:04:05", "2006-01-02T15:04"} {
		if at, err = time.ParseInLocation(layout, text, now.Location()); err == nil {
			return checked(at, true, now)
		}
	}
	day, clock := text, ""
	if first, rest, found := strings.Cut(text, " "); found && strings.Contains(rest, ":") && !strings.ContainsAny(first, ":") {
		day, clock = first, rest
		if i := strings.IndexByte(rest, ':'); strings.LastIndexByte(rest[:i], ' ') > 0 { // 3 May 2026 8:30
			cut := strings.LastIndexByte(rest[:i], ' ')
			day, clock = first+" "+rest[:cut], rest[cut+1:]
		}
	}
	for _, layout := range dateLayouts {
		if at, err = time.ParseInLocation(layout, day, now.Location()); err == nil {
			break
		}
	}
	if err != nil {
		if at, err = numericDate(day, order, now); err != nil {
			return time.Time{}, false, err
		}
	}
	if clock == "" {
		return checked(at, false, now)
	}
	after, err := readClock(clock)
	if err != nil {
		return time.Time{}, false, errDate
	}
	return checked(at.Add(after), true, now)
}

// numericDate parses dates such as 3.5.2026, 3/5/26 and 5-3-2026.
func numericDate(text string, order Order, now time.Time) (time.Time, error) {
	parts := strings.FieldsFunc(text, func(r rune) bool { return r == '.' || r == '/' || r == '-' || r == ' ' })
	if len(parts) != 3 {
		return time.Time{}, errDate
	}
	var n [3]int
	for i, p := range parts {
		v, err := strconv.Atoi(p)
		if err != nil || v < 0 {
			return time.Time{}, errDate
		}
		n[i] = v
	}
	day, month, year := n[0], n[1], n[2]
	if order == MonthFirst {
		day, month = month, day
	}
	if len(parts[2]) == 2 {
		year += 2000
	}
	at := time.Date(year, time.Month(month), day, 0, 0, 0, 0, now.Location())
	if len(parts[2]) != 2 && len(parts[2]) != 4 || at.Day() != day || int(at.Month()) != month {
		return time.Time{}, errDate
	}
	return at, nil
}

func checked(at time.Time, whole bool, now time.Time) (time.Time, bool, error) {
	switch {
	case at.After(now.Add(time.Hour)):
		return time.Time{}, false, errFuture
	case at.Year() < 1970:
		return time.Time{}, false, errOld
	}
	return at, whole, nil
}

// readClock parses a time of day.
func readClock(typed string) (time.Duration, error) {
	text := strings.ToUpper(strings.TrimSpace(typed))
	for _, layout := range clockLayouts {
		if at, err := time.Parse(layout, text); err == nil {
			return time.Duration(at.Hour())*time.Hour + time.Duration(at.Minute())*time.Minute + time.Duration(at.Second())*time.Second, nil
		}
	}
	return 0, errors.New("not a time of day")
}

// guessOrder returns the order of day and month. A date that is valid in only one order decides, then the units of the headers.
func guessOrder(s Sheet) Order {
	for _, row := range s.Rows {
		for _, cell := range row {
			day, _, _ := strings.Cut(cell, " ")
			parts := strings.FieldsFunc(day, func(r rune) bool { return r == '.' || r == '/' || r == '-' })
			if len(parts) != 3 || len(parts[0]) > 2 {
				continue
			}
			first, firstErr := strconv.Atoi(parts[0])
			second, secondErr := strconv.Atoi(parts[1])
			switch {
			case firstErr != nil || secondErr != nil:
			case first > 12 && second <= 12:
				return DayFirst
			case second > 12 && first <= 12:
				return MonthFirst
			}
		}
	}
	for _, header := range s.Headers {
		if _, unit := withoutUnit(plain(header)); unit == Ounces || unit == Fahrenheit {
			return MonthFirst
		}
	}
	return DayFirst
}

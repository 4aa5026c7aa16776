// Package table writes brews and readings as comma-separated values for spreadsheets (RFC 4180).
//
// The headers name the units, which are always metric, and times are ISO 8601 with their zone. Text that a spreadsheet would calculate
// as a formula begins with an apostrophe.
package table

import (
	"encoding/csv"
	"io"
	"slices"
	"strconv"
	"strings"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
	"yardbloom/core/trace"
)

// BOM is the byte order mark, which some spreadsheets need to read UTF-8.
const BOM = "\ufeff"

// A Name returns the name of the person with an id; empty for the yard.
type Name func(id string) string

// A column is a column of the table of brews.
type column struct {
	header string
	value  func(b brew.Brew, name Name) string
}

var columns = append(append([]column{
	{"id", func(b brew.Brew, _ Name) string { return b.ID }},
	{"started_at", func(b brew.Brew, _ Name) string { return instant(b.Started) }},
	{"status", func(b brew.Brew, _ Name) string { return string(b.Status) }},
	{"brewed_by", func(b brew.Brew, name Name) string { return text(name(b.BrewedBy)) }},
	{"coffee", func(b brew.Brew, _ Name) string { return text(b.Bag.Name) }},
	{"roaster", func(b brew.Brew, _ Name) string { return text(b.Bag.Roaster) }},
	{"process", func(b brew.Brew, _ Name) string { return text(string(b.Bag.Process)) }},
	{"roast", func(b brew.Brew, _ Name) string { return text(b.Bag.Roast.String()) }},
	{"roasted_on", func(b brew.Brew, _ Name) string { return text(b.Bag.RoastedOn) }},
	{"style", func(b brew.Brew, _ Name) string { return text(string(b.Recipe.Style)) }},
	{"brewer", func(b brew.Brew, _ Name) string { return text(b.Gear.Brewer.Name) }},
	{"filter", func(b brew.Brew, _ Name) string { return text(string(b.Gear.Brewer.Filter)) }},
	{"grinder", func(b brew.Brew, _ Name) string { return text(b.Gear.Grinder.Name) }},
	{"kettle", func(b brew.Brew, _ Name) string { return text(b.Gear.Kettle.Name) }},
	{"brew_water", func(b brew.Brew, _ Name) string { return text(b.Gear.Water.Name) }},
	{"dose_g", func(b brew.Brew, _ Name) string { return number(float64(b.AsBrewed().Dose), 1) }},
	{"water_g", func(b brew.Brew, _ Name) string { return number(float64(b.AsBrewed().Water()), 1) }},
	{"ice_g", func(b brew.Brew, _ Name) string { return number(float64(b.Recipe.Ice.Mass), 1) }},
	{"grind_um", func(b brew.Brew, _ Name) string { return number(float64(b.AsBrewed().Grind), 0) }},
	{"dial", func(b brew.Brew, _ Name) string { return text(b.Gear.Grinder.Setting(b.AsBrewed().Grind)) }},
	{"temperature_c", func(b brew.Brew, _ Name) string { return number(float64(b.Recipe.Temperature()), 1) }},
	{"pours", func(b brew.Brew, _ Name) string { return number(float64(len(b.Recipe.Pours)), 0) }},
	{"drawdown_s", func(b brew.Brew, _ Name) string { return number(float64(b.Cup.Drawdown), 0) }},
	{"beverage_g", func(b brew.Brew, _ Name) string { return number(float64(b.Cup.Beverage), 1) }},
	{"tds_percent", func(b brew.Brew, _ Name) string { return number(b.Cup.TDS, 3) }},
	{"ey_percent", func(b brew.Brew, _ Name) string { y, _ := b.Yield(); return number(y.Value, 2) }},
	{"ey_standard_error", func(b brew.Brew, _ Name) string { y, _ := b.Yield(); return number(y.Error, 2) }},
	{"simulated", func(b brew.Brew, _ Name) string { return map[bool]string{true: "yes"}[b.Cup.Simulated] }},
	{"bed", func(b brew.Brew, _ Name) string { return text(string(b.Cup.Bed)) }},
	{"taster", func(b brew.Brew, name Name) string { return text(name(b.Taster)) }},
}, senses()...), []column{
	{"faults", func(b brew.Brew, _ Name) string { return text(faults(b.Cup)) }},
	{"flavours", func(b brew.Brew, _ Name) string { return text(strings.Join(b.Cup.Flavours, "; ")) }},
	{"mark", func(b brew.Brew, _ Name) string { return number(float64(b.Cup.Overall), 0) }},
	{"would_serve", func(b brew.Brew, _ Name) string { return text(b.Cup.Serve) }},
	{"served_to", func(b brew.Brew, _ Name) string { return text(b.Cup.ServedTo) }},
	{"notes", func(b brew.Brew, _ Name) string { return text(b.Cup.Notes) }},
}...)

// senses returns a column for each sense, with the word of its step.
func senses() (out []column) {
	for _, s := range cup.Scales() {
		out = append(out, column{string(s.Sense), func(b brew.Brew, _ Name) string { return cup.Word(s.Sense, b.Cup.Steps[s.Sense]) }})
	}
	return out
}

func faults(c cup.Cup) string {
	var out []string
	for _, f := range cup.Faults() {
		if c.Faults[f] {
			out = append(out, string(f))
		}
	}
	return strings.Join(out, "; ")
}

// Headers returns the headers of the table of brews.
func Headers() []string {
	out := make([]string, len(columns))
	for i, c := range columns {
		out[i] = c.header
	}
	return out
}

// A Writer writes rows. Flush it at the end; Error then returns the first error of the destination.
type Writer struct {
	*csv.Writer
	name Name
}

// NewWriter returns a writer with the lines ended as RFC 4180 asks.
func NewWriter(w io.Writer, name Name) *Writer {
	out := csv.NewWriter(w)
	out.UseCRLF = true
	return &Writer{out, name}
}

// Brew writes a row: the brew as its taster sees it. An empty cell is unknown.
func (w *Writer) Brew(b brew.Brew) error {
	row := make([]string, len(columns))
	for i, c := range columns {
		row[i] = c.value(b, w.name)
	}
	return w.Write(row)
}

// ReadingHeaders returns the headers of the table of readings.
func ReadingHeaders() []string { return []string{"brew_id", "at_s", "scale_g"} }

// Reading writes a reading of the scale under a brew.
func (w *Writer) Reading(brewID string, r trace.Reading) error {
	return w.Write([]string{brewID, strconv.FormatFloat(float64(r.At), 'f', 2, 64), strconv.FormatFloat(float64(r.Grams), 'f', 1, 64)})
}

func instant(t time.Time) string {
	if t.IsZero() {
		return ""
	}
	return t.Format("2006-01-02T15:04:05Z07:00")
}

// number formats a quantity; empty for 0, which means unknown or none.
func number(v float64, decimals int) string {
	if v == 0 {
		return ""
	}
	return strconv.FormatFloat(v, 'f', decimals, 64)
}

// formulaStarts are the characters that begin a formula in some spreadsheet.
var formulaStarts = []byte{'=', '+', '-', '@', '\t', '\r'}

// text disarms a text that a spreadsheet would calculate.
func text(s string) string {
	if s != "" && slices.Contains(formulaStarts, s[0]) {
		return "'" + s
	}
	return s
}

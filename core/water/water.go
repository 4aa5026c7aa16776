// Package water describes what is in the water that coffee is brewed with, and how
// to mix one from distilled water and two concentrates.
package water

import "yardbloom/core/units"

// A Source is where a water comes from.
type Source string

// The sources.
const (
	Tap      Source = "tap"
	Filtered Source = "filtered"
	Bottled  Source = "bottled"
	Mixed    Source = "mixed"
)

// Sources lists the sources in the order in which they are offered.
func Sources() []Source { return []Source{Tap, Filtered, Bottled, Mixed} }

// A Water is one that a person brews with. Contents are mg/l; hardness and alkalinity
// are counted as if all of it were calcium carbonate (CaCO₃).
type Water struct {
	ID     string `db:"id"`
	Name   string `db:"name"`
	Source Source `db:"source"`
	// TypedHardness and TypedAlkalinity are what a test or a supplier says; 0 where
	// nothing is known. Calcium, Magnesium and Bicarbonate are what a label says, and
	// go before them.
	TypedHardness   float64 `db:"hardness"`
	TypedAlkalinity float64 `db:"alkalinity"`
	Calcium         float64 `db:"calcium"`
	Magnesium       float64 `db:"magnesium"`
	Bicarbonate     float64 `db:"bicarbonate"`
	// Known says that a nought is a nought, as in distilled water, and not unknown.
	Known bool `db:"known"`
}

// How much CaCO₃ counts for a mg of each: its molar mass, 100.09 g, over that of
// calcium, 40.08, and of magnesium, 24.31; of bicarbonate, which binds one acid where
// carbonate binds two, half of it over 61.02.
const (
	perCalcium     = 100.09 / 40.08
	perMagnesium   = 100.09 / 24.31
	perBicarbonate = 100.09 / 2 / 61.02
)

// guesses are what a water of a source usually has, where nothing is known of it.
var guesses = map[Source]struct{ hardness, alkalinity float64 }{
	Tap: {150, 110}, Filtered: {80, 50}, Bottled: {120, 130}, Mixed: {70, 40},
}

// Hardness is the calcium and magnesium in the water, mg/l as CaCO₃, and whether it
// is known or a guess from the source.
func (w Water) Hardness() (mg float64, known bool) {
	switch {
	case w.Calcium > 0 || w.Magnesium > 0:
		return w.Calcium*perCalcium + w.Magnesium*perMagnesium, true
	case w.TypedHardness > 0 || w.Known:
		return w.TypedHardness, true
	}
	return guesses[w.Source].hardness, false
}

// Alkalinity is what the water takes of an acid before it turns sour, mg/l as CaCO₃,
// and whether it is known or a guess from the source.
func (w Water) Alkalinity() (mg float64, known bool) {
	switch {
	case w.Bicarbonate > 0:
		return w.Bicarbonate * perBicarbonate, true
	case w.TypedAlkalinity > 0 || w.Known:
		return w.TypedAlkalinity, true
	}
	return guesses[w.Source].alkalinity, false
}

// ContentRange is what there may be of anything in a water to brew with, mg/l.
var ContentRange = units.Range{Lo: 0, Hi: 1000}

// sayings are what an amount does to a cup: up to so many mg/l as CaCO₃.
type saying struct {
	upTo float64
	does string
}

var ofHardness = []saying{
	{20, "hardly any minerals: thin, and little of the coffee is taken along"},
	{50, "soft: light and clear"},
	{120, "middling hard: enough to take sweetness and body along"},
	{200, "hard: heavy, and it scales the kettle"},
	{1e9, "very hard: dull and chalky, and the kettle scales quickly"},
}

var ofAlkalinity = []saying{
	{20, "nothing tames the acids: bright coffee turns sharp"},
	{60, "the acids show, and are rounded"},
	{100, "the acids are dulled: dark coffee likes it, bright coffee tastes flat"},
	{1e9, "the acids are swallowed: flat and chalky, whatever is turned"},
}

// Says tells in a sentence what the water does to a cup.
func (w Water) Says() string {
	hardness, known := w.Hardness()
	alkalinity, also := w.Alkalinity()
	out := says(ofHardness, hardness) + "; " + says(ofAlkalinity, alkalinity) + "."
	if !known || !also {
		return "By a guess from where it comes from: " + out
	}
	return string(out[0]-'a'+'A') + out[1:]
}

func says(table []saying, mg float64) string {
	for _, s := range table {
		if mg <= s.upTo {
			return s.does
		}
	}
	return ""
}

// Package water describes the minerals in brewing water, and how to mix a water from distilled water and
// two concentrates.
package water

import "yardbloom/core/units"

// A Source is the origin of a water.
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
	// TypedHardness and TypedAlkalinity come from a test or a supplier; 0 means unknown. Calcium, Magnesium
	// and Bicarbonate come from a label and take precedence.
	TypedHardness   float64 `db:"hardness"`
	TypedAlkalinity float64 `db:"alkalinity"`
	Calcium         float64 `db:"calcium"`
	Magnesium       float64 `db:"magnesium"`
	Bicarbonate     float64 `db:"bicarbonate"`
	// Known marks contents of 0 as measured, as in distilled water, and not as unknown.
	Known bool `db:"known"`
}

// Conversion factors from mg of an ion to mg of CaCO₃: the molar mass of CaCO₃, 100.09 g/mol, divided by
// that of calcium, 40.08, or magnesium, 24.31; for bicarbonate, which neutralizes half as much acid as
// carbonate, half of it divided by 61.02.
const (
	perCalcium     = 100.09 / 40.08
	perMagnesium   = 100.09 / 24.31
	perBicarbonate = 100.09 / 2 / 61.02
)

// guesses holds the typical contents of a water of each source, used if nothing is known.
var guesses = map[Source]struct{ hardness, alkalinity float64 }{
	Tap: {150, 110}, Filtered: {80, 50}, Bottled: {120, 130}, Mixed: {70, 40},
}

// Hardness returns the calcium and magnesium in the water, mg/l as CaCO₃, and whether it is known or a
// guess from the source.
func (w Water) Hardness() (mg float64, known bool) {
	switch {
	case w.Calcium > 0 || w.Magnesium > 0:
		return w.Calcium*perCalcium + w.Magnesium*perMagnesium, true
	case w.TypedHardness > 0 || w.Known:
		return w.TypedHardness, true
	}
	return guesses[w.Source].hardness, false
}

// Alkalinity returns the acid-buffering capacity of the water, mg/l as CaCO₃, and whether it is known or a
// guess from the source.
func (w Water) Alkalinity() (mg float64, known bool) {
	switch {
	case w.Bicarbonate > 0:
		return w.Bicarbonate * perBicarbonate, true
	case w.TypedAlkalinity > 0 || w.Known:
		return w.TypedAlkalinity, true
	}
	return guesses[w.Source].alkalinity, false
}

// Ratio returns the calcium for each gram of magnesium, g/g; false if the label does not give both.
func (w Water) Ratio() (float64, bool) {
	if w.Calcium <= 0 || w.Magnesium <= 0 {
		return 0, false
	}
	return w.Calcium / w.Magnesium, true
}

// Dissolved estimates the dissolved minerals, mg/l (ppm), which a conductivity meter shows: the ions of the hardness and the
// alkalinity, and as much sodium or sulphate as balances their charges.
func (w Water) Dissolved() float64 {
	const calcium, bicarbonate, sodium, sulphate = 40.08 / 2, 61.02, 22.99, 96.06 / 2 // mg per milliequivalent
	hardness, _ := w.Hardness()
	alkalinity, _ := w.Alkalinity()
	cations, anions := hardness/perMilliequivalent, alkalinity/perMilliequivalent
	ions := cations * calcium
	if w.Calcium > 0 || w.Magnesium > 0 {
		ions = w.Calcium + w.Magnesium
	}
	ions += anions * bicarbonate
	if anions > cations {
		return ions + (anions-cations)*sodium
	}
	return ions + (cations-anions)*sulphate
}

// ContentRange is the valid content of any ion in a brewing water, mg/l.
var ContentRange = units.Range{Lo: 0, Hi: 1000}

// A effect describes the effect of a content on the cup, up to an amount in mg/l as CaCO₃.
type effect struct {
	upTo float64
	text string
}

var ofHardness = []effect{
	{20, "hardly any minerals: thin, and extracts little"},
	{50, "soft: light and clear"},
	{120, "medium hard: enough for sweetness and body"},
	{200, "hard: heavy, and it scales the kettle"},
	{1e9, "very hard: dull and chalky, and it scales the kettle quickly"},
}

var ofAlkalinity = []effect{
	{20, "no buffer: bright coffee turns sharp"},
	{60, "acids are present and rounded"},
	{100, "acids are dulled: good for dark coffee, flat for bright coffee"},
	{1e9, "acids disappear: flat and chalky with any recipe"},
}

// Describe describes the effect of the water on the cup in a sentence.
func (w Water) Describe() string {
	hardness, known := w.Hardness()
	alkalinity, also := w.Alkalinity()
	out := describe(ofHardness, hardness) + "; " + describe(ofAlkalinity, alkalinity) + "."
	if !known || !also {
		return "Guessed from its source: " + out
	}
	return string(out[0]-'a'+'A') + out[1:]
}

func describe(table []effect, mg float64) string {
	for _, s := range table {
		if mg <= s.upTo {
			return s.text
		}
	}
	return ""
}

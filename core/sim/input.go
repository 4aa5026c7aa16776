package sim

import (
	"errors"

	"yardbloom/core/units"
)

// A Brew is the input of the model.
type Brew struct {
	Dose    units.Grams
	Coffee  Coffee
	Grind   Grind
	Brewer  Brewer
	Filter  Filter
	Pours   []Pour
	Hands   []HandMotion
	Release units.Seconds // the valve opens at this time; 0 for none
	// WaterFirst is true for a steep whose coffee is added to the water.
	WaterFirst bool
	Bed        float64 // unevenness of the dry bed: 0 levelled, 1 heaped or cratered
	Ambient    units.Celsius
	Warm       units.Celsius // of the brewer before the first water
	Kettle     Kettle
	Second     Kettle // of the pours that name it
	Below      Below
	Unlike     Unlike
}

// Unlike selects a world of another structure than the model's, to test predictions and learning where the
// model is wrong. The zero Unlike is the model.
type Unlike struct {
	NothingBound bool    // all solubles dissolve in any water
	FlowPower    float64 // exponent of the size in the permeability, in addition to 2
	FinesLayer   float64 // growth of the paper's resistance by a layer of fines, per share of fines and per g/g of outflow
	BypassPower  float64 // exponent of the height of water in the bypass; 0: 1
	Spread       float64 // × the spread of the sizes; 0: 1
	Losses       float64 // × all losses of heat to the air; 0: 1
}

func (h HandMotion) check() error {
	if err := inRanges([]bound{{"at", float64(h.At), startRange}}); err != nil {
		return err
	}
	return h.Motion.check()
}

// Coffee holds the properties of the coffee that the model uses.
type Coffee struct {
	Soluble float64 // soluble share of the dry dose
	Rate    float64 // relative extraction rate; 1: a medium-light coffee
	Gas     float64 // 0, rested, to 1, two days old
}

// Grind is a size distribution.
type Grind struct {
	Median units.Micrometres // of the boulders
	Fines  float64           // share of the mass
	Spread float64           // 1: as for burrs; 0: all boulders of one size
	Flow   float64           // relative permeability; 0 means 1
}

// A Pour is a pour from the kettle.
type Pour struct {
	Water       units.Grams
	Start       units.Seconds
	WhenDrained bool    // start when the water has reached the bed, but not before Start
	ToDrips     bool    // with WhenDrained: not before the stream below has turned to drips either
	Rate        float64 // g/s
	Temperature units.Celsius
	Height      float64 // of the stream over the bed, m
	Pattern     Pattern
	Then        Motion // hand action after the pour
	Second      bool   // from the second kettle
}

// A HandMotion is a motion at a time.
type HandMotion struct {
	At units.Seconds
	Motion
}

// The valid ranges of the model.
var (
	doseRange   = units.Range{Lo: 5, Hi: 120}
	solubles    = units.Range{Lo: 0.15, Hi: 0.36}
	rates       = units.Range{Lo: 0.2, Hi: 4}
	gases       = units.Range{Lo: 0, Hi: 1}
	medians     = units.Range{Lo: 200, Hi: 1600}
	finesRange  = units.Range{Lo: 0, Hi: 0.4}
	spreads     = units.Range{Lo: 0, Hi: 1.3}
	flows       = units.Range{Lo: 0, Hi: 20}
	pourRates   = units.Range{Lo: 0.5, Hi: 25}
	pourTemps   = units.Range{Lo: 1, Hi: 100}
	heights     = units.Range{Lo: 0, Hi: 0.6}
	strengths   = units.Range{Lo: 0, Hi: 2}
	waterRange  = units.Range{Lo: 10, Hi: 2000}
	startRange  = units.Range{Lo: 0, Hi: 1200}
	shares      = units.Range{Lo: 0, Hi: 1}
	ambients    = units.Range{Lo: -10, Hi: 45}
	brewerWarms = units.Range{Lo: -10, Hi: 100}
)

// maxPours is the maximum number of pours in a brew.
const maxPours = 40

// Check returns a *units.ValueError for the first value outside the model's
// range, at a units.Place.
func (b Brew) Check() error {
	checks := []bound{
		{"dose", float64(b.Dose), doseRange}, {"coffee.soluble", b.Coffee.Soluble, solubles}, {"coffee.rate", b.Coffee.Rate, rates},
		{"coffee.gas", b.Coffee.Gas, gases}, {"grind.median", float64(b.Grind.Median), medians}, {"grind.fines", b.Grind.Fines, finesRange},
		{"grind.spread", b.Grind.Spread, spreads}, {"grind.flow", b.Grind.Flow, flows}, {"ambient", float64(b.Ambient), ambients},
		{"warm", float64(b.Warm), brewerWarms},
		{"pours", float64(len(b.Pours)), units.Range{Lo: 1, Hi: maxPours}}, {"release", float64(b.Release), startRange},
		{"bed", b.Bed, shares},
	}
	if err := inRanges(checks); err != nil {
		return err
	}
	if err := b.checkPours(); err != nil {
		return err
	}
	if err := b.Brewer.check(); err != nil {
		return err
	}
	if err := b.Kettle.check("kettle"); err != nil {
		return err
	}
	if err := b.Second.check("second"); err != nil {
		return err
	}
	return b.Below.check()
}

// A bound is a value with its valid range.
type bound struct {
	at string
	v  float64
	r  units.Range
}

// inRanges returns a *units.ValueError for the first value outside its range.
func inRanges(bounds []bound) error {
	for _, b := range bounds {
		if err := b.r.Check(units.Place{Name: b.at}, b.v); err != nil {
			return err
		}
	}
	return nil
}

// inside adds the name of the list and the index to an error.
func inside(list string, i int, err error) error {
	var wrong *units.ValueError
	if errors.As(err, &wrong) {
		wrong.At = units.Place{List: list, Index: i, Name: wrong.At.String()}
	}
	return err
}

func (b Brew) checkPours() error {
	var total float64
	for i, p := range b.Pours {
		total += float64(p.Water)
		if err := inRanges([]bound{
			{"water", float64(p.Water), units.Range{Lo: 0, Hi: waterRange.Hi}}, {"start", float64(p.Start), startRange},
			{"rate", p.Rate, pourRates},
			{"temperature", float64(p.Temperature), pourTemps}, {"height", p.Height, heights}, {"pattern", p.Pattern.Even, shares},
			{"pattern", p.Pattern.Wall, shares}, {"pattern", p.Pattern.Soft, shares},
		}); err != nil {
			return inside("pours", i, err)
		}
		if err := p.Then.check(); err != nil {
			return inside("pours", i, err)
		}
	}
	for i, h := range b.Hands {
		if err := h.check(); err != nil {
			return inside("hands", i, err)
		}
	}
	return inRanges([]bound{{"water", total, waterRange}})
}

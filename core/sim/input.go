package sim

import (
	"fmt"
	"math"

	"yardbloom/core/units"
)

// A Brew is what the model is asked to brew.
type Brew struct {
	Dose    units.Grams
	Coffee  Coffee
	Grind   Grind
	Brewer  Brewer
	Filter  Filter
	Pours   []Pour
	Hands   []Hand
	Release units.Seconds // a valve stays closed until then; 0 for none
	Ambient units.Celsius
	Warm    units.Celsius // of the brewer before the first water
}

// Coffee is what matters of the coffee.
type Coffee struct {
	Soluble float64 // share of the dry dose that water can take along
	Rate    float64 // multiplier on how fast it does; 1: a medium-light coffee
	Gas     float64 // 0, rested, to 1, two days old
}

// Grind is the distribution of sizes.
type Grind struct {
	Median units.Micrometres // of the boulders
	Fines  float64           // share of the mass
	Spread float64           // 1: the model's usual three boulder sizes; 0: all of one size
}

// A Pour is water from the kettle.
type Pour struct {
	Water       units.Grams
	Start       units.Seconds
	WhenDrained bool    // start when the water has reached the bed, not before Start
	Rate        float64 // g/s
	Temperature units.Celsius
	Height      float64 // of the stream over the bed, m
}

// A Hand is something that the hand does to the bed at a moment: Strength 0.3
// for a tap, 0.5 for a swirl, 1 for a stir.
type Hand struct {
	At       units.Seconds
	Strength float64
}

// The field that the model can speak for.
var (
	doseRange   = units.Range{Lo: 5, Hi: 120}
	solubles    = units.Range{Lo: 0.15, Hi: 0.36}
	rates       = units.Range{Lo: 0.2, Hi: 4}
	gases       = units.Range{Lo: 0, Hi: 1}
	medians     = units.Range{Lo: 200, Hi: 1600}
	finesRange  = units.Range{Lo: 0, Hi: 0.4}
	spreads     = units.Range{Lo: 0, Hi: 1.3}
	pourRates   = units.Range{Lo: 0.5, Hi: 25}
	pourTemps   = units.Range{Lo: 1, Hi: 100}
	heights     = units.Range{Lo: 0, Hi: 0.6}
	strengths   = units.Range{Lo: 0, Hi: 2}
	waterRange  = units.Range{Lo: 10, Hi: 2000}
	startRange  = units.Range{Lo: 0, Hi: 1200}
	ambients    = units.Range{Lo: -10, Hi: 45}
	brewerWarms = units.Range{Lo: -10, Hi: 100}
)

// maxPours is the most pours in one brew.
const maxPours = 40

// A FieldError names the field of a Brew that lies outside what the model can speak for.
type FieldError struct {
	Field string
	Value float64
	Range units.Range
}

func (e *FieldError) Error() string {
	return fmt.Sprintf("%s is %g; the model can speak for %g to %g", e.Field, e.Value, e.Range.Lo, e.Range.Hi)
}

// Check returns a *FieldError for the first field outside the model's range.
func (b Brew) Check() error {
	checks := []struct {
		field string
		v     float64
		r     units.Range
	}{
		{"dose", float64(b.Dose), doseRange}, {"coffee.soluble", b.Coffee.Soluble, solubles}, {"coffee.rate", b.Coffee.Rate, rates},
		{"coffee.gas", b.Coffee.Gas, gases}, {"grind.median", float64(b.Grind.Median), medians}, {"grind.fines", b.Grind.Fines, finesRange},
		{"grind.spread", b.Grind.Spread, spreads}, {"ambient", float64(b.Ambient), ambients}, {"warm", float64(b.Warm), brewerWarms},
		{"pours", float64(len(b.Pours)), units.Range{Lo: 1, Hi: maxPours}}, {"release", float64(b.Release), startRange},
	}
	for _, c := range checks {
		if !within(c.v, c.r) {
			return &FieldError{c.field, c.v, c.r}
		}
	}
	if err := b.checkPours(); err != nil {
		return err
	}
	return b.Brewer.check()
}

func (b Brew) checkPours() error {
	var total float64
	for i, p := range b.Pours {
		name := func(f string) string { return fmt.Sprintf("pours[%d].%s", i, f) }
		total += float64(p.Water)
		switch {
		case !within(float64(p.Water), units.Range{Lo: 0, Hi: waterRange.Hi}):
			return &FieldError{name("water"), float64(p.Water), waterRange}
		case !within(float64(p.Start), startRange):
			return &FieldError{name("start"), float64(p.Start), startRange}
		case !within(p.Rate, pourRates):
			return &FieldError{name("rate"), p.Rate, pourRates}
		case !within(float64(p.Temperature), pourTemps):
			return &FieldError{name("temperature"), float64(p.Temperature), pourTemps}
		case !within(p.Height, heights):
			return &FieldError{name("height"), p.Height, heights}
		}
	}
	if !within(total, waterRange) {
		return &FieldError{"water", total, waterRange}
	}
	for i, h := range b.Hands {
		if !within(h.Strength, strengths) || !within(float64(h.At), startRange) {
			return &FieldError{fmt.Sprintf("hands[%d]", i), h.Strength, strengths}
		}
	}
	return nil
}

func within(v float64, r units.Range) bool {
	return !math.IsNaN(v) && v >= r.Lo && v <= r.Hi
}

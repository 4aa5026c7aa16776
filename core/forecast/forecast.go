// Package forecast asks the brew model about a recipe: it turns a coffee, the
// gear and a plan into what the model needs, and what comes out into figures
// for people, each with its error.
package forecast

import (
	"math"

	"yardbloom/core/cup"
	"yardbloom/core/recipe"
	"yardbloom/core/sim"
	"yardbloom/core/units"
)

// A Forecast is what the model expects of a recipe. Its errors are what a brew
// may differ by, one standard error, as long as no measured brew has corrected
// the model for this coffee and this grinder.
type Forecast struct {
	sim.Result
	// Plan is the recipe's, with what the model expects of it filled in.
	Plan recipe.Plan
	// Yield is the extraction yield as the cup's own formula would give it.
	Yield         cup.Figure
	Strength      cup.Figure // TDS, %
	DrawdownError units.Seconds
	BeverageError units.Grams
}

// How far a brew may lie from the model before the model has learned anything:
// most of it is the grinder's scale and fines, and what the coffee holds.
const (
	yieldError    = 1.6  // points
	strengthError = 0.11 // share of the TDS
	timeError     = 0.13 // share of the drawdown
	beverageError = 4    // g
)

// Of predicts a brew. Where the recipe lies outside the model's ranges
// it returns a *units.ValueError at the address on the recipe.
func Of(q Question) (Forecast, error) {
	var f Forecast
	return f, f.Ask(q)
}

// Ask predicts a brew into a Forecast, whose curves it reuses to save memory.
func (f *Forecast) Ask(q Question) error {
	plan := q.Recipe.Plan()
	if err := sim.RunInto(&f.Result, q.brew(plan)); err != nil {
		return addressed(err)
	}
	f.Plan = f.expect(plan)
	y := f.EY
	if q.Gear.Brewer.Kind.Form().Immersion {
		y += f.BrewedTDS * f.Retained // what stays in the grounds is as strong as what ran out
	}
	f.Yield = cup.Figure{Value: y, Error: yieldError}
	f.Strength = cup.Figure{Value: f.TDS, Error: strengthError * f.TDS}
	f.DrawdownError = timeError * f.Drawdown
	f.BeverageError = beverageError
	return nil
}

// Figures are what is kept of a forecast with the brew that it was made for.
type Figures struct {
	Drawdown, DrawdownError units.Seconds
	Drained                 bool
	Beverage, BeverageError units.Grams
	Strength, Yield         cup.Figure // %
}

// Figures returns the figures that are kept.
func (f Forecast) Figures() Figures {
	return Figures{f.Drawdown, f.DrawdownError, f.Drained, f.Beverage, f.BeverageError, f.Strength, f.Yield}
}

// expect fills in what the model expects of a plan: when the pours that wait for
// the bed begin, with the end moved where they need it, and how warm the water of
// each pour is in a kettle that cools.
func (f Forecast) expect(p recipe.Plan) recipe.Plan {
	end, pour := p.Finish, 0
	for i, s := range p.Steps {
		if s.Act != recipe.PourWater || pour >= len(f.Pours) {
			continue
		}
		begun := f.Pours[pour]
		if s.WhenDrained {
			p.Steps[i].Start = units.Seconds(math.Round(float64(begun.Start)))
		}
		p.Steps[i].Temperature = units.Celsius(math.Round(float64(begun.Temperature)*2) / 2)
		end, pour = max(end, p.Steps[i].End()+recipe.LeastDrain), pour+1
	}
	if p.Window.Set() {
		p.Window.From, p.Window.To = p.Window.From+end-p.Finish, p.Window.To+end-p.Finish
	}
	p.Finish = end
	return p
}

// Package forecast asks the brew model about a recipe. It converts a coffee, the gear and a plan to the
// model's input, and the model's output to figures with errors.
package forecast

import (
	"math"

	"yardbloom/core/cup"
	"yardbloom/core/recipe"
	"yardbloom/core/sim"
	"yardbloom/core/units"
)

// A Forecast is the model's prediction for a recipe. Its errors are standard errors. They combine the
// uncertainty of gear and coffee, propagated through the model, the scatter between brews and the error of
// the model.
type Forecast struct {
	sim.Result
	// Plan is the recipe's plan with the expected times and temperatures filled in.
	Plan recipe.Plan
	// Yield is the extraction yield by the formula of cup.Yield.
	Yield         cup.Figure
	Strength      cup.Figure // TDS, %
	DrawdownError units.Seconds
	BeverageError units.Grams
}

// Predict predicts a brew with its errors. If the recipe is outside the model's range it returns a
// *units.ValueError at the address on the recipe.
func Predict(q Question) (Forecast, error) {
	var f Forecast
	if err := f.Run(q); err != nil {
		return f, err
	}
	f.spread(q)
	return f, nil
}

// Run predicts a brew without errors into an existing Forecast and reuses its curves to save memory.
func (f *Forecast) Run(q Question) error { return f.run(q, sim.RunInto) }

// RunCoarse is Run with larger time steps, at about a third of the cost, for comparing many changes.
func (f *Forecast) RunCoarse(q Question) error { return f.run(q, sim.RunCoarse) }

// RunFlow is Run for times, levels and temperatures alone, at about a fifth of the cost; see sim.RunFlow.
func (f *Forecast) RunFlow(q Question) error { return f.run(q, sim.RunFlow) }

// RunFlowCoarse is RunFlow with larger time steps.
func (f *Forecast) RunFlowCoarse(q Question) error { return f.run(q, sim.RunFlowCoarse) }

func (f *Forecast) run(q Question, run func(*sim.Result, sim.Brew) error) error {
	plan := q.Recipe.Plan()
	if err := run(&f.Result, WithParameters(q.brew(plan), q.beliefs().Mean)); err != nil {
		return addressed(err)
	}
	f.Plan = f.fillPlan(plan)
	o := q.Outcome(&f.Result)
	f.Yield, f.Strength = cup.Figure{Value: o.Yield}, cup.Figure{Value: o.Strength}
	f.DrawdownError, f.BeverageError = 0, 0
	return nil
}

// Figures holds the part of a forecast that is stored with its brew.
type Figures struct {
	Drawdown, DrawdownError units.Seconds
	Drained                 bool
	Beverage, BeverageError units.Grams
	Strength, Yield         cup.Figure // %
}

// Figures returns the part of the forecast that is stored.
func (f Forecast) Figures() Figures {
	return Figures{f.Drawdown, f.DrawdownError, f.Drained, f.Beverage, f.BeverageError, f.Strength, f.Yield}
}

// fillPlan fills the expected values into a plan: the start of pours that start by eye, with the end
// moved accordingly, and the water temperature of each pour from a kettle that cools.
func (f Forecast) fillPlan(p recipe.Plan) recipe.Plan {
	end, pour := p.Finish, 0
	for i, s := range p.Steps {
		if s.Act != recipe.PourWater || pour >= len(f.Pours) {
			continue
		}
		begun := f.Pours[pour]
		if s.Cue.ByEye() {
			p.Steps[i].Start = units.Seconds(math.Round(float64(begun.Start)))
		}
		p.Steps[i].Temperature = units.Celsius(math.Round(float64(begun.Temperature)*2) / 2)
		end, pour = max(end, p.Steps[i].End()+recipe.MinDrain), pour+1
	}
	if p.Window.IsSet() {
		p.Window.From, p.Window.To = p.Window.From+end-p.Finish, p.Window.To+end-p.Finish
	}
	p.Finish = end
	return p
}

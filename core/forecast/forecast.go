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
// may differ by, one standard error: what is not known of the gear and the coffee,
// carried through the model, what two brews of one recipe differ by, and what the
// model leaves out.
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

// Of predicts a brew with its errors. Where the recipe lies outside the model's
// ranges it returns a *units.ValueError at the address on the recipe.
func Of(q Question) (Forecast, error) {
	var f Forecast
	if err := f.Ask(q); err != nil {
		return f, err
	}
	f.spread(q)
	return f, nil
}

// Ask predicts a brew without its errors into a Forecast, whose curves it reuses to
// save memory.
func (f *Forecast) Ask(q Question) error { return f.ask(q, sim.RunInto) }

// AskRoughly is Ask by a coarser run of the model, at about a third of the cost: for
// weighing many changes against each other.
func (f *Forecast) AskRoughly(q Question) error { return f.ask(q, sim.RunCoarse) }

func (f *Forecast) ask(q Question, run func(*sim.Result, sim.Brew) error) error {
	plan := q.Recipe.Plan()
	if err := run(&f.Result, Turned(q.brew(plan), q.beliefs().Mean)); err != nil {
		return addressed(err)
	}
	f.Plan = f.expect(plan)
	o := q.Outcome(&f.Result)
	f.Yield, f.Strength = cup.Figure{Value: o.Yield}, cup.Figure{Value: o.Strength}
	f.DrawdownError, f.BeverageError = 0, 0
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

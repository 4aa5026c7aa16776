// Package forecast asks the brew model about a recipe: it turns a coffee, the
// gear and a plan into what the model needs, and what comes out into figures
// for people, each with its error.
package forecast

import (
	"math"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/recipe"
	"yardbloom/core/sim"
	"yardbloom/core/units"
)

// A Question is what a brew is to be predicted from.
type Question struct {
	Recipe recipe.Recipe
	Bag    coffee.Bag
	Gear   brew.Gear
	Now    time.Time
	// Steps are the schedule, where it is not the one that the recipe's style makes.
	Steps []recipe.Step
	// Room is the temperature of the air; nil for the usual one.
	Room *units.Celsius
	// Below is what the brew runs into; nil for a usual glass carafe.
	Below *sim.Below
	// Bed is how uneven the dry bed lies, 0 to 1.
	Bed float64
}

// QuestionOf is what the model is asked about a brew: one that has begun as it was
// planned then.
func QuestionOf(b brew.Brew, now time.Time) Question {
	q := Question{Recipe: b.Recipe, Bag: b.Bag, Gear: b.Gear, Now: now}
	if !b.Started.IsZero() {
		q.Now, q.Steps = b.Started, b.Plan.Steps
	}
	return q
}

// A Forecast is what the model expects of a recipe. Its errors are what a brew
// may differ by, one standard error, as long as no measured brew has corrected
// the model for this coffee and this grinder.
type Forecast struct {
	sim.Result
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

// Of predicts a brew. It returns an error where the recipe lies outside what
// the model can speak for.
func Of(q Question) (Forecast, error) {
	var f Forecast
	return f, f.Ask(q)
}

// Ask predicts a brew into a Forecast whose curves are used again.
func (f *Forecast) Ask(q Question) error {
	if err := sim.RunInto(&f.Result, Brew(q)); err != nil {
		return err
	}
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

// Schedule is a brew's plan with what the model expects of it filled in. A brew
// that has begun keeps its own.
func Schedule(b brew.Brew, now time.Time) recipe.Plan {
	plan := b.Schedule()
	if !b.Editable() || b.Gear.Kettle.Thermostat && !b.Recipe.WhenDrained {
		return plan // there is nothing that only a model knows
	}
	f, err := Of(QuestionOf(b, now))
	if err != nil {
		return plan
	}
	return f.Expect(plan)
}

// Expect fills in what the model expects of a plan: when the pours that wait for
// the bed begin, with the end moved where they need it, and how warm the water of each pour is
// in a kettle that cools.
func (f Forecast) Expect(p recipe.Plan) recipe.Plan {
	steps := append([]recipe.Step(nil), p.Steps...)
	const least units.Seconds = 30 // from the last pour to the end
	end, pour := p.Finish, 0
	for i, s := range steps {
		if s.Act != recipe.Pour || pour >= len(f.Pours) {
			continue
		}
		begun := f.Pours[pour]
		if s.WhenDrained {
			steps[i].Start = units.Seconds(math.Round(float64(begun.Start)))
		}
		steps[i].Temperature = units.Celsius(math.Round(float64(begun.Temperature)*2) / 2)
		end, pour = max(end, steps[i].End()+least), pour+1
	}
	p.Window.From, p.Window.To = p.Window.From+end-p.Finish, p.Window.To+end-p.Finish
	p.Steps, p.Finish = steps, end
	return p
}

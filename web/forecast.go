package web

import (
	"fmt"
	"html/template"
	"math"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/web/figure"
)

// forecastView is what the brew model expects of a recipe, as the page shows it.
type forecastView struct {
	forecast.Forecast
	Facts    []fact
	More     []fact                   // what it expects besides
	Took     []fact                   // what it was told
	Steps    map[recipe.Knob][]effect // what one step either way would change
	Warnings []recipe.Warning
	Cutaway  template.HTML
	Frames   int    // the last moment of the cutaway
	Frame    int    // the moment that is shown
	Every    int    // s between two moments
	Sorry    string // why the model cannot speak for the recipe
}

// An effect is what one step of a knob would change in the cup, predicted.
type effect struct {
	To                          string // where the step leads
	Yield, Strength, Time, Tilt string
}

// foresee asks the model about a brew's recipe, and what one step of each knob would change.
func foresee(b brew.Brew, prefs units.Prefs, now time.Time) forecastView {
	q := forecast.QuestionOf(b, now)
	f, err := forecast.Of(q)
	if err != nil {
		return forecastView{Sorry: fmt.Sprintf("The brew model cannot speak for this recipe: %v.", err)}
	}
	v := forecastView{Forecast: f, Facts: forecastFacts(f, prefs), Steps: map[recipe.Knob][]effect{}}
	told := forecast.Brew(q)
	v.More, v.Took = moreFacts(f, prefs), tookFacts(b, told, prefs)
	cut := figure.Cutaway{Brewer: told.Brewer, Forecast: &v.Result, Prefs: prefs}
	v.Cutaway, v.Frames, v.Frame, v.Every = cut.SVG(), cut.Frames()-1, cut.Highest(), figure.FrameEvery
	if !b.Editable() {
		return v
	}
	v.Warnings = forecast.Check(q, f, prefs)
	nudges := nudgesOf(b, prefs)
	moves := make([]forecast.Move, len(nudges))
	for i, n := range nudges {
		moves[i] = forecast.Move{Knob: n.knob, To: n.value}
	}
	for i, d := range forecast.Steps(q, f, moves) {
		if n := nudges[i]; d != nil {
			v.Steps[n.knob] = append(v.Steps[n.knob], effect{n.to, units.Points(d.Yield, 1), units.Points(d.Strength, 2), seconds.Difference(float64(d.Time)), d.Tilt()})
		}
	}
	return v
}

// forecastFacts are the figures of a forecast, each with its error.
func forecastFacts(f forecast.Forecast, prefs units.Prefs) []fact {
	water := prefs.Unit(units.Water)
	drawdown := fmt.Sprintf("%s ± %s", f.Drawdown, f.DrawdownError)
	if !f.Drained {
		drawdown = "stalls"
	}
	return []fact{
		{"Drawdown", drawdown},
		{"In the carafe", fmt.Sprintf("%s ± %s", water.Number(float64(f.Beverage)), water.Format(float64(f.BeverageError)))},
		{"TDS", fmt.Sprintf("%.2f ± %.2f %%", f.Strength.Value, f.Strength.Error)},
		{"EY", f.Yield.String()},
		{"Slurry", prefs.Unit(units.Temperature).Format(float64(f.SlurryMean))},
		{"Level", fmt.Sprintf("%.0f of %.0f mm", f.TopLevel, f.Rim)},
	}
}

// A nudge is one step of a knob, and where it leads in a word or two.
type nudge struct {
	knob  recipe.Knob
	value float64
	to    string
}

// nudgesOf are the steps that are predicted: each knob one down and one up, the
// grind in steps of the person's own dial.
func nudgesOf(b brew.Brew, prefs units.Prefs) []nudge {
	r, g, t := b.Recipe, b.Gear.Grinder, prefs.Unit(units.Temperature)
	grind := math.Abs(float64(g.Step))
	size := func(v float64) string { return g.Setting(units.Micrometres(v)) }
	if grind == 0 {
		grind = 25
		size = func(v float64) string { return map[bool]string{true: "finer", false: "coarser"}[v < float64(r.Grind)] }
	}
	var out []nudge
	for _, n := range []struct {
		knob recipe.Knob
		by   float64
		say  func(float64) string
		when bool
	}{
		{recipe.KnobRatio, 0.5, func(v float64) string { return "1 : " + units.Trim(v, 1) }, true},
		{recipe.KnobGrind, grind, size, true},
		{recipe.KnobTemperature, 1, func(v float64) string { return t.Format(v) }, true},
		{recipe.KnobPours, 1, func(v float64) string { return units.Trim(v, 0) }, percolation(b)},
		{recipe.KnobBloom, 0.5, func(v float64) string { return units.Trim(v, 1) + "×" }, r.Bloom > 0},
		{recipe.KnobBloomTime, 15, func(v float64) string { return units.Seconds(v).String() }, r.Bloom > 0},
		{recipe.KnobGap, 5, func(v float64) string { return seconds.Format(v) }, again(b) && !r.WhenDrained},
		{recipe.KnobRate, 1, func(v float64) string { return perSec.Format(v) }, percolation(b)},
		{recipe.KnobSteep, 15, func(v float64) string { return units.Seconds(v).String() }, r.Steep > 0},
	} {
		if !n.when {
			continue
		}
		field := n.knob.Range()
		if n.knob == recipe.KnobTemperature {
			field.Hi = float64(gear.Hottest(b.Gear.Boiling))
		}
		now := r.Value(n.knob)
		if n.knob == recipe.KnobRatio {
			now = b.Ratio()
		}
		for _, v := range []float64{now - n.by, now + n.by} {
			if v >= field.Lo && v <= field.Hi {
				out = append(out, nudge{n.knob, v, n.say(v)})
			}
		}
	}
	return out
}

package web

import (
	"fmt"
	"html/template"
	"math"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/web/figure"
)

// forecastView is what the brew model expects of a recipe, as the page shows it.
type forecastView struct {
	forecast.Forecast
	Facts    []fact
	Steps    map[recipe.Knob][]string // what one step either way would change
	Warnings []recipe.Warning
	Cutaway  template.HTML
	Frames   int    // the last moment of the cutaway
	Frame    int    // the moment that is shown
	Every    int    // s between two moments
	Sorry    string // why the model cannot speak for the recipe
}

// foresee asks the model about a brew's recipe, and what one step of each knob would change.
func foresee(b brew.Brew, prefs units.Prefs, now time.Time) forecastView {
	if !b.Started.IsZero() {
		now = b.Started
	}
	q := forecast.Question{Recipe: b.Recipe, Bag: b.Bag, Gear: b.Gear, Now: now}
	f, err := forecast.Of(q)
	if err != nil {
		return forecastView{Sorry: fmt.Sprintf("The brew model cannot speak for this recipe: %v.", err)}
	}
	v := forecastView{Forecast: f, Facts: forecastFacts(f, prefs), Steps: map[recipe.Knob][]string{}}
	cut := figure.Cutaway{Brewer: forecast.Brew(q).Brewer, Forecast: &v.Result, Prefs: prefs}
	v.Cutaway, v.Frames, v.Frame, v.Every = cut.SVG(), cut.Frames()-1, cut.Highest(), figure.FrameEvery
	if !b.Editable() {
		return v
	}
	v.warn(b, q)
	nudges := nudgesOf(b)
	var moves []forecast.Move
	for _, n := range nudges {
		moves = append(moves, forecast.Move{Knob: n.knob, To: n.down}, forecast.Move{Knob: n.knob, To: n.up})
	}
	steps, err := forecast.Steps(q, f, moves)
	if err != nil {
		return v // a step leads out of the field: the recipe itself is inside, and that is shown
	}
	for i, n := range nudges {
		v.Steps[n.knob] = []string{n.less + ": " + differenceWords(steps[2*i]), n.more + ": " + differenceWords(steps[2*i+1])}
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

// A nudge is one step of a knob down and up, with the words for each way.
type nudge struct {
	knob       recipe.Knob
	down, up   float64
	less, more string
}

// nudgesOf are the knobs of a recipe that a step is predicted for: the grind in
// steps of the person's own dial.
func nudgesOf(b brew.Brew) []nudge {
	r := b.Recipe
	step := math.Abs(float64(b.Gear.Grinder.Step))
	if step == 0 {
		step = 25
	}
	out := []nudge{
		{recipe.KnobRatio, r.Ratio() - 0.5, r.Ratio() + 0.5, "1 : " + units.Trim(r.Ratio()-0.5, 1), "1 : " + units.Trim(r.Ratio()+0.5, 1)},
		{recipe.KnobGrind, float64(r.Grind) - step, float64(r.Grind) + step, "One step finer", "One step coarser"},
		{recipe.KnobTemperature, float64(r.Temperature) - 1, min(float64(r.Temperature)+1, 100), "A degree less", "A degree more"},
	}
	if r.Bloom > 0 {
		out = append(out, nudge{recipe.KnobBloom, r.Bloom - 0.5, r.Bloom + 0.5, "Half a dose less", "Half a dose more"})
	}
	if r.Steep > 0 {
		out = append(out, nudge{recipe.KnobSteep, float64(r.Steep) - 15, float64(r.Steep) + 15, "15 s less", "15 s more"})
	}
	return out
}

func differenceWords(d forecast.Difference) string {
	return fmt.Sprintf("EY %s, %s s", units.Points(d.Yield), units.Signed(math.Round(float64(d.Time)), 0))
}

// warn says what the model sees coming that nobody wants, and the smallest fix.
func (v *forecastView) warn(b brew.Brew, q forecast.Question) {
	window := coach.Window(b)
	add := func(f recipe.Field, fix recipe.Fix, format string, args ...any) {
		v.Warnings = append(v.Warnings, recipe.Warning{Field: f, Text: fmt.Sprintf(format, args...), Fix: fix})
	}
	// drainOnTime is the grind that the model expects to drain in the middle of the window, if there is one.
	drainOnTime := func() recipe.Fix {
		r, err := forecast.Reach(q, forecast.DrainIn, float64(window.From+window.To)/2)
		if err != nil {
			return recipe.Fix{}
		}
		return recipe.Fix{Field: recipe.Grind, Value: float64(r.Grind)}
	}
	switch {
	case v.Overflow >= 0:
		add(recipe.Water, recipe.Fix{}, "Predicted to run over at %s: less water, or a larger brewer.", v.Overflow)
	case !v.Drained:
		add(recipe.Grind, drainOnTime(), "Predicted to stall: grind coarser.")
	case v.Drawdown-v.DrawdownError > window.To:
		add(recipe.Grind, drainOnTime(), "Predicted to drain at %s, past the wanted %s: coarser.", v.Drawdown, window.To)
	case v.Drawdown+v.DrawdownError < window.From:
		add(recipe.Grind, drainOnTime(), "Predicted to drain at %s, before the wanted %s: finer.", v.Drawdown, window.From)
	}
}

package recipe

import (
	"cmp"
	"fmt"
	"html/template"
	"math"
	"slices"
	"time"

	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/sim"
	"yardbloom/core/units"
	"yardbloom/web/figure"
	"yardbloom/web/page"
	"yardbloom/web/station"
	"yardbloom/web/words"
	"yardbloom/yard"
)

// forecastView is the prediction for a recipe.
type forecastView struct {
	forecast.Forecast
	Facts    []page.Fact
	More     []page.Fact // further predictions
	Took     []page.Fact // inputs of the model
	Parts    *partsView
	Steps    map[recipe.Address][]effect
	Warnings []recipe.Warning
	Cutaway  template.HTML
	Frames   int    // last moment of the cutaway
	Frame    int    // moment that is shown
	Every    int    // interval of moments, s
	From     string // number of brews behind the prediction
	Sorry    string // why the model cannot predict the recipe
}

// An effect is the predicted effect of one step of a knob.
type effect struct {
	To                          string // value after the step
	Yield, Strength, Time, Tilt string
}

// predict predicts a recipe, and the effect of one step of each knob.
func predict(sc *station.Scene) forecastView {
	q := sc.Question(sc.AgedAt())
	f, err := forecast.Predict(q)
	if err != nil {
		return forecastView{Sorry: "The brew model cannot predict this recipe. " + words.InvalidAddress(err, sc.Prefs)}
	}
	told := q.Brew()
	v := forecastView{Forecast: f, From: words.Basis(q.Beliefs), Facts: forecastFacts(sc.Recipe, f, sc.Prefs),
		More:  slices.Concat(moreFacts(sc.Recipe, told, f, sc.Prefs), drinkFacts(q, f, sc.Prefs), waterFacts(sc.Question(sc.Now), f)),
		Took:  inputFacts(sc, told),
		Steps: map[recipe.Address][]effect{}, Parts: partsOf(sc, q, f)}
	cut := figure.Cutaway{Brewer: told.Brewer, Forecast: &v.Result, Prefs: sc.Prefs, Crust: sc.Recipe.Crust, Release: sc.Recipe.Release}
	v.Cutaway, v.Frames, v.Frame, v.Every = cut.SVG(), cut.Frames()-1, cut.Highest(), figure.FrameEvery
	if !sc.Editable() {
		return v
	}
	v.Warnings = forecast.Check(q, f, sc.Prefs)
	moves, leads := oneStep(sc)
	seconds := sc.Prefs.Unit(units.Span)
	for i, d := range forecast.Try(q, moves) {
		if at := moves[i].Address; d != nil {
			v.Steps[at] = append(v.Steps[at], effect{leads[i], units.Points(d.Yield, 1), units.Points(d.Strength, 2),
				seconds.Difference(float64(d.Time)), d.Tilt()})
		}
	}
	return v
}

// predicted lists the knobs with predicted effects.
var predicted = []recipe.Knob{recipe.Dose, recipe.Ratio, recipe.IcePart, recipe.Dilute, recipe.Balance, recipe.LastPours, recipe.Grind,
	recipe.Temperature, recipe.Pours, recipe.Bloom, recipe.BloomTime, recipe.Gap, recipe.Rate, recipe.Release, recipe.Screen, recipe.First,
	recipe.Discard}

// oneStep returns a step down and up for each knob, the grind in steps of the person's dial, with the
// resulting values.
func oneStep(sc *station.Scene) (moves []forecast.Move, leads []string) {
	for _, k := range predicted {
		at := recipe.AddressOf(k)
		if !sc.Recipe.Has(at) || k == recipe.Gap && sc.Recipe.Value(recipe.AddressOf(recipe.Wait)) > 0 || k == recipe.Bloom &&
			sc.Recipe.Value(at) == 0 {
			continue
		}
		now, by, limits := sc.Value(at), k.Step(), k.Range()
		switch {
		case k == recipe.Grind && sc.Gear.Grinder.Step != 0:
			by = math.Abs(float64(sc.Gear.Grinder.Step))
		case k == recipe.Temperature:
			limits.Hi = float64(gear.MaxTemperature(sc.Gear.Boiling))
		}
		for _, v := range []float64{now - by, now + by} {
			if limits.Contains(v) {
				moves, leads = append(moves, forecast.Move{Address: at, To: v}), append(leads, stepResult(sc, at, now, v))
			}
		}
	}
	return moves, leads
}

// stepResult formats the value after a step.
func stepResult(sc *station.Scene, at recipe.Address, now, v float64) string {
	u := sc.Prefs.Unit(at.Knob.Kind())
	switch g := sc.Gear.Grinder; {
	case at.Knob == recipe.Grind && g.Step == 0 && v < now:
		return "finer"
	case at.Knob == recipe.Grind && g.Step == 0:
		return "coarser"
	case at.Knob == recipe.Grind:
		return g.Setting(units.Micrometres(v))
	case at.Knob == recipe.Bloom:
		return u.Number(v) + "×"
	case at.Knob == recipe.BloomTime:
		return units.Seconds(v).String()
	}
	return u.Format(v)
}

// forecastFacts returns the figures of a forecast with their errors, depending on the serving.
func forecastFacts(r recipe.Recipe, f forecast.Forecast, prefs units.Prefs) []page.Fact {
	water, heat := prefs.Unit(units.Water), prefs.Unit(units.Temperature)
	out := []page.Fact{
		{Name: "Drawdown", Value: words.Drawdown(f.Figures())},
		{Name: "In the carafe", Value: fmt.Sprintf("%s ± %s", water.Number(float64(f.Beverage)), water.Format(float64(f.BeverageError)))},
		{Name: "TDS", Value: fmt.Sprintf("%.2f ± %.2f %%", f.Strength.Value, f.Strength.Error)},
		{Name: "EY", Value: f.Yield.String()},
	}
	before := page.Fact{Name: "TDS before", Value: fmt.Sprintf("%.2f %%", f.BrewedTDS)}
	switch r.Serving() {
	case recipe.OverIce:
		return append(out, before, page.Fact{Name: "Drink", Value: fmt.Sprintf("%s, %s", heat.Format(float64(f.CupTemp)),
			iceLeft(f.IceLeft, prefs))})
	case recipe.Diluted:
		return append(out, before, page.Fact{Name: "In the cup at", Value: heat.Format(float64(f.CupTemp))})
	}
	return append(out, page.Fact{Name: "Slurry", Value: heat.Format(float64(f.SlurryMean))}, level(f, prefs))
}

func level(f forecast.Forecast, prefs units.Prefs) page.Fact {
	u := prefs.Unit(units.Length)
	return page.Fact{Name: "Level", Value: u.Number(f.TopLevel) + " of " + u.Format(f.Rim)}
}

func iceLeft(left units.Grams, prefs units.Prefs) string {
	if left < 1 {
		return "no ice left"
	}
	return prefs.Unit(units.Water).Format(float64(left)) + " of ice left"
}

// drinkFacts tells when a hot cup can be drunk: the first sip, and the times of further tastings.
func drinkFacts(q forecast.Question, f forecast.Forecast, prefs units.Prefs) []page.Fact {
	const serving = 60 // s from the last drop to the first sip
	if f.CupTemp <= cup.ScaldTemperature {
		return nil
	}
	t := prefs.Unit(units.Temperature)
	c := cup.Pour(min(yard.CupVolume, f.Beverage), f.CupTemp, q.Air())
	out := []page.Fact{{Name: "In the cup after a minute", Value: t.Format(float64(c.At(serving * time.Second)))}}
	if after, ok := c.Drops(cup.ScaldTemperature); ok {
		out = append(out, page.Fact{Name: "Below " + t.Format(float64(cup.ScaldTemperature)), Value: fmt.Sprintf("after about %.0f min", after.Minutes())})
	}
	if after, ok := c.TimeTo(cup.Cool); ok {
		out = append(out, page.Fact{Name: "Time for the cool tasting", Value: fmt.Sprintf("after about %.0f min", after.Minutes())})
	}
	return out
}

// iceFacts describes the effect of the ice: how much just melts, and the drink over fresh ice in the glass.
func iceFacts(r recipe.Recipe, b sim.Brew, f forecast.Forecast, prefs units.Prefs) []page.Fact {
	const cold, freezer = 5, -18
	fresh, what := units.Grams(120), "of fresh ice"
	if r.GlassIce > 0 {
		fresh, what = r.GlassIce, "in one large piece"
	}
	water, heat := prefs.Unit(units.Water), prefs.Unit(units.Temperature)
	glass := cup.Drink{Mass: f.Beverage, Heat: f.CupTemp, TDS: f.TDS}.OnIce(fresh, freezer)
	return []page.Fact{
		{Name: "The ice that just melts on the way to " + heat.Format(cold),
			Value: water.Format(units.Round(float64(b.Below.MeltingIce(f.Brewed, f.BrewedTemp, cold)), -1))},
		{Name: fmt.Sprintf("Served on %s %s", water.Format(float64(fresh)), what),
			Value: fmt.Sprintf("up to %s of it melts, TDS %.2f %% at %s", water.Format(float64(fresh-glass.Ice)), glass.TDS,
				heat.Format(float64(glass.Heat)))},
	}
}

// moreFacts returns further predictions.
func moreFacts(r recipe.Recipe, told sim.Brew, f forecast.Forecast, prefs units.Prefs) []page.Fact {
	t := prefs.Unit(units.Temperature)
	out := []page.Fact{
		{Name: "First drip", Value: f.FirstDrip.String()},
		{Name: "Last water sinks in", Value: f.Dry.String()},
		{Name: "Stays in the grounds", Value: fmt.Sprintf("%.2f × the dose", f.Retained)},
		{Name: "Slurry at its hottest", Value: t.Format(float64(f.SlurryPeak))},
		{Name: "In the carafe at the end", Value: t.Format(float64(f.CupTemp))},
		{Name: "Uneven", Value: fmt.Sprintf("%.0f\u00a0%% of the dose gives under %.0f\u00a0%%, %.0f\u00a0%% over %.0f\u00a0%%",
			100*f.Below, f.Extracted-sim.Band, 100*f.Above, f.Extracted+sim.Band)},
		{Name: "Extracted share", Value: fmt.Sprintf("bright %.0f\u00a0%%, sweet %.0f\u00a0%%, bitter %.0f\u00a0%%; the least "+
			"certain figures", 100*f.Balance.Bright, 100*f.Balance.Sweet, 100*f.Balance.Bitter)},
	}
	if f.FirstDrip < 0 {
		out[0].Value = "none"
	}
	if r.Serving() != recipe.Hot {
		out = append(out, page.Fact{Name: "Slurry on average", Value: t.Format(float64(f.SlurryMean))}, level(f, prefs))
	}
	if r.Serving() == recipe.OverIce {
		out = append(out, iceFacts(r, told, f, prefs)...)
	}
	return out
}

// waterFacts returns what the water does to the cup; nothing without a known water.
func waterFacts(q forecast.Question, f forecast.Forecast) []page.Fact {
	share, known := q.Buffered(f.TDS)
	if !known {
		return nil
	}
	const error = 0.4 // relative: of the acids in a coffee, and of the alkalinity
	return []page.Fact{{Name: "Acids that the water neutralizes", Value: fmt.Sprintf("%.0f ± %.0f\u00a0%%", 100*share, 100*error*share)}}
}

// inputFacts returns the inputs of the model, so that a person can question them.
func inputFacts(sc *station.Scene, m sim.Brew) []page.Fact {
	t, g := sc.Prefs.Unit(units.Temperature), sc.Gear
	warm := "cold"
	if sc.Recipe.Rinse {
		warm = "warmed to " + t.Format(float64(m.Warm)) + " by the rinse"
	}
	kettle := "each pour at its own temperature"
	if m.Kettle.Rate > 0 {
		by := "by a rule of thumb"
		if g.Kettle.Taken() {
			by = "by its two readings"
		}
		kettle = fmt.Sprintf("cools off the heat with %s in it, %s",
			sc.Prefs.Unit(units.Water).Format(units.Round(float64(m.Kettle.Water), -1)), by)
	}
	return []page.Fact{
		{Name: "Coffee", Value: fmt.Sprintf("%.1f %% soluble, at %.2f of the usual pace, %.0f %% of its gas", 100*m.Coffee.Soluble,
			m.Coffee.Rate, 100*m.Coffee.Gas)},
		{Name: "Grind", Value: fmt.Sprintf("%.1f %% fines from a %s; drains like even grains of %.0f µm", 100*m.Grind.Fines,
			g.Grinder.Burrs, float64(m.Grind.Sauter()))},
		{Name: "Bed", Value: sc.Prefs.Unit(units.Length).Format(1000*m.Brewer.BedHeight(m.Dose)) + " high, levelled"},
		{Name: "Brewer", Value: fmt.Sprintf("%s, %s, %s", g.Brewer.Material, g.Brewer.Filter, warm)},
		{Name: "Kettle", Value: kettle},
		{Name: "Around it", Value: fmt.Sprintf("%s in the room, a %s carafe at %s", t.Format(float64(m.Ambient)),
			cmp.Or(sc.Recipe.Carafe, gear.Glass), t.Format(float64(m.Below.Warm)))},
	}
}

package web

import (
	"cmp"
	"fmt"
	"html/template"
	"math"

	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/sim"
	"yardbloom/core/units"
	"yardbloom/web/figure"
	"yardbloom/web/words"
)

// forecastView is what the brew model expects of a recipe, as the page shows it.
type forecastView struct {
	forecast.Forecast
	Facts    []fact
	More     []fact // what it expects besides
	Took     []fact // what it was told
	Steps    map[recipe.Address][]effect
	Warnings []recipe.Warning
	Cutaway  template.HTML
	Frames   int    // the last moment of the cutaway
	Frame    int    // the moment that is shown
	Every    int    // s between two moments
	From     string // how many brews of the yard it stands on
	Sorry    string // why the model cannot predict the recipe
}

// A fact is a line of a list: a name and its value.
type fact struct{ Name, Value string }

// An effect is what one step of a knob would change in the cup, predicted.
type effect struct {
	To                          string // where the step leads
	Yield, Strength, Time, Tilt string
}

// foresee asks the model about a recipe, and what one step of each knob would change.
func foresee(sc *scene) forecastView {
	q := sc.Question(sc.begun())
	f, err := forecast.Of(q)
	if err != nil {
		return forecastView{Sorry: "The brew model cannot predict this recipe. " + words.AtAddress(err, sc.prefs)}
	}
	told := q.Brew()
	v := forecastView{Forecast: f, From: words.FromBrews(q.Beliefs), Facts: forecastFacts(sc.Recipe, f, sc.prefs), More: moreFacts(sc.Recipe, told, f, sc.prefs), Took: tookFacts(sc, told), Steps: map[recipe.Address][]effect{}}
	cut := figure.Cutaway{Brewer: told.Brewer, Forecast: &v.Result, Prefs: sc.prefs, Crust: sc.Recipe.Crust, Release: sc.Recipe.Release}
	v.Cutaway, v.Frames, v.Frame, v.Every = cut.SVG(), cut.Frames()-1, cut.Highest(), figure.FrameEvery
	if !sc.editable() {
		return v
	}
	v.Warnings = forecast.Check(q, f, sc.prefs)
	moves, leads := oneStep(sc)
	seconds := sc.prefs.Unit(units.Span)
	for i, d := range forecast.Try(q, f, moves) {
		if at := moves[i].Address; d != nil {
			v.Steps[at] = append(v.Steps[at], effect{leads[i], units.Points(d.Yield, 1), units.Points(d.Strength, 2), seconds.Difference(float64(d.Time)), d.Tilt()})
		}
	}
	return v
}

// predicted are the knobs of which one step is predicted.
var predicted = []recipe.Knob{recipe.Dose, recipe.Ratio, recipe.IcePart, recipe.Dilute, recipe.Balance, recipe.LastPours, recipe.Grind, recipe.Temperature, recipe.Pours, recipe.Bloom, recipe.BloomTime, recipe.Gap, recipe.Rate, recipe.Release}

// oneStep turns each knob one step down and one up, the grind in steps of the
// person's own dial, and says where each leads.
func oneStep(sc *scene) (moves []forecast.Move, leads []string) {
	for _, k := range predicted {
		at := recipe.Of(k)
		if !sc.Recipe.Has(at) || k == recipe.Gap && sc.Recipe.Value(recipe.Of(recipe.Wait)) > 0 || k == recipe.Bloom && sc.Recipe.Value(at) == 0 {
			continue
		}
		now, by, limits := sc.value(at), k.Step(), k.Range()
		switch {
		case k == recipe.Grind && sc.Gear.Grinder.Step != 0:
			by = math.Abs(float64(sc.Gear.Grinder.Step))
		case k == recipe.Temperature:
			limits.Hi = float64(gear.Hottest(sc.Gear.Boiling))
		}
		for _, v := range []float64{now - by, now + by} {
			if limits.Holds(v) {
				moves, leads = append(moves, forecast.Move{Address: at, To: v}), append(leads, leadsTo(sc, at, now, v))
			}
		}
	}
	return moves, leads
}

// leadsTo says in a word or two where a step leads.
func leadsTo(sc *scene, at recipe.Address, now, v float64) string {
	u := sc.prefs.Unit(at.Knob.Kind())
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

// forecastFacts are the figures of a forecast, each with its error, and what matters
// for the way it is served.
func forecastFacts(r recipe.Recipe, f forecast.Forecast, prefs units.Prefs) []fact {
	water, heat := prefs.Unit(units.Water), prefs.Unit(units.Temperature)
	out := []fact{
		{"Drawdown", drawdown(f.Figures())},
		{"In the carafe", fmt.Sprintf("%s ± %s", water.Number(float64(f.Beverage)), water.Format(float64(f.BeverageError)))},
		{"TDS", fmt.Sprintf("%.2f ± %.2f %%", f.Strength.Value, f.Strength.Error)},
		{"EY", f.Yield.String()},
	}
	before := fact{"TDS before", fmt.Sprintf("%.2f %%", f.BrewedTDS)}
	switch r.Serving() {
	case recipe.OverIce:
		return append(out, before, fact{"Drink", fmt.Sprintf("%s, %s", heat.Format(float64(f.CupTemp)), iceLeft(f.IceLeft, prefs))})
	case recipe.Diluted:
		return append(out, before, fact{"In the cup at", heat.Format(float64(f.CupTemp))})
	}
	return append(out, fact{"Slurry", heat.Format(float64(f.SlurryMean))}, level(f, prefs))
}

func level(f forecast.Forecast, prefs units.Prefs) fact {
	u := prefs.Unit(units.Length)
	return fact{"Level", u.Number(f.TopLevel) + " of " + u.Format(f.Rim)}
}

func iceLeft(left units.Grams, prefs units.Prefs) string {
	if left < 1 {
		return "no ice left"
	}
	return prefs.Unit(units.Water).Format(float64(left)) + " of ice left"
}

// iceFacts are what the ice does: how much just melts, and what fresh ice in the glass
// makes of the drink.
func iceFacts(b sim.Brew, f forecast.Forecast, prefs units.Prefs) []fact {
	const cold, fresh, freezer = 5, 120, -18
	water, heat := prefs.Unit(units.Water), prefs.Unit(units.Temperature)
	glass := cup.Drink{Mass: f.Beverage, Heat: f.CupTemp, TDS: f.TDS}.OnIce(fresh, freezer)
	return []fact{
		{"The ice that just melts on the way to " + heat.Format(cold), water.Format(units.Round(float64(b.Below.MeltingIce(f.Brewed, f.BrewedTemp, cold)), -1))},
		{fmt.Sprintf("Served on %s of fresh ice", water.Format(fresh)), fmt.Sprintf("%s of it melts, TDS %.2f %% at %s", water.Format(float64(fresh-glass.Ice)), glass.TDS, heat.Format(float64(glass.Heat)))},
	}
}

func drawdown(f forecast.Figures) string {
	if !f.Drained {
		return "stalls"
	}
	return fmt.Sprintf("%s ± %s", f.Drawdown, f.DrawdownError)
}

// moreFacts are what the model expects besides what stands on the recipe.
func moreFacts(r recipe.Recipe, told sim.Brew, f forecast.Forecast, prefs units.Prefs) []fact {
	t := prefs.Unit(units.Temperature)
	out := []fact{
		{"First drip", f.FirstDrip.String()},
		{"Last water sinks in", f.Dry.String()},
		{"Stays in the grounds", fmt.Sprintf("%.2f × the dose", f.Retained)},
		{"Slurry at its hottest", t.Format(float64(f.SlurryPeak))},
		{"In the carafe at the end", t.Format(float64(f.CupTemp))},
		{"Uneven", fmt.Sprintf("%.0f\u00a0%% of the dose gives under %.0f\u00a0%%, %.0f\u00a0%% over %.0f\u00a0%%", 100*f.Below, f.Extracted-sim.Band, 100*f.Above, f.Extracted+sim.Band)},
		{"Given up by the grounds", fmt.Sprintf("bright %.0f\u00a0%%, sweet %.0f\u00a0%%, bitter %.0f\u00a0%%; its least certain figures", 100*f.Balance.Bright, 100*f.Balance.Sweet, 100*f.Balance.Bitter)},
	}
	if f.FirstDrip < 0 {
		out[0].Value = "none"
	}
	if r.Serving() != recipe.Hot {
		out = append(out, fact{"Slurry on average", t.Format(float64(f.SlurryMean))}, level(f, prefs))
	}
	if r.Serving() == recipe.OverIce {
		out = append(out, iceFacts(told, f, prefs)...)
	}
	return out
}

// tookFacts are what the model was told, so that it can be argued with.
func tookFacts(sc *scene, m sim.Brew) []fact {
	t, g := sc.prefs.Unit(units.Temperature), sc.Gear
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
		kettle = fmt.Sprintf("cools off the heat with %s in it, %s", sc.prefs.Unit(units.Water).Format(units.Round(float64(m.Kettle.Water), -1)), by)
	}
	return []fact{
		{"Coffee", fmt.Sprintf("%.1f %% soluble, at %.2f of the usual pace, %.0f %% of its gas", 100*m.Coffee.Soluble, m.Coffee.Rate, 100*m.Coffee.Gas)},
		{"Grind", fmt.Sprintf("%.1f %% fines from a %s; drains like even grains of %.0f µm", 100*m.Grind.Fines, g.Grinder.Burrs, float64(m.Grind.Sauter()))},
		{"Bed", sc.prefs.Unit(units.Length).Format(1000*m.Brewer.BedHeight(m.Dose)) + " high, levelled"},
		{"Brewer", fmt.Sprintf("%s, %s, %s", g.Brewer.Material, g.Brewer.Filter, warm)},
		{"Kettle", kettle},
		{"Around it", fmt.Sprintf("%s in the room, a %s carafe at %s", t.Format(float64(m.Ambient)), cmp.Or(sc.Recipe.Carafe, gear.Glass), t.Format(float64(m.Below.Warm)))},
	}
}

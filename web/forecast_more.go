package web

import (
	"fmt"

	"yardbloom/core/brew"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/sim"
	"yardbloom/core/units"
)

// moreFacts are what the model expects besides what stands on the recipe.
func moreFacts(f forecast.Forecast, prefs units.Prefs) []fact {
	t := prefs.Unit(units.Temperature)
	out := []fact{
		{"First drip", f.FirstDrip.String()},
		{"Last water sinks in", f.Dry.String()},
		{"Stays in the grounds", fmt.Sprintf("%.2f g per gram", f.Retained)},
		{"Slurry at its hottest", t.Format(float64(f.SlurryPeak))},
		{"In the carafe at the end", t.Format(float64(f.CupTemp))},
		{"Uneven", fmt.Sprintf("%.0f\u00a0%% of the dose gives under %.0f\u00a0%%, %.0f\u00a0%% over %.0f\u00a0%%", 100*f.Below, f.Extracted-sim.Band, 100*f.Above, f.Extracted+sim.Band)},
		{"Given up by the grounds", fmt.Sprintf("bright %.0f\u00a0%%, sweet %.0f\u00a0%%, bitter %.0f\u00a0%%; its least certain figures", 100*f.Balance.Bright, 100*f.Balance.Sweet, 100*f.Balance.Bitter)},
	}
	if f.FirstDrip < 0 {
		out[0].Value = "none"
	}
	return out
}

// tookFacts are what the model was told, so that it can be argued with.
func tookFacts(b brew.Brew, m sim.Brew, prefs units.Prefs) []fact {
	t := prefs.Unit(units.Temperature)
	warm := "cold"
	if b.Recipe.Rinse {
		warm = "warmed to " + t.Format(float64(m.Warm)) + " by the rinse"
	}
	kettle := "each pour at its own temperature"
	if m.Kettle.Rate > 0 {
		by := "by a rule of thumb"
		if b.Gear.Kettle.Taken() {
			by = "by its two readings"
		}
		kettle = fmt.Sprintf("cools off the heat with %s in it, %s", prefs.Unit(units.Water).Format(units.Round(float64(m.Kettle.Water), -1)), by)
	}
	return []fact{
		{"Coffee", fmt.Sprintf("%.1f %% soluble, at %.2f of the usual pace, %.0f %% of its gas", 100*m.Coffee.Soluble, m.Coffee.Rate, 100*m.Coffee.Gas)},
		{"Grind", fmt.Sprintf("%.1f %% fines from a %s; drains like even grains of %.0f µm", 100*m.Grind.Fines, b.Gear.Grinder.Burrs, float64(m.Grind.Sauter()))},
		{"Bed", fmt.Sprintf("%.0f mm high, levelled", 1000*m.Brewer.BedHeight(m.Dose))},
		{"Brewer", fmt.Sprintf("%s, %s, %s", b.Gear.Brewer.Material, b.Gear.Brewer.Filter, warm)},
		{"Kettle", kettle},
		{"Around it", fmt.Sprintf("%s in the room, a %s carafe at %s", t.Format(float64(m.Ambient)), gear.Glass, t.Format(float64(m.Below.Warm)))},
	}
}

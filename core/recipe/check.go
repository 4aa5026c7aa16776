package recipe

import (
	"fmt"
	"math"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// A Warning is something that would go wrong with this recipe and this gear:
// its cause and the smallest thing to do about it.
type Warning struct {
	Field Field
	Text  string
	Fix   Fix
}

// A Fix sets one field of the recipe to a value in its canonical unit. The zero Fix is none.
type Fix struct {
	Field Field
	Value float64
}

// kettleHeel is the water that does not come out of a kettle at a usable rate, g.
const kettleHeel = 80

// Check returns what would go wrong before anyone wets a filter.
func Check(r Recipe, b gear.Brewer, k gear.Kettle, boiling units.Celsius, prefs units.Prefs) []Warning {
	form := b.Kind.Form()
	dose, water := prefs.Unit(units.Dose), prefs.Unit(units.Water)
	need := r.Water + kettleHeel
	checks := []struct {
		wrong bool
		Warning
	}{
		{float64(r.Dose) < form.Dose.Lo, Warning{Dose, fmt.Sprintf("A thin bed drains too fast: %s wants at least %s.", article(form.Name), dose.Format(form.Dose.Lo)), Fix{Dose, form.Dose.Lo}}},
		{float64(r.Dose) > form.Dose.Hi, Warning{Dose, fmt.Sprintf("A deep bed drains slowly and may clog: %s takes up to %s.", article(form.Name), dose.Format(form.Dose.Hi)), Fix{Dose, form.Dose.Hi}}},
		{form.Immersion && r.Water+r.Dose*swell > b.Holds, Warning{Water, fmt.Sprintf("The valve holds all of the water back, and %s takes %s with this dose: it would run over.", b.Name, water.Format(float64(b.Holds-r.Dose*swell))), Fix{Water, math.Floor(float64(b.Holds - r.Dose*swell))}}},
		{k.Capacity > 0 && need > k.Capacity, Warning{Water, fmt.Sprintf("%s holds %s: fill it a second time, or brew less.", k.Name, water.Format(float64(k.Capacity))), Fix{}}},
		{r.Temperature > boiling+0.5, Warning{Temperature, fmt.Sprintf("Water boils at %s here: it gets no hotter.", prefs.Unit(units.Temperature).Format(float64(boiling))), Fix{Temperature, math.Floor(float64(boiling))}}},
		{r.Ratio() < UsualRatio.Lo || r.Ratio() > UsualRatio.Hi, Warning{Ratio, fmt.Sprintf("Most cups are between 1 : %s and 1 : %s.", units.Trim(UsualRatio.Lo, 0), units.Trim(UsualRatio.Hi, 0)), Fix{Ratio, max(UsualRatio.Lo, min(UsualRatio.Hi, r.Ratio()))}}},
		{r.Style.Style().Bloom > 0 && r.Bloom < 1.5, Warning{Bloom, "So little water leaves dry spots: twice the dose is the least that wets a bed.", Fix{Bloom, 2}}},
	}
	var out []Warning
	for _, c := range checks {
		if c.wrong {
			out = append(out, c.Warning)
		}
	}
	return out
}

// swell is the room that 1 g of grounds takes up in the slurry, g of water.
const swell = 0.75

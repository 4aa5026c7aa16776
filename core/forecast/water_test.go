package forecast

import (
	"strings"
	"testing"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/core/water"
)

func inWater(hardness, alkalinity float64, roast coffee.Roast) Question {
	r := recipe.ThreeRounds.Style().Generate(18, 297, 94)
	r.Grind = 650
	return Question{Recipe: r, Bag: coffee.Bag{Roast: roast}, Gear: gear.Set{
		Brewer:  gear.Brewer{Kind: gear.OpenCone, Material: gear.Plastic, Filter: gear.StandardPaper, Holds: 500},
		Grinder: gear.Grinder{Burrs: gear.ConicalBurr}, Kettle: gear.Kettle{Thermostat: true}, Boiling: 100,
		Water: water.Water{ID: "water", Source: water.Mixed, TypedHardness: hardness, TypedAlkalinity: alkalinity, Known: true}}}
}

// Model and warnings read the water: hardness moves the yield a little, alkalinity takes acids, and a water that makes a cup flat,
// thin or chalky is named before anybody blames the grind. Mutations caught: a water that is not read, a warning for dark coffee.
func TestWaterIsInTheForecast(t *testing.T) {
	predicted := func(q Question) (Forecast, string) {
		f, err := Predict(q)
		if err != nil {
			t.Fatal(err)
		}
		said := ""
		for _, w := range Check(q, f, units.Prefs{}) {
			said += w.Text + " "
		}
		return f, said
	}
	soft, thin := predicted(inWater(5, 40, coffee.Light))
	hard, chalky := predicted(inWater(300, 40, coffee.Light))
	if d := hard.Yield.Value - soft.Yield.Value; d < 0.1 || d > 1.2 {
		t.Errorf("hard water gives %.2f points more", d)
	}
	usual, fine := predicted(inWater(80, 40, coffee.Light))
	_, flat := predicted(inWater(80, 220, coffee.Light))
	_, dark := predicted(inWater(80, 220, coffee.Dark))
	for _, c := range []struct {
		said, want string
		is         bool
	}{{thin, "tastes thin", true}, {chalky, "dull", true}, {flat, "neutralizes about", true}, {fine, "mg/l", false}, {dark, "neutralizes", false}} {
		if strings.Contains(c.said, c.want) != c.is {
			t.Errorf("%q in %q: want %t", c.want, c.said, c.is)
		}
	}
	share, known := inWater(80, 50, coffee.MediumLight).Buffered(usual.Strength.Value)
	if !known || share < 0.08 || share > 0.18 {
		t.Errorf("50 mg/l neutralize %.2f of the acids (%t)", share, known)
	}
	if _, known := (Question{}).Buffered(1.4); known {
		t.Error("without a water something is known of it")
	}
}

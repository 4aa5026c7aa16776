package brew

import (
	"slices"
	"strings"
	"testing"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

func items(r recipe.Recipe, g gear.Set) map[string]SetupItem {
	out := map[string]SetupItem{}
	for _, it := range (Setup{Recipe: r, Set: g}).Checklist() {
		out[it.ID] = it
	}
	return out
}

func TestChecklistFollowsTheGear(t *testing.T) {
	mill := gear.Grinder{Burrs: gear.HandMill, Loss: 0.3, Dial: gear.Dial{Kind: gear.Clicks, Zero: 50, Step: 20}}
	r := recipe.ThreeRounds.Style().Generate(18, 297, 94)
	r.Grind, r.Rinse = 650, true
	cone := items(r, gear.Set{Brewer: gear.Brewer{Kind: gear.OpenCone, Material: gear.Plastic, Filter: gear.StandardPaper}, Grinder: mill,
		Kettle: gear.Kettle{Thermostat: true}, Boiling: 100})
	if cone["kettle"].Value != "94\u00a0°C" || cone["weigh"].Value != "18.3\u00a0g" || cone["grind"].Value != "30 clicks" {
		t.Errorf("figures on the list: %q, %q, %q", cone["kettle"].Value, cone["weigh"].Value, cone["grind"].Value)
	}
	for id, want := range map[string]bool{"rinse": true, "tip": true, "well": true, "valve": false, "warm": false, "boil": false,
		"shut": false} {
		if _, got := cone[id]; got != want {
			t.Errorf("plastic cone: %q on the list is %v", id, got)
		}
	}

	steeped := r
	steeped.Release = 165
	steeper := items(steeped, gear.Set{Brewer: gear.Brewer{Kind: gear.ValveSteeper, Material: gear.Glass, Filter: gear.StandardPaper},
		Grinder: mill, Kettle: gear.Kettle{}, Boiling: 100})
	for id, want := range map[string]bool{"valve": true, "tip": false, "warm": true, "boil": true, "shut": true, "well": false} {
		if _, got := steeper[id]; got != want {
			t.Errorf("glass steeper, no thermostat: %q on the list is %v", id, got)
		}
	}
	if !strings.HasPrefix(steeper["boil"].Value, "about ") {
		t.Errorf("the wait off the boil reads %q", steeper["boil"].Value)
	}

	r.Rinse = false
	flat := items(r, gear.Set{Brewer: gear.Brewer{Kind: gear.FlatBed, Filter: gear.CorrugatedPaper}, Grinder: mill})
	if _, dry := flat["dry"]; !dry {
		t.Error("no advice to leave the corrugated paper dry")
	}
}

// With a valve, the water is let out before the brewer is tipped.
func TestValveIsOpenedBeforeTheWaterIsTippedOut(t *testing.T) {
	list := Setup{Recipe: recipe.Recipe{Rinse: true, Release: 165},
		Set: gear.Set{Brewer: gear.Brewer{Kind: gear.ValveSteeper, Filter: gear.StandardPaper}}}.Checklist()
	at := func(id string) int { return slices.IndexFunc(list, func(i SetupItem) bool { return i.ID == id }) }
	if !(at("rinse") < at("valve") && at("valve") < at("weigh") && at("grind") < at("shut")) {
		t.Errorf("the order is %v", list)
	}
}

func TestCautionsApplyWhereTheyApply(t *testing.T) {
	say := func(r recipe.Recipe, g gear.Set) string {
		return strings.Join(Setup{Recipe: r, Set: g}.Cautions(), " ")
	}
	steeper := say(recipe.Recipe{Release: 165}, gear.Set{Brewer: gear.Brewer{Kind: gear.ValveSteeper, Material: gear.Plastic},
		Grinder: gear.Grinder{Burrs: gear.HandMill}})
	cone := say(recipe.Recipe{}, gear.Set{Brewer: gear.Brewer{Kind: gear.OpenCone, Material: gear.Glass},
		Grinder: gear.Grinder{Burrs: gear.FlatBurr}})
	for text, want := range map[string][2]bool{"valve": {true, false}, "tips": {false, true}, "crack": {false, true},
		"Unplug": {false, true}, "scalds": {true, true}, "steam": {true, true}} {
		if got := [2]bool{strings.Contains(steeper, text), strings.Contains(cone, text)}; got != want {
			t.Errorf("%q applies to steeper and cone: %v, want %v", text, got, want)
		}
	}
}

// Each serving has its own steps and cautions.
func TestChecklistFollowsTheServing(t *testing.T) {
	g := gear.Set{Brewer: gear.Brewer{Kind: gear.OpenCone, Material: gear.Plastic, Filter: gear.StandardPaper},
		Grinder: gear.Grinder{Burrs: gear.Blade}, Kettle: gear.Kettle{Capacity: 900}, Boiling: 100}
	iced := recipe.IceHotAndSlow.Style().Generate(18, 270, 94)
	iced.Rinse, iced.Grind = true, 560
	list := items(iced, g)
	for id, want := range map[string]bool{"ice": true, "cold": true, "cup": false, "keep": false, "chop": true, "grind": false,
		"boil": true} {
		if _, got := list[id]; got != want {
			t.Errorf("over ice: %q on the list is %v", id, got)
		}
	}
	if list["ice"].Value != "113\u00a0g" || list["chop"].Value != "about 16\u00a0s" || list["boil"].Wait < 20 {
		t.Errorf("figures: %q of ice, chop for %q, wait %v", list["ice"].Value, list["chop"].Value, list["boil"].Wait)
	}
	cautions := strings.Join(Setup{Recipe: iced, Set: g}.Cautions(), " ")
	if !strings.Contains(cautions, "on ice can crack") || !strings.Contains(cautions, "local food rules") ||
		strings.Contains(cautions, "scalds") {
		t.Errorf("over ice it cautions: %s", cautions)
	}
	diluted := items(recipe.Concentrate.Style().Generate(18, 288, 94), g)
	if diluted["keep"].Value != "86\u00a0g" {
		t.Errorf("diluted: %+v", diluted["keep"])
	}
	g.Brewer.Kind = gear.ValveSteeper
	open := items(recipe.ThreeRounds.Style().Generate(18, 297, 94), g)
	if _, left := open["open"]; !left {
		t.Error("no advice to leave the steeper's valve open")
	}
}

// Mutations caught: rinse or hot dilution water missing from the kettle, cold dilution water counted, the
// heel forgotten.
func TestKettleHoldsAllHotWater(t *testing.T) {
	plastic := gear.Brewer{Kind: gear.OpenCone, Material: gear.Plastic, Filter: gear.StandardPaper}
	glass := plastic
	glass.Material = gear.Glass
	cold, hot := recipe.ThreeRounds.Style().Generate(18, 300, 94), recipe.ThreeRounds.Style().Generate(18, 300, 94)
	cold.Dilution, hot.Dilution = recipe.Dilution{Water: 80, Temperature: 15}, recipe.Dilution{Water: 80, Temperature: 90}
	rinsed := recipe.ThreeRounds.Style().Generate(18, 300, 94)
	rinsed.Rinse = true
	for _, c := range []struct {
		name   string
		recipe recipe.Recipe
		brewer gear.Brewer
		want   units.Grams // for the brew, without the heel of the kettle
	}{
		{"no rinse", recipe.ThreeRounds.Style().Generate(18, 300, 94), plastic, 300},
		{"rinsed filter", rinsed, plastic, 450},
		{"warmed brewer", recipe.ThreeRounds.Style().Generate(18, 300, 94), glass, 450},
		{"cold dilution", cold, plastic, 300},
		{"hot dilution", hot, plastic, 380},
	} {
		kettle := gear.Kettle{Capacity: 2000}
		job := Setup{Recipe: c.recipe, Set: gear.Set{Brewer: c.brewer, Kettle: kettle, Boiling: 100}}
		if got, want := job.fill(), kettle.Fill(c.want); got != want || want < c.want+gear.Heel-1 {
			t.Errorf("%s: fill %v g, want %v g", c.name, got, want)
		}
	}
}

package setup

import (
	"slices"
	"strings"
	"testing"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

func items(r recipe.Recipe, g gear.Set) map[string]Item {
	out := map[string]Item{}
	for _, it := range Checklist(r, g, units.Prefs{}) {
		out[it.ID] = it
	}
	return out
}

func TestTheChecklistFollowsTheGear(t *testing.T) {
	mill := gear.Grinder{Burrs: gear.HandMill, Loss: 0.3, Dial: gear.Dial{Kind: gear.Clicks, Zero: 50, Step: 20}}
	r := recipe.ThreeRounds.Style().Write(18, 297, 94)
	r.Grind, r.Rinse = 650, true
	cone := items(r, gear.Set{Brewer: gear.Brewer{Kind: gear.OpenCone, Material: gear.Plastic, Filter: gear.StandardPaper}, Grinder: mill, Kettle: gear.Kettle{Thermostat: true}, Boiling: 100})
	if cone["kettle"].Value != "94\u00a0°C" || cone["weigh"].Value != "18.3\u00a0g" || cone["grind"].Value != "30 clicks" {
		t.Errorf("figures on the list: %q, %q, %q", cone["kettle"].Value, cone["weigh"].Value, cone["grind"].Value)
	}
	for id, want := range map[string]bool{"rinse": true, "tip": true, "well": true, "valve": false, "warm": false, "boil": false, "shut": false} {
		if _, got := cone[id]; got != want {
			t.Errorf("plastic cone: %q on the list is %v", id, got)
		}
	}

	steeper := items(r, gear.Set{Brewer: gear.Brewer{Kind: gear.ValveSteeper, Material: gear.Glass, Filter: gear.StandardPaper}, Grinder: mill, Kettle: gear.Kettle{}, Boiling: 100})
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
		t.Error("nobody says to leave the corrugated paper dry")
	}
}

// With a valve, the water is let out before the brewer is tipped.
func TestTheValveIsOpenedBeforeTheWaterIsTippedOut(t *testing.T) {
	list := Checklist(recipe.Recipe{Rinse: true}, gear.Set{Brewer: gear.Brewer{Kind: gear.ValveSteeper, Filter: gear.StandardPaper}}, units.Prefs{})
	at := func(id string) int { return slices.IndexFunc(list, func(i Item) bool { return i.ID == id }) }
	if !(at("rinse") < at("valve") && at("valve") < at("weigh") && at("grind") < at("shut")) {
		t.Errorf("the order is %v", list)
	}
}

func TestCautionsApplyWhereTheyApply(t *testing.T) {
	say := func(g gear.Set) string { return strings.Join(Cautions(recipe.Recipe{}, g), " ") }
	steeper := say(gear.Set{Brewer: gear.Brewer{Kind: gear.ValveSteeper, Material: gear.Plastic}, Grinder: gear.Grinder{Burrs: gear.HandMill}})
	cone := say(gear.Set{Brewer: gear.Brewer{Kind: gear.OpenCone, Material: gear.Glass}, Grinder: gear.Grinder{Burrs: gear.FlatBurr}})
	for text, want := range map[string][2]bool{"valve": {true, false}, "tips": {false, true}, "crack": {false, true}, "Unplug": {false, true}, "scalds": {true, true}, "steam": {true, true}} {
		if got := [2]bool{strings.Contains(steeper, text), strings.Contains(cone, text)}; got != want {
			t.Errorf("%q is said for steeper and cone: %v, want %v", text, got, want)
		}
	}
}

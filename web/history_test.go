package web

import (
	"context"
	"net/http"
	"strings"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A brew is shown as it was planned, foretold and advised then, by tables that are
// gone: nothing of it is worked out anew.
func TestAnOldBrewIsShownAsItWasSaidThen(t *testing.T) {
	t.Parallel()
	v := visit(t)
	b, err := v.store.Brew(context.Background(), "slate-terrace-4")
	if err != nil {
		t.Fatal(err)
	}
	b.ID, b.Parent, b.Asked = "golden", "", nil
	b.Started, b.Ended = b.Started.Add(time.Hour), b.Ended.Add(time.Hour)
	b.Events = append([]brew.Event(nil), b.Events...)
	b.Events[0].Instant = b.Started
	b.Recipe.Style = "a-style-that-is-gone"
	b.Plan = recipe.Plan{Finish: 411, Steps: []recipe.Step{{Act: recipe.PourWater, Water: 77, Total: 77, Lasts: 20, Rate: 4, Temperature: 93}, {Act: recipe.PourWater, Start: 60, Water: 220, Total: 297, Lasts: 50, Rate: 4, Temperature: 93}}}
	b.Plan.Window.From, b.Plan.Window.To = 400, 420
	b.Forecast = &forecast.Figures{Drawdown: 599, DrawdownError: 61, Drained: true, Strength: cup.Figure{Value: 2.22}, Yield: cup.Figure{Value: 27.7, Error: 0.3}}
	b.Advice = &coach.Advice{Rule: "gone", Verdict: "As it was said then", Because: "Because of a rule that is gone.", Sure: coach.Perhaps, Evidence: []string{"The moon was full."},
		First:  &coach.Proposal{Change: recipe.Change{Address: recipe.Of(recipe.Grind), From: float64(b.Recipe.Grind), To: 626}, Say: "three steps coarser", LeadsTo: "7 (626 µm)", Effect: coach.Effect{Yield: -3.3, Time: -45}},
		Second: &coach.Proposal{Change: recipe.Change{Address: recipe.Address{Knob: recipe.Temperature, Pour: 2}, From: 93, To: 85}, Say: "pour 2: 8 °C cooler", LeadsTo: "85 °C"}}
	if err := v.store.Keep(context.Background(), b); err != nil {
		t.Fatal(err)
	}
	for path, says := range map[string][]string{
		"/brews/golden":        {"9:59 ± 1:01, TDS 2.22 %, EY 27.7 ± 0.3 %", "As it was said then", "three steps coarser", "aim 6:51", ">77<"},
		"/brews/golden/next":   {"As it was said then", "The moon was full.", "7 (626 µm)", "EY about −3.3 points, drawdown about −45 s", "pour 2: 8 °C cooler"},
		"/brews/golden/recipe": {"The recipe as it was poured", "aim 6:51"},
		"/brews/golden/cup":    {"three steps coarser", "6:40 to 7:00"},
	} {
		code, page := v.get(path)
		for _, s := range says {
			if code != http.StatusOK || !strings.Contains(page, s) {
				t.Errorf("%s: status %d, does not say %q", path, code, s)
			}
		}
	}
	// What was advised is what is brewed, whatever the coach would say today.
	_, _, header := v.send("POST", "/brews/golden/again", map[string][]string{"choice": {"first"}})
	id := strings.TrimSuffix(strings.TrimPrefix(header.Get("Location"), "/brews/"), "/recipe")
	if d, _, err := v.store.Draft(context.Background(), id); err != nil || d.Recipe.Grind != 626 || d.Parent != "golden" {
		t.Errorf("brewing with the advice: %+v, %v", d.Recipe, err)
	}
	// A tasting that is kept again is advised anew, from what the coach knows now.
	if code, _ := v.post("/brews/golden/cup", "beverage", "260", "tds", "1.4", "drawdown", units.Seconds(200).String(), "warm.sweetness", "4", "serve", "yes"); code != http.StatusSeeOther {
		t.Errorf("tasting again: status %d", code)
	}
	if _, page := v.get("/brews/golden/next"); !strings.Contains(page, `text-[1.7rem]">Good enough is a result`) || !strings.Contains(page, "<li>As it was said then: ") {
		t.Error("another tasting has the old advice, or forgets that it was said")
	}
}

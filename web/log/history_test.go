package log_test

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
	"yardbloom/web/webtest"
)

// An old brew is shown with its original plan, prediction and advice, although the tables have changed.
func TestOldBrewKeepsItsAdvice(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	b, err := v.Store.Brew(context.Background(), "slate-terrace-4")
	if err != nil {
		t.Fatal(err)
	}
	b.ID, b.Parent, b.Advised = "golden", "", nil
	b.Started, b.Ended = b.Started.Add(time.Hour), b.Ended.Add(time.Hour)
	b.Events = append([]brew.Event(nil), b.Events...)
	b.Events[0].Instant = b.Started
	b.Recipe.Style = "a-style-that-is-gone"
	b.Plan = recipe.Plan{Finish: 411, Steps: []recipe.Step{{Act: recipe.PourWater, Water: 77, Total: 77, Lasts: 20, Rate: 4,
		Temperature: 93}, {Act: recipe.PourWater, Start: 60, Water: 220, Total: 297, Lasts: 50, Rate: 4, Temperature: 93}}}
	b.Plan.Window.From, b.Plan.Window.To = 400, 420
	b.Forecast = &forecast.Figures{Drawdown: 599, DrawdownError: 61, Drained: true, Strength: cup.Figure{Value: 2.22},
		Yield: cup.Figure{Value: 27.7, Error: 0.3}}
	b.Advice = &coach.Advice{Rule: "gone", Verdict: "As it was said then", Because: "Because of a rule that is gone.", Sure: coach.Perhaps,
		Evidence: []string{"The moon was full."},
		First: &coach.Proposal{Change: recipe.Change{Address: recipe.AddressOf(recipe.Grind), From: float64(b.Recipe.Grind), To: 626},
			Say: "three steps coarser", LeadsTo: "7 (626 µm)", Effect: coach.Effect{Yield: -3.3, Time: -45}},
		Second: &coach.Proposal{Change: recipe.Change{Address: recipe.Address{Knob: recipe.Temperature, Pour: 2}, From: 93, To: 85},
			Say: "pour 2: 8 °C cooler", LeadsTo: "85 °C"}}
	b.Tastings = []brew.Tasting{{Cup: b.Cup, Advice: b.Advice}}
	if err := v.Store.AddBrews(context.Background(), b); err != nil {
		t.Fatal(err)
	}
	for path, says := range map[string][]string{
		"/brews/golden": {"9:59 ± 1:01, TDS 2.22 %, EY 27.7 ± 0.3 %", "As it was said then", "three steps coarser", "aim 6:51",
			">77<"},
		"/brews/golden/next": {"As it was said then", "The moon was full.", "7 (626 µm)", "EY about −3.3 points, drawdown about −45 s",
			"pour 2: 8 °C cooler"},
		"/brews/golden/recipe": {"The recipe as poured", "aim 6:51"},
		"/brews/golden/cup":    {"three steps coarser", "6:40 to 7:00"},
	} {
		code, page := v.Get(path)
		for _, s := range says {
			if code != http.StatusOK || !strings.Contains(page, s) {
				t.Errorf("%s: status %d, does not say %q", path, code, s)
			}
		}
	}
	// Brewing again uses the stored advice, whatever the coach would advise today.
	_, _, header := v.Send("POST", "/brews/golden/again", map[string][]string{"choice": {"first"}})
	id := strings.TrimSuffix(strings.TrimPrefix(header.Get("Location"), "/brews/"), "/recipe")
	if d, _, err := v.Store.Draft(context.Background(), id); err != nil || d.Recipe.Grind != 626 || d.Parent != "golden" {
		t.Errorf("brewing with the advice: %+v, %v", d.Recipe, err)
	}
	// Saving a tasting again gives new advice.
	if code, _ := v.Post("/brews/golden/cup", "beverage", "260", "tds", "1.4", "drawdown", units.Seconds(200).String(), "warm.sweetness",
		"4", "serve", "yes"); code != http.StatusSeeOther {
		t.Errorf("tasting again: status %d", code)
	}
	if _, page := v.Get("/brews/golden/next"); !strings.Contains(page, `text-[1.7rem]">Good enough is a result`) ||
		!strings.Contains(page, "<li>As it was said then: ") {
		t.Error("another tasting has the old advice, or does not show it")
	}
}

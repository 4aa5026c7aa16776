package recipe_test

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"testing"

	"yardbloom/core/forecast"
	"yardbloom/web/webtest"
)

func TestAnyTwoAmountsOnThePage(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	for _, step := range []struct{ name, typed, dose, water, ratio string }{
		{"dose", "20", "20", "330", "16.5"},   // ratio and dose are held: the water follows
		{"water", "300", "20", "300", "15"},   // dose and water were typed last
		{"ratio", "16", "18.8", "300", "16"},  // now water and ratio
		{"dose", "18,5", "18.5", "296", "16"}, // a comma is a decimal sign
	} {
		code, got, body := v.Recipe(step.name, step.typed)
		if code != http.StatusOK || got.Get("dose") != step.dose || got.Get("water") != step.water || got.Get("ratio") != step.ratio {
			t.Errorf("%s %s: status %d gives dose %s, water %s, ratio %s; want %s, %s, %s\n%s", step.name, step.typed, code,
				got.Get("dose"), got.Get("water"), got.Get("ratio"), step.dose, step.water, step.ratio, webtest.ErrorsIn(body))
		}
	}
}

func TestSteppingTheDoseKeepsTheRatio(t *testing.T) {
	if testing.Short() {
		t.Skip("one goroutine works for long: nothing for the race detector")
	}
	t.Parallel()
	v := webtest.Visit(t)
	var got url.Values
	for _, way := range []struct {
		to    float64
		water string
	}{{9, "149"}, {30, "495"}, {18, "297"}} {
		for dose, _ := strconv.ParseFloat(cmp.Or(got.Get("dose"), "18"), 64); dose != way.to; {
			dose += math.Copysign(0.5, way.to-dose)
			_, got, _ = v.Recipe("dose", fmt.Sprint(dose))
		}
		if got.Get("ratio") != "16.5" || got.Get("water") != way.water {
			t.Errorf("stepped to %v g the ratio is %s with %s g of water", way.to, got.Get("ratio"), got.Get("water"))
		}
	}
}

func TestInvalidInputStaysWithASentence(t *testing.T) {
	if testing.Short() {
		t.Skip("one goroutine works for long: nothing for the race detector")
	}
	t.Parallel()
	for _, c := range []struct{ name, typed, says string }{
		{"ratio", "0", "can be 6 to 25"},
		{"dose", "-3", "The dose can be 5 to 120 g"},
		{"dose", "eighteen", "is not a number"},
		{"dose", "10000", "The dose can be 5 to 120 g"},
		{"water", "10 kg", "The water can be 60 to 2000 g; 10000 g is outside that"},
		{"water", "94 C", "is a temperature, which is not valid here"},
		{"cup", "", "Type a number"},
		{"temperature", "120", "can be 70 to 100 °C"},
		{"setting", "900", "grinds range from"},
		{"grind", "<script>alert(1)</script>", "is not a number"},
		{"bloom_time", strings.Repeat("9", 5000), "is not a number"},
	} {
		v := webtest.Visit(t)
		_, before, _ := v.Recipe()
		code, got, body := v.Recipe(c.name, c.typed)
		if code != http.StatusUnprocessableEntity || !strings.Contains(body, c.says) {
			t.Errorf("%s %q: status %d, errors %v; want %q", c.name, webtest.Short(c.typed), code, webtest.ErrorsIn(body), c.says)
		}
		// It is still there after a reload, and the brew cannot begin.
		_, page := v.Get(fmt.Sprintf("/brews/%s/recipe", webtest.Planned))
		if kept := webtest.Fields(page).Get(c.name); kept != c.typed {
			t.Errorf("%s %q: after a reload it reads %q", c.name, webtest.Short(c.typed), webtest.Short(kept))
		}
		if code, _ := v.Post(fmt.Sprintf("/brews/%s/start", webtest.Planned)); code != http.StatusUnprocessableEntity {
			t.Errorf("%s %q: the brew began with status %d", c.name, webtest.Short(c.typed), code)
		}
		// Correcting the one field makes everything valid; the rest was never lost.
		if code, mended, _ := v.Recipe(c.name, before.Get(c.name)); code != http.StatusOK || mended.Get("water") != before.Get("water") {
			t.Errorf("%s: the fix gives status %d and %s g of water, was %s", c.name, code, mended.Get("water"), before.Get("water"))
		}
		_ = got
	}
}

func TestInvalidFieldStaysWhileAnotherIsEdited(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	v.Recipe("ratio", "sixteen")
	code, got, body := v.Recipe("temperature", "95")
	if code != http.StatusUnprocessableEntity || got.Get("ratio") != "sixteen" || got.Get("temperature") != "95" ||
		len(webtest.ErrorsIn(body)) != 1 {
		t.Errorf("status %d, ratio %q, temperature %s, errors %v", code, got.Get("ratio"), got.Get("temperature"), webtest.ErrorsIn(body))
	}
	if code, got, _ = v.Recipe("ratio", "16"); code != http.StatusOK || got.Get("temperature") != "95" || got.Get("water") != "288" {
		t.Errorf("fixed: status %d, %s at %s", code, got.Get("water"), got.Get("temperature"))
	}
}

// A queued request has the values that its page showed; only fields changed on that page count.
func TestQueuedRequestChangesOnlyEditedFields(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	path := fmt.Sprintf("/brews/%s/recipe", webtest.Planned)
	_, page := v.Get(path)
	first, queued := webtest.Fields(page), webtest.Fields(page)
	first.Set("dose", "18.5")
	queued.Set("dose", "20.5")
	v.Send("POST", path, first)
	_, body, _ := v.Send("POST", path, queued)
	if got := webtest.Fields(body); got.Get("dose") != "20.5" || got.Get("water") != "338" || got.Get("ratio") != "16.5" {
		t.Errorf("dose %s, water %s, ratio %s; want 20.5, 338, 16.5", got.Get("dose"), got.Get("water"), got.Get("ratio"))
	}
}

// Behind a slow server a page can be one request old: a fix has set the water and kept the ratio, then a
// dose is typed on a page that shows the water as typed. Mutation caught: that water counts as typed again,
// which gives a ratio of 1 : 44.
func TestStalePageKeepsTheRatio(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	path := fmt.Sprintf("/brews/%s/recipe", webtest.Planned)
	_, page, _ := v.Send("POST", path, withValues(v, path, "dose", "48.5"))
	fix, typed := webtest.Fields(page), webtest.Fields(page)
	fix.Set("water", "600")
	fix.Set("keep", "ratio")
	v.Send("POST", path, fix)
	typed.Set("water", "600")
	typed.Set("dose", "18")
	_, body, _ := v.Send("POST", path, typed)
	if got := webtest.Fields(body); got.Get("dose") != "18" || got.Get("water") != "297" || got.Get("ratio") != "16.5" {
		t.Errorf("dose %s, water %s, ratio %s; want 18, 297, 16.5", got.Get("dose"), got.Get("water"), got.Get("ratio"))
	}
}

// withValues returns the form of a page with one field replaced.
func withValues(v *webtest.Visitor, path, name, value string) url.Values {
	_, page := v.Get(path)
	form := webtest.Fields(page)
	form.Set(name, value)
	return form
}

func TestSettingAndSizeAgree(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	_, got, _ := v.Recipe("setting", "24") // the apron mill: 60 µm at 0, 27 µm a click
	if got.Get("grind") != "708" {
		t.Errorf("24 clicks are %s µm, want 708", got.Get("grind"))
	}
	_, got, _ = v.Recipe("grind", "600")
	if got.Get("setting") != "20" || got.Get("grind") != "600" {
		t.Errorf("600 µm are %s clicks (%s µm), want 20", got.Get("setting"), got.Get("grind"))
	}
	_, got, _ = v.Recipe("grinder", "bench-grinder", "setting", "6.5") // the bench grinder: 290 µm at 0, 24 µm a half
	if got.Get("setting") != "6.5" || got.Get("grind") != "602" {
		t.Errorf("on the other grinder: %s (%s µm), want 6.5 (602 µm)", got.Get("setting"), got.Get("grind"))
	}
}

// Mutations caught: a blade that keeps the size of a burr grinder (predicted drawdown above eleven
// minutes), an Undo that restores only the gear.
func TestGearChangeRecalculatesTheGrind(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	drains := func() forecast.Forecast {
		d, _, err := v.Store.Draft(t.Context(), webtest.Planned)
		if err != nil {
			t.Fatal(err)
		}
		d.Beliefs = v.Yard.BeliefsOf(d.Sheet)
		f, err := forecast.Predict(d.Question(v.Now()))
		if err != nil {
			t.Fatal(err)
		}
		return f
	}
	_, before, _ := v.Recipe()
	was := drains()
	_, got, body := v.Recipe("grinder", "old-blade")
	if !strings.Contains(body, "The grind was recalculated for Old blade") || got.Get("grind") == before.Get("grind") {
		t.Errorf("on a blade: %s µm, was %s; %v", got.Get("grind"), before.Get("grind"), webtest.ErrorsIn(body))
	}
	if is := drains(); is.Drawdown > was.Drawdown+150 || is.Yield.Value < 18 {
		t.Errorf("on a blade it is predicted to drain in %s with %.1f %%, was %s with %.1f %%", is.Drawdown, is.Yield.Value, was.Drawdown,
			was.Yield.Value)
	}
	_, got, body = v.Recipe("edit", "undo")
	if got.Get("grinder") != before.Get("grinder") || got.Get("grind") != before.Get("grind") || strings.Contains(body, "recalculated") {
		t.Errorf("one undo leaves %s at %s µm, want %s at %s", got.Get("grinder"), got.Get("grind"), before.Get("grinder"),
			before.Get("grind"))
	}
	if _, _, body = v.Recipe("kettle", "stove-kettle"); strings.Contains(body, "recalculated") {
		t.Error("another kettle changed the grind")
	}
}

func TestOtherBrewerChangesTheStyle(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	_, got, body := v.Recipe("brewer", "shed-steeper")
	if got.Get("style") != "steep-and-release" || got.Get("release") == "" || !strings.Contains(body, "Open the valve") {
		t.Errorf("a valve steeper is poured as %q", got.Get("style"))
	}
	_, got, body = v.Recipe("brewer", "window-cone")
	if got.Get("style") != "three-rounds" || got.Get("bloom") != "3" || strings.Contains(body, "Open the valve") {
		t.Errorf("back on the cone it is poured as %q with a bloom of %q", got.Get("style"), got.Get("bloom"))
	}
}

// Clearing the steep would leave the valve closed for good.
func TestClearedSteepIsRequired(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	_, before, _ := v.Recipe("brewer", "shed-steeper")
	code, _, body := v.Recipe("release", "")
	if code != http.StatusUnprocessableEntity || !strings.Contains(body, "Type a time") || !strings.Contains(body, "Open the valve") {
		t.Errorf("status %d, %v", code, webtest.ErrorsIn(body))
	}
	if code, got, _ := v.Recipe("release", before.Get("release")); code != http.StatusOK || got.Get("release") != before.Get("release") {
		t.Errorf("typed again: status %d, steep %s", code, got.Get("release"))
	}
}

func TestRecipeIsSolvedForAFigure(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	path := fmt.Sprintf("/brews/%s/solve", webtest.Planned)
	_, before, _ := v.Recipe()
	code, body := v.Post(path, "goal", "goal_drain", "goal_drain", "2:45")
	if code != http.StatusOK || webtest.Fields(body).Get("setting") != before.Get("setting") ||
		webtest.Fields(body).Get("goal_drain") != "2:45" {
		t.Errorf("asking for ways to 2:45: status %d, %s clicks", code, webtest.Fields(body).Get("setting"))
	}
	for _, says := range []string{"By the grind", "By the ratio", "By the water", "clicks coarser", "No temperature reaches it"} {
		if !strings.Contains(body, says) {
			t.Errorf("the ways to 2:45 do not say %q", says)
		}
	}
	code, body = v.Post(path, "goal", "goal_drain/grind", "goal_drain", "2:45")
	if code != http.StatusOK || webtest.Fields(body).Get("setting") == before.Get("setting") ||
		webtest.Fields(body).Get("ratio") != before.Get("ratio") {
		t.Errorf("taking the grind: status %d, %s clicks", code, webtest.Fields(body).Get("setting"))
	}
	_, before, _ = v.Recipe()
	code, body = v.Post(path, "goal", "goal_strength/ratio", "goal_strength", "1,40")
	if got := webtest.Fields(body); code != http.StatusOK || got.Get("cup") != before.Get("cup") ||
		got.Get("ratio") == before.Get("ratio") {
		t.Errorf("1.40 %% at this cup: status %d, cup %s, ratio %s", code, got.Get("cup"), got.Get("ratio"))
	}
	_, before, _ = v.Recipe()
	for _, c := range []struct {
		goal, value string
		status      int
		says        string
	}{
		{"goal_drain", "0:40", http.StatusOK, "No grind reaches it"}, {"goal_yield", "34", http.StatusOK, "No grind reaches it"},
		{"goal_drain/grind", "0:40", http.StatusUnprocessableEntity, "No grind reaches it"},
		{"goal_drain/luck", "3:00", http.StatusUnprocessableEntity, "No setting can be solved for that"},
		{"goal_strength", "much", http.StatusUnprocessableEntity, "is not a number"},
		{"goal_drain", "", http.StatusUnprocessableEntity, "Type a time"},
	} {
		field, _, _ := strings.Cut(c.goal, "/")
		code, body := v.Post(path, "goal", c.goal, field, c.value)
		if code != c.status || !strings.Contains(body, c.says) || webtest.Fields(body).Get("dose") != before.Get("dose") {
			t.Errorf("%s %q: status %d, %v", c.goal, c.value, code, webtest.ErrorsIn(body))
		}
	}
	if code, _ := v.Post(path, "goal", "gold"); code != http.StatusBadRequest {
		t.Errorf("an unknown goal: status %d", code)
	}
	if code, _ := v.Post("/brews/slate-terrace-4/solve", "goal", "goal_drain", "goal_drain", "3:10"); code != http.StatusConflict {
		t.Errorf("a poured recipe was solved: status %d", code)
	}
}

func TestTwoWindowsOnOneRecipe(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	path := fmt.Sprintf("/brews/%s/recipe", webtest.Planned)
	_, a := v.Get(path)
	_, b := v.Get(path)
	first, second := webtest.Fields(a), webtest.Fields(b)
	first.Set("dose", "20")
	if code, _, _ := v.Send("POST", path, first); code != http.StatusOK {
		t.Fatalf("the first window: status %d", code)
	}
	second.Set("dose", "24")
	code, body, _ := v.Send("POST", path, second)
	if code != http.StatusConflict || webtest.Fields(body).Get("dose") != "20" {
		t.Errorf("the second window: status %d, dose %s", code, webtest.Fields(body).Get("dose"))
	}
	again := webtest.Fields(body)
	again.Set("dose", "24")
	if code, body, _ := v.Send("POST", path, again); code != http.StatusOK || webtest.Fields(body).Get("dose") != "24" {
		t.Errorf("repeated: status %d, dose %s", code, webtest.Fields(body).Get("dose"))
	}
	// One window that sends faster than the responses arrive has no conflict with itself.
	quick := webtest.Fields(body)
	for _, dose := range []string{"25", "26", "27"} {
		quick.Set("dose", dose)
		if code, _, _ := v.Send("POST", path, quick); code != http.StatusOK {
			t.Errorf("dose %s: status %d", dose, code)
		}
	}
}

func TestUnitsAreAPreference(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	if code, _ := v.Post("/settings", "mass", "oz", "heat", "°F", "altitude", "1500"); code != http.StatusSeeOther {
		t.Fatalf("status %d", code)
	}
	_, got, body := v.Recipe()
	if got.Get("dose") != "0.63" || got.Get("temperature") != "196" || !strings.Contains(body, "fl oz") {
		t.Errorf("dose %s, water at %s", got.Get("dose"), got.Get("temperature"))
	}
	// Editing one field in ounces does not change the others, which are shown rounded.
	v.Recipe("temperature", "198")
	if b, _, _ := v.Store.Draft(context.Background(), webtest.Planned); b.Recipe.Dose != 18 || b.Recipe.Water() != 297 {
		t.Errorf("the dose became %v g and the water %v g", b.Recipe.Dose, b.Recipe.Water())
	}
	if _, got, _ := v.Recipe("dose", "0,7"); got.Get("dose") != "0.7" {
		t.Errorf("0.7 oz reads %s", got.Get("dose"))
	}
	if code, _ := v.Post("/settings", "mass", "stone", "heat", "°C"); code != http.StatusUnprocessableEntity {
		t.Errorf("stones: status %d", code)
	}
}

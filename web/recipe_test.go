package web

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
)

// recipe posts the Recipe station as it stands, with some fields typed anew.
func (v *visitor) recipe(typed ...string) (int, url.Values, string) {
	v.t.Helper()
	path := fmt.Sprintf("/brews/%s/recipe", planned)
	_, page := v.get(path)
	form := fields(page)
	for i := 0; i+1 < len(typed); i += 2 {
		form.Set(typed[i], typed[i+1])
	}
	code, body, _ := v.send("POST", path, form, "HX-Request", "true")
	return code, fields(body), body
}

func TestAnyTwoAmountsGiveTheRestOnThePage(t *testing.T) {
	t.Parallel()
	v := visit(t)
	for _, step := range []struct{ name, typed, dose, water, ratio string }{
		{"dose", "20", "20", "330", "16.5"},   // ratio and dose are held: the water follows
		{"water", "300", "20", "300", "15"},   // dose and water are what was typed last
		{"ratio", "16", "18.8", "300", "16"},  // now water and ratio
		{"dose", "18,5", "18.5", "296", "16"}, // a comma is a decimal sign
	} {
		code, got, body := v.recipe(step.name, step.typed)
		if code != http.StatusOK || got.Get("dose") != step.dose || got.Get("water") != step.water || got.Get("ratio") != step.ratio {
			t.Errorf("%s %s: status %d gives dose %s, water %s, ratio %s; want %s, %s, %s\n%s", step.name, step.typed, code,
				got.Get("dose"), got.Get("water"), got.Get("ratio"), step.dose, step.water, step.ratio, errorsIn(body))
		}
	}
}

func TestSteppingADoseDoesNotWearTheRatioAway(t *testing.T) {
	if testing.Short() {
		t.Skip("one goroutine works for long: nothing for the race detector")
	}
	t.Parallel()
	v := visit(t)
	var got url.Values
	for _, way := range []struct {
		to    float64
		water string
	}{{9, "149"}, {30, "495"}, {18, "297"}} {
		for dose, _ := strconv.ParseFloat(cmp.Or(got.Get("dose"), "18"), 64); dose != way.to; {
			dose += math.Copysign(0.5, way.to-dose)
			_, got, _ = v.recipe("dose", fmt.Sprint(dose))
		}
		if got.Get("ratio") != "16.5" || got.Get("water") != way.water {
			t.Errorf("stepped to %v g the ratio is %s with %s g of water", way.to, got.Get("ratio"), got.Get("water"))
		}
	}
}

func TestWhatCannotBeBrewedStaysAsTypedWithASentence(t *testing.T) {
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
		{"water", "94 C", "is a temperature, which does not belong here"},
		{"cup", "", "Type a number"},
		{"temperature", "120", "can be 70 to 100 °C"},
		{"setting", "900", "coffee is ground at"},
		{"grind", "<script>alert(1)</script>", "is not a number"},
		{"bloom_time", strings.Repeat("9", 5000), "is not a number"},
	} {
		v := visit(t)
		_, before, _ := v.recipe()
		code, got, body := v.recipe(c.name, c.typed)
		if code != http.StatusUnprocessableEntity || !strings.Contains(body, c.says) {
			t.Errorf("%s %q: status %d, errors %v; want %q", c.name, short(c.typed), code, errorsIn(body), c.says)
		}
		// It is still there after a reload, and the brew cannot begin.
		_, page := v.get(fmt.Sprintf("/brews/%s/recipe", planned))
		if kept := fields(page).Get(c.name); kept != c.typed {
			t.Errorf("%s %q: after a reload it reads %q", c.name, short(c.typed), short(kept))
		}
		if code, _ := v.post(fmt.Sprintf("/brews/%s/start", planned)); code != http.StatusUnprocessableEntity {
			t.Errorf("%s %q: the brew began with status %d", c.name, short(c.typed), code)
		}
		// Mending the one field makes everything right again; the rest was never lost.
		if code, mended, _ := v.recipe(c.name, before.Get(c.name)); code != http.StatusOK || mended.Get("water") != before.Get("water") {
			t.Errorf("%s: mended gives status %d and %s g of water, was %s", c.name, code, mended.Get("water"), before.Get("water"))
		}
		_ = got
	}
}

func TestAWrongFieldStaysWrongWhileAnotherIsTyped(t *testing.T) {
	t.Parallel()
	v := visit(t)
	v.recipe("ratio", "sixteen")
	code, got, body := v.recipe("temperature", "95")
	if code != http.StatusUnprocessableEntity || got.Get("ratio") != "sixteen" || got.Get("temperature") != "95" || len(errorsIn(body)) != 1 {
		t.Errorf("status %d, ratio %q, temperature %s, errors %v", code, got.Get("ratio"), got.Get("temperature"), errorsIn(body))
	}
	if code, got, _ = v.recipe("ratio", "16"); code != http.StatusOK || got.Get("temperature") != "95" || got.Get("water") != "288" {
		t.Errorf("mended: status %d, %s at %s", code, got.Get("water"), got.Get("temperature"))
	}
}

// A request that was queued before the last answer came shows what its page
// showed then; only what a hand changed on that page may count.
func TestAQueuedRequestChangesOnlyWhatWasTouched(t *testing.T) {
	t.Parallel()
	v := visit(t)
	path := fmt.Sprintf("/brews/%s/recipe", planned)
	_, page := v.get(path)
	first, queued := fields(page), fields(page)
	first.Set("dose", "18.5")
	queued.Set("dose", "20.5")
	v.send("POST", path, first)
	_, body, _ := v.send("POST", path, queued)
	if got := fields(body); got.Get("dose") != "20.5" || got.Get("water") != "338" || got.Get("ratio") != "16.5" {
		t.Errorf("dose %s, water %s, ratio %s; want 20.5, 338, 16.5", got.Get("dose"), got.Get("water"), got.Get("ratio"))
	}
}

// Behind a slow server a page is still one request old when a hand types on: a fix
// has set the water and the ratio stays, then a dose is typed on a page that shows the
// water as typed. Taking that water for typed again makes a ratio of 1 : 44 of it.
func TestAPageThatIsOneRequestOldKeepsTheRatio(t *testing.T) {
	t.Parallel()
	v := visit(t)
	path := fmt.Sprintf("/brews/%s/recipe", planned)
	_, page, _ := v.send("POST", path, withValues(v, path, "dose", "48.5"))
	fix, typed := fields(page), fields(page)
	fix.Set("water", "600")
	fix.Set("keep", "ratio")
	v.send("POST", path, fix)
	typed.Set("water", "600")
	typed.Set("dose", "18")
	_, body, _ := v.send("POST", path, typed)
	if got := fields(body); got.Get("dose") != "18" || got.Get("water") != "297" || got.Get("ratio") != "16.5" {
		t.Errorf("dose %s, water %s, ratio %s; want 18, 297, 16.5", got.Get("dose"), got.Get("water"), got.Get("ratio"))
	}
}

// withValues is the form of a page with an entry typed over.
func withValues(v *visitor, path, name, value string) url.Values {
	_, page := v.get(path)
	form := fields(page)
	form.Set(name, value)
	return form
}

func TestTheGrindersOwnNumbersAndMicrometresAgree(t *testing.T) {
	t.Parallel()
	v := visit(t)
	_, got, _ := v.recipe("setting", "24") // the apron mill: 60 µm at 0, 27 µm a click
	if got.Get("grind") != "708" {
		t.Errorf("24 clicks are %s µm, want 708", got.Get("grind"))
	}
	_, got, _ = v.recipe("grind", "600")
	if got.Get("setting") != "20" || got.Get("grind") != "600" {
		t.Errorf("600 µm are %s clicks (%s µm), want 20", got.Get("setting"), got.Get("grind"))
	}
	_, got, _ = v.recipe("grinder", "bench-grinder", "setting", "6.5") // the bench grinder: 290 µm at 0, 24 µm a half
	if got.Get("setting") != "6.5" || got.Get("grind") != "602" {
		t.Errorf("on the other grinder: %s (%s µm), want 6.5 (602 µm)", got.Get("setting"), got.Get("grind"))
	}
}

// Mutations caught: a blade that keeps the size of a burr grinder (predicted drawdown above eleven
// minutes), an Undo that restores only the gear.
func TestGearChangeRecalculatesTheGrind(t *testing.T) {
	t.Parallel()
	v := visit(t)
	drains := func() forecast.Forecast {
		d, _, err := v.store.Draft(t.Context(), planned)
		if err != nil {
			t.Fatal(err)
		}
		d.Beliefs = v.s.teacher.Believe(d.Sheet)
		f, err := forecast.Of(d.Question(v.now))
		if err != nil {
			t.Fatal(err)
		}
		return f
	}
	_, before, _ := v.recipe()
	was := drains()
	_, got, body := v.recipe("grinder", "old-blade")
	if !strings.Contains(body, "The grind was recalculated for Old blade") || got.Get("grind") == before.Get("grind") {
		t.Errorf("on a blade: %s µm, was %s; %v", got.Get("grind"), before.Get("grind"), errorsIn(body))
	}
	if is := drains(); is.Drawdown > was.Drawdown+150 || is.Yield.Value < 18 {
		t.Errorf("on a blade it is predicted to drain in %s with %.1f %%, was %s with %.1f %%", is.Drawdown, is.Yield.Value, was.Drawdown, was.Yield.Value)
	}
	_, got, body = v.recipe("edit", "undo")
	if got.Get("grinder") != before.Get("grinder") || got.Get("grind") != before.Get("grind") || strings.Contains(body, "recalculated") {
		t.Errorf("one undo leaves %s at %s µm, want %s at %s", got.Get("grinder"), got.Get("grind"), before.Get("grinder"), before.Get("grind"))
	}
	if _, _, body = v.recipe("kettle", "stove-kettle"); strings.Contains(body, "recalculated") {
		t.Error("another kettle changed the grind")
	}
}

func TestAnotherBrewerBringsItsStyle(t *testing.T) {
	t.Parallel()
	v := visit(t)
	_, got, body := v.recipe("brewer", "shed-steeper")
	if got.Get("style") != "steep-and-release" || got.Get("release") == "" || !strings.Contains(body, "Open the valve") {
		t.Errorf("a valve steeper is poured as %q", got.Get("style"))
	}
	_, got, body = v.recipe("brewer", "window-cone")
	if got.Get("style") != "three-rounds" || got.Get("bloom") != "3" || strings.Contains(body, "Open the valve") {
		t.Errorf("back on the cone it is poured as %q with a bloom of %q", got.Get("style"), got.Get("bloom"))
	}
}

// A steep that is cleared would leave the valve shut for good.
func TestAClearedSteepIsAskedFor(t *testing.T) {
	t.Parallel()
	v := visit(t)
	_, before, _ := v.recipe("brewer", "shed-steeper")
	code, _, body := v.recipe("release", "")
	if code != http.StatusUnprocessableEntity || !strings.Contains(body, "Type a time") || !strings.Contains(body, "Open the valve") {
		t.Errorf("status %d, %v", code, errorsIn(body))
	}
	if code, got, _ := v.recipe("release", before.Get("release")); code != http.StatusOK || got.Get("release") != before.Get("release") {
		t.Errorf("typed again: status %d, steep %s", code, got.Get("release"))
	}
}

func TestARecipeIsSolvedForAFigure(t *testing.T) {
	t.Parallel()
	v := visit(t)
	path := fmt.Sprintf("/brews/%s/solve", planned)
	_, before, _ := v.recipe()
	code, body := v.post(path, "goal", "goal_drain", "goal_drain", "2:45")
	if code != http.StatusOK || fields(body).Get("setting") != before.Get("setting") || fields(body).Get("goal_drain") != "2:45" {
		t.Errorf("asking for ways to 2:45: status %d, %s clicks", code, fields(body).Get("setting"))
	}
	for _, says := range []string{"By the grind", "By the ratio", "By the water", "clicks coarser", "No temperature does"} {
		if !strings.Contains(body, says) {
			t.Errorf("the ways to 2:45 do not say %q", says)
		}
	}
	code, body = v.post(path, "goal", "goal_drain/grind", "goal_drain", "2:45")
	if code != http.StatusOK || fields(body).Get("setting") == before.Get("setting") || fields(body).Get("ratio") != before.Get("ratio") {
		t.Errorf("taking the grind: status %d, %s clicks", code, fields(body).Get("setting"))
	}
	_, before, _ = v.recipe()
	code, body = v.post(path, "goal", "goal_strength/ratio", "goal_strength", "1,30")
	if got := fields(body); code != http.StatusOK || got.Get("cup") != before.Get("cup") || got.Get("ratio") == before.Get("ratio") {
		t.Errorf("1.30 %% at this cup: status %d, cup %s, ratio %s", code, got.Get("cup"), got.Get("ratio"))
	}
	_, before, _ = v.recipe()
	for _, c := range []struct {
		goal, value string
		status      int
		says        string
	}{
		{"goal_drain", "0:40", http.StatusOK, "No grind does"}, {"goal_yield", "34", http.StatusOK, "No grind does"},
		{"goal_drain/grind", "0:40", http.StatusUnprocessableEntity, "No grind does"}, {"goal_drain/luck", "3:00", http.StatusUnprocessableEntity, "cannot be solved for"},
		{"goal_strength", "much", http.StatusUnprocessableEntity, "is not a number"}, {"goal_drain", "", http.StatusUnprocessableEntity, "Type a time"},
	} {
		field, _, _ := strings.Cut(c.goal, "/")
		code, body := v.post(path, "goal", c.goal, field, c.value)
		if code != c.status || !strings.Contains(body, c.says) || fields(body).Get("dose") != before.Get("dose") {
			t.Errorf("%s %q: status %d, %v", c.goal, c.value, code, errorsIn(body))
		}
	}
	if code, _ := v.post(path, "goal", "gold"); code != http.StatusBadRequest {
		t.Errorf("an unknown goal: status %d", code)
	}
	if code, _ := v.post("/brews/slate-terrace-4/solve", "goal", "goal_drain", "goal_drain", "3:10"); code != http.StatusConflict {
		t.Errorf("a poured recipe was solved: status %d", code)
	}
}

func TestTwoWindowsOnOneRecipe(t *testing.T) {
	t.Parallel()
	v := visit(t)
	path := fmt.Sprintf("/brews/%s/recipe", planned)
	_, a := v.get(path)
	_, b := v.get(path)
	first, second := fields(a), fields(b)
	first.Set("dose", "20")
	if code, _, _ := v.send("POST", path, first); code != http.StatusOK {
		t.Fatalf("the first window: status %d", code)
	}
	second.Set("dose", "24")
	code, body, _ := v.send("POST", path, second)
	if code != http.StatusConflict || fields(body).Get("dose") != "20" {
		t.Errorf("the second window: status %d, dose %s", code, fields(body).Get("dose"))
	}
	again := fields(body)
	again.Set("dose", "24")
	if code, body, _ := v.send("POST", path, again); code != http.StatusOK || fields(body).Get("dose") != "24" {
		t.Errorf("made again: status %d, dose %s", code, fields(body).Get("dose"))
	}
	// One window that sends faster than it is answered has no quarrel with itself.
	quick := fields(body)
	for _, dose := range []string{"25", "26", "27"} {
		quick.Set("dose", dose)
		if code, _, _ := v.send("POST", path, quick); code != http.StatusOK {
			t.Errorf("dose %s: status %d", dose, code)
		}
	}
}

func TestUnitsAreAPreference(t *testing.T) {
	t.Parallel()
	v := visit(t)
	if code, _ := v.post("/settings", "mass", "oz", "heat", "°F", "altitude", "1500"); code != http.StatusSeeOther {
		t.Fatalf("status %d", code)
	}
	_, got, body := v.recipe()
	if got.Get("dose") != "0.63" || got.Get("temperature") != "196" || !strings.Contains(body, "fl oz") {
		t.Errorf("dose %s, water at %s", got.Get("dose"), got.Get("temperature"))
	}
	// Touching one field in ounces must not wear the others, which are shown rounded.
	v.recipe("temperature", "198")
	if b, _, _ := v.store.Draft(context.Background(), planned); b.Recipe.Dose != 18 || b.Recipe.Water() != 297 {
		t.Errorf("the dose became %v g and the water %v g", b.Recipe.Dose, b.Recipe.Water())
	}
	if _, got, _ := v.recipe("dose", "0,7"); got.Get("dose") != "0.7" {
		t.Errorf("0.7 oz reads %s", got.Get("dose"))
	}
	if code, _ := v.post("/settings", "mass", "stone", "heat", "°C"); code != http.StatusUnprocessableEntity {
		t.Errorf("stones: status %d", code)
	}
}

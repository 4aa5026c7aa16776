package recipe_test

import (
	"net/http"
	"strings"
	"testing"

	"yardbloom/web/webtest"
)

// Two goals are solved with the changes that trade between them, and the solution can be used. Mutations caught: a button
// that changes the recipe at once, a solution that is not applied.
func TestTwoGoalsAtOnce(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	path := "/brews/" + webtest.Planned + "/solve"
	_, before, _ := v.Recipe()
	drain, yield := "3:05", "20.0"
	post := func(goal string) (int, string) {
		return v.Post(path, "goal", goal, "goal_drain", drain, "goal_yield", yield, "goal_strength", "1.3")
	}
	code, body := post("pair.both")
	if code != http.StatusOK || !strings.Contains(body, "Both at once") || !strings.Contains(body, " alone: ") ||
		webtest.Fields(body).Get("setting") != before.Get("setting") {
		t.Errorf("asked: %d, grind %s", code, webtest.Fields(body).Get("setting"))
	}
	_, body = post("pair.both/0")
	used := false
	for _, field := range []string{"setting", "temperature", "ratio"} {
		used = used || webtest.Fields(body).Get(field) != before.Get(field)
	}
	if !used {
		t.Error("the solution is not used")
	}
	yield = "much"
	if code, body = post("pair.both"); code != http.StatusUnprocessableEntity || !strings.Contains(body, "is not a number") {
		t.Errorf("a yield of much: %d", code)
	}
	if code, body = post("pair.finest"); code != http.StatusOK || !strings.Contains(body, "Nine of ten such brews") {
		t.Errorf("the finest grind: %d", code)
	}
	if code, _ = post("pair.coldest"); code != http.StatusBadRequest {
		t.Errorf("the coldest drink of a hot recipe: %d", code)
	}
	drain, yield = "2:20", "23"
	if code, body = post("pair.both"); code != http.StatusOK || !strings.Contains(body, "Both cannot be met") {
		t.Errorf("23 %% in 2:20: %d", code)
	}
}

// The end of a brew can be left out: the recipe page predicts it, applies it, and the Brew screen says when to lift the brewer off.
func TestPartOfABrewIsLeftOut(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	page := "/brews/" + webtest.Planned + "/recipe"
	_, body := v.Get(page)
	if !strings.Contains(body, "Last third") || !strings.Contains(body, "Leave out the last 40 g") {
		t.Fatal("the page does not show the parts of the brew")
	}
	form := webtest.Fields(body)
	form.Set("edit", "part.cut")
	code, body, _ := v.Send("POST", page, form)
	cut := webtest.Fields(body).Get("cut_at")
	if code != http.StatusOK || cut == "0" || cut == "" || strings.Contains(body, "Leave out the last 40 g") {
		t.Errorf("cut: %d, lifted off at %q", code, cut)
	}
	if _, body = v.Get("/brews/" + webtest.Planned + "/brew"); !strings.Contains(body, "lift the brewer off with "+cut+" g in the carafe") {
		t.Error("the Brew screen does not tell when to lift the brewer off")
	}
}

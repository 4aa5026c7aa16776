package trial_test

import (
	"context"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"yardbloom/core/trial"
	"yardbloom/web/webtest"
)

// A trial from plan to answer: one run is brewed and tasted, the others are typed, and the bag runs out.
func TestTrialFromPlanToAnswer(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	for name, c := range map[string][2]string{"levels": {"14, oak", "is not a"}, "repeats": {"9", "can be 1 to 6"}} {
		typed := url.Values{"bag": {"slate-terrace"}, "turned": {"ratio"}, "levels": {"14, 16"}, "repeats": {"2"}, "measure": {"mark"}}
		typed.Set(name, c[0])
		if code, body, _ := v.Send("POST", "/trials", typed); code != http.StatusUnprocessableEntity || !strings.Contains(body, c[1]) {
			t.Errorf("%s %q: status %d", name, c[0], code)
		}
	}
	if code, body := v.Post("/trials", "bag", "slate-terrace", "turned", "ratio", "levels", "12, 13, 14, 15, 16, 17", "repeats", "6",
		"measure", "mark"); code != http.StatusUnprocessableEntity || !strings.Contains(body, "the bag has") {
		t.Errorf("more than the bag has: status %d", code)
	}
	code, _, header := v.Send("POST", "/trials", url.Values{"bag": {"slate-terrace"}, "turned": {"ratio"}, "levels": {"14 16"},
		"repeats": {"2"}, "measure": {"mark"}, "name": {"More water"}})
	if code != http.StatusSeeOther {
		t.Fatalf("planning: status %d", code)
	}
	path := header.Get("Location")
	load := func() trial.Trial {
		it, err := v.Store.Trial(context.Background(), strings.TrimPrefix(path, "/trials/"))
		if err != nil {
			t.Fatal(err)
		}
		return it
	}
	it := load()
	code, _, header = v.Send("POST", path+"/brew", url.Values{"code": {it.Runs[0].Code}})
	draft := strings.TrimSuffix(header.Get("Location"), "/recipe")
	if _, body := v.Get(draft + "/recipe"); code != http.StatusSeeOther || !strings.Contains(webtest.Fields(body).Get("ratio"), "1") ||
		load().Runs[0].Brew != strings.TrimPrefix(draft, "/brews/") {
		t.Fatalf("brewing a run: status %d", code)
	}
	v.Post(draft + "/start")
	v.SetNow(v.Now().Add(4 * 60e9))
	v.Post(draft+"/tap", "key", "end", "kind", "finish")
	if code, _ := v.Post(draft+"/cup", "overall", "6"); code != http.StatusSeeOther {
		t.Fatalf("tasting a run: status %d", code)
	}
	if code, body := v.Post(path+"/found", "code", it.Runs[1].Code, "value", "70"); code != http.StatusUnprocessableEntity ||
		!strings.Contains(body, "can be 1 to 10") || !strings.Contains(body, `value="70"`) {
		t.Errorf("a mark of 70: status %d", code)
	}
	if code, body := v.Post(path+"/found", "code", "ZZ", "value", "7"); code != http.StatusUnprocessableEntity ||
		!strings.Contains(body, "No brew of this trial has that code") {
		t.Errorf("a code of no run: status %d", code)
	}
	for i, mark := range map[int]string{1: "8", 2: "7"} {
		if code, _ := v.Post(path+"/found", "code", it.Runs[i].Code, "value", mark); code != http.StatusSeeOther {
			t.Errorf("run %d: status %d", i, code)
		}
	}
	v.Post(path + "/end")
	_, body := v.Get(path)
	if !strings.Contains(body, "left out") || !strings.Contains(body, "3 of 3 brewed") ||
		!strings.Contains(body, "From 1 : 14 to 1 : 16 it adds") {
		t.Error("the answer of three brews is not there")
	}
	if done := load(); !done.Runs[0].Done || done.Runs[0].Value != 6 || !done.Runs[3].Skipped {
		t.Errorf("stored as %+v", done.Runs)
	}
}

// Anything that can be chosen makes a trial, also two things at once; what cannot be planned gets a sentence beside its field and
// keeps what was typed. Mutations caught: a second variable that is forgotten, a brewer of another yard, a trial that outlasts the bag.
func TestTrialsOfGearAndOfTwoThings(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	plan := func(pairs ...string) url.Values {
		out := url.Values{"bag": {"slate-terrace"}, "turned": {"ratio"}, "levels": {"14, 16"}, "repeats": {"1"}, "measure": {"mark"}, "second": {"none"}}
		for i := 0; i < len(pairs); i += 2 {
			out.Set(pairs[i], pairs[i+1])
		}
		return out
	}
	for _, c := range []struct {
		typed []string
		says  string
	}{
		{[]string{"turned", "brewers", "levels", "Window cone, Gran’s pot"}, "is not one of your brewers"},
		{[]string{"turned", "brewers", "levels", "Window cone, Shed steeper"}, "does not suit both"},
		{[]string{"turned", "filters", "levels", "standard paper"}, "Two to six"},
		{[]string{"turned", "named", "levels", strings.Repeat("long ", 20) + ", short"}, "at most 40 characters"},
		{[]string{"turned", "first", "levels", "coffee, water"}, "has no "},
		{[]string{"second", "grind", "second_levels", "600, 650, 700"}, "two levels each"},
		{[]string{"second", "ratio", "second_levels", "15, 17"}, "That is the first variable"},
		{[]string{"second", "crust_at", "second_levels", "0, 60"}, "Choose one"},
		{[]string{"second", "grind", "second_levels", "10, 700"}, "can be"},
		{[]string{"second", "grind", "second_levels", "600, 700", "repeats", "6"}, "the bag has"},
	} {
		code, body, _ := v.Send("POST", "/trials", plan(c.typed...))
		if code != http.StatusUnprocessableEntity || !strings.Contains(strings.Join(webtest.ErrorsIn(body), " "), c.says) ||
			webtest.Fields(body).Get(c.typed[len(c.typed)-2]) != c.typed[len(c.typed)-1] && c.typed[1] != "crust_at" {
			t.Errorf("%v: status %d, %v", c.typed, code, webtest.ErrorsIn(body))
		}
	}
	for _, typed := range [][]string{{"turned", "filters", "levels", "standard paper, thick paper"}, {"turned", "named", "levels", "before the fair, after it"},
		{"second", "filters", "second_levels", "standard paper, thick paper"}} {
		code, body, header := v.Send("POST", "/trials", plan(typed...))
		if code != http.StatusSeeOther {
			t.Fatalf("%v: status %d, %v", typed, code, webtest.ErrorsIn(body))
		}
		_, page := v.Get(header.Get("Location"))
		if want := map[bool]int{true: 4, false: 2}[typed[0] == "second"]; strings.Count(page, `aria-label="mark of`) != want {
			t.Errorf("%v: %d runs, want %d", typed, strings.Count(page, `aria-label="mark of`), want)
		}
	}
	for _, study := range trial.Studies() {
		if code, page := v.Get("/trials?study=" + study.ID); code != http.StatusOK || webtest.Fields(page).Get("turned") != string(study.Knob) ||
			webtest.Fields(page).Get("levels") == "" {
			t.Errorf("study %s: status %d, %q over %q", study.ID, code, webtest.Fields(page).Get("turned"), webtest.Fields(page).Get("levels"))
		}
	}
}

// A trial over schools, for no coffee or one that was never brewed, is asked for a coffee. Mutation caught: schools of no brewer, which
// ended in an internal error.
func TestTrialWithoutACoffeeAsksForOne(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	for _, bag := range []string{"", "none", "first-frost"} {
		for _, turned := range []string{"styles", "brewers", "ratio", "filters"} {
			typed := url.Values{"bag": {bag}, "turned": {turned}, "levels": {"Three rounds, Pulses"}, "second": {"styles"},
				"second_levels": {"Three rounds, Long bloom"}, "repeats": {"2"}, "measure": {"mark"}}
			code, body, _ := v.Send("POST", "/trials", typed)
			if code != http.StatusUnprocessableEntity || !strings.Contains(body, "Brew this coffee once first") || !strings.Contains(body, "Pulses") {
				t.Errorf("%q, %s: status %d", bag, turned, code)
			}
		}
	}
}

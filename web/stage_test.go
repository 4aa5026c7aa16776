package web

import (
	"net/http"
	"testing"
)

// Mutation caught: a plan that is calculated for every event of every open screen.
func TestPresentationIsPlannedOncePerVersion(t *testing.T) {
	t.Parallel()
	v := visit(t)
	const path = "/stage/regional-heat"
	want := func(made int, when string) {
		t.Helper()
		if v.s.cupsPlans.made != made {
			t.Errorf("%s: %d plans were worked out, want %d", when, v.s.cupsPlans.made, made)
		}
	}
	v.get(path)
	want(1, "the page")
	v.post(path + "/begin")
	for range 3 {
		v.post(path + "/said")
		for _, prompt := range []bool{false, true} { // the streams of two screens
			if _, _, err := v.s.showBody(t.Context(), "regional-heat", prompt); err != nil {
				t.Fatal(err)
			}
		}
	}
	v.get(path + "/show")
	want(1, "a rehearsal on two screens")
	_, page := v.get(path)
	form := fields(page)
	form.Set("cups", "2")
	form.Set("lines", "Good morning.")
	if code, _, _ := v.send("POST", path, form); code != http.StatusSeeOther {
		t.Fatalf("status %d", code)
	}
	v.get(path)
	want(2, "two cups")
	v.now = v.now.AddDate(0, 0, 1)
	v.get(path)
	want(3, "a day later")
}

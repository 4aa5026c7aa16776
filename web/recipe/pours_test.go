package recipe_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"yardbloom/core/recipe"
	"yardbloom/web/webtest"
)

// Details of the pours reach the schedule, and impossible ones get an error beside their field.
func TestPoursCanBeSetByHand(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	_, got, body := v.Recipe("pours", "4")
	if got.Get("pours") != "4" || strings.Count(body, `class="pour-row`) != 5 {
		t.Errorf("four pours: %d in the schedule", strings.Count(body, `class="pour-row`))
	}
	if _, _, body := v.Recipe("hand", "needle stir"); strings.Count(body, `value="needle stir" selected`) != 3 {
		t.Error("the needle stir is not in the schedule")
	}
	if _, _, body := v.Recipe("wait", recipe.ByBed); strings.Count(body, `value="when the water has reached the bed" selected`) != 4 {
		t.Error("three pours should wait for the bed")
	}
	v.Post("/brews/evening-seed-next/start")
	began := v.Now()
	for i, at := range []int{14, 45, 60} { // end of the bloom, start and end of the first pour
		v.SetNow(began.Add(time.Duration(at) * time.Second))
		v.Post("/brews/evening-seed-next/tap", "key", fmt.Sprint("k", i), "kind", "advance")
	}
	if _, body := v.Get("/brews/evening-seed-next/brew"); !strings.Contains(body, "pour again when the water has reached the bed") ||
		!strings.Contains(body, "Tap when the water has reached the bed") {
		t.Error("the brew does not say to wait for the bed")
	}
}

func TestOverlappingPoursAreReported(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	code, _, body := v.Recipe("gap", "8")
	if code != http.StatusOK || !strings.Contains(body, "the one before it runs until") || !strings.Contains(body, `data-set="gap"`) {
		t.Errorf("pours that overlap: status %d", code)
	}
	if code, _, body := v.Recipe("gap", "900"); code != http.StatusUnprocessableEntity || !strings.Contains(body, "can be 5 to 140 s") {
		t.Errorf("a gap of 900 s: status %d, %v", code, webtest.ErrorsIn(body))
	}
}

// The page shows the inputs of the model from gear and bag.
func TestModelInputsAreShown(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	_, page := v.Get("/brews/evening-seed-next/recipe")
	for _, says := range []string{"First drip", "least certain", "fines from a hand mill", "each pour at its own temperature",
		"warmed to 72"} {
		if !strings.Contains(page, says) {
			t.Errorf("the model does not say %q", says)
		}
	}
	if _, _, page = v.Recipe("kettle", "stove-kettle"); !strings.Contains(page, "by its two readings") {
		t.Error("the cooling kettle is not among the model's inputs")
	}
}

package recipe_test

import (
	"net/http"
	"strings"
	"testing"

	"yardbloom/store"
	"yardbloom/web/webtest"
)

// A pour to a level becomes grams; levels that no pour reaches get a sentence beside their field and change nothing. Mutations caught:
// an error that loses what was typed, a level that is stored without its water, a typed amount that keeps the level.
func TestPourToALevel(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	_, before := v.Get("/brews/" + webtest.Planned + "/recipe")
	code, got, body := v.Recipe("pours.2.level", "60")
	if code != http.StatusOK || got.Get("pours.2.water") == webtest.Fields(before).Get("pours.2.water") ||
		!strings.Contains(body, "of the height</small>") {
		t.Fatalf("to 60 %%: status %d, %s g, %v", code, got.Get("pours.2.water"), webtest.ErrorsIn(body))
	}
	for typed, says := range map[string]string{"99": "All the water that this pour can have", "3": "The coffee alone stands at",
		"101": "can be 0 to 100", "half": "is not"} {
		code, now, body := v.Recipe("pours.2.level", typed)
		if code != http.StatusUnprocessableEntity || now.Get("pours.2.level") != typed || !strings.Contains(strings.Join(webtest.ErrorsIn(body), " "), says) {
			t.Errorf("%q: status %d, field %q, %v", typed, code, now.Get("pours.2.level"), webtest.ErrorsIn(body))
		}
		v.Recipe("pours.2.level", "60")
	}
	if _, got, body := v.Recipe("pours.2.water", "80"); got.Get("pours.2.level") != "0" || strings.Contains(body, "of the height</small>") {
		t.Errorf("80 g by weight: level %q", got.Get("pours.2.level"))
	}
}

// The second kettle is one of the listed others; a retired one, and the first one, get a sentence. Mutations caught: a retired
// kettle that is taken, a kettle beside itself, pours that lose their kettle on the way to the brew.
func TestSecondKettle(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	things, err := v.Store.Things(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	_, page := v.Get("/brews/" + webtest.Planned + "/recipe")
	first, other := webtest.Fields(page).Get("kettle"), ""
	for _, thing := range things {
		if thing.Kind == "kettles" && thing.ID != first {
			other = thing.ID
		}
	}
	if code, _, body := v.Recipe("second", first); code != http.StatusUnprocessableEntity || !strings.Contains(body, "That is the first kettle") {
		t.Errorf("the first kettle twice: status %d", code)
	}
	if code, _, body := v.Recipe("second", other); code != http.StatusOK || !strings.Contains(body, "No pour is from the second kettle yet") {
		t.Errorf("a second kettle: status %d", code)
	}
	if _, got, _ := v.Recipe("pours.3.kettle", "the second kettle", "pours.3.temperature", "82"); got.Get("pours.3.kettle") != "the second kettle" {
		t.Errorf("pour 3 is from %q", got.Get("pours.3.kettle"))
	}
	if _, body := v.Get("/brews/" + webtest.Planned + "/setup"); !strings.Contains(body, "Fill the second kettle") || !strings.Contains(body, "82 °C") {
		t.Error("the set-up does not name the second kettle and its temperature")
	}
	v.Recipe("second", "none")
	if err := v.Store.RetireGear(t.Context(), "kettles", other, true, v.Now()); err != nil {
		t.Fatal(err)
	}
	if code, _, body := v.Recipe("second", other); code != http.StatusUnprocessableEntity || !strings.Contains(body, "That kettle is retired") {
		t.Errorf("a retired kettle: status %d, %v", code, webtest.ErrorsIn(body))
	}
	if code, _, _ := v.Recipe("second", store.NewID()); code != http.StatusBadRequest {
		t.Errorf("a kettle that does not exist: status %d", code)
	}
}

// Ice has a temperature of at most 0 °C. Mutation caught: ice of any temperature.
func TestIceIsNotWarm(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	v.Recipe("serving", "over ice")
	if code, got, body := v.Recipe("ice_at", "5"); code != http.StatusUnprocessableEntity || got.Get("ice_at") != "5" ||
		!strings.Contains(strings.Join(webtest.ErrorsIn(body), " "), "-40 to 0") && !strings.Contains(strings.Join(webtest.ErrorsIn(body), " "), "−40 to 0") {
		t.Errorf("ice at +5 °C: status %d, %v", code, webtest.ErrorsIn(body))
	}
	if code, _, body := v.Recipe("ice_at", "-24"); code != http.StatusOK || !strings.Contains(body, "chill as much as") {
		t.Errorf("ice at -24 °C: status %d", code)
	}
	if _, _, body := v.Recipe("glass_ice", "90"); !strings.Contains(body, "Served on 90") {
		t.Error("the large piece in the glass is not predicted")
	}
}

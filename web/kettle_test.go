package web

import (
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"yardbloom/core/recipe"
)

func TestAKettleIsReadTwice(t *testing.T) {
	t.Parallel()
	v := visit(t)
	kettle := func(pairs ...string) (int, string) {
		form := append([]string{"name", "Stove kettle", "thermostat", "no", "capacity", "1600"}, pairs...)
		return v.post("/gear/kettles/stove-kettle", form...)
	}
	for _, c := range []struct{ first, second, apart, water, spout, says string }{
		{"97", "99", "4:00", "600", "", "must be cooler than the first"},
		{"97", "88", "", "600", "", "Two readings need both"},
		{"97", "88", "0:20", "600", "", "No kettle cools at that pace"},
		{"97", "24", "40:00", "600", "", "too near the room"},
		{"97", "warm", "4:00", "600", "", "is not a number"},
		{"97", "88", "4:00", "600", "90", "The stream can be 2 to 40 g/s"},
	} {
		code, body := kettle("read_first", c.first, "read_second", c.second, "read_apart", c.apart, "read_water", c.water, "spout", c.spout)
		if code != http.StatusUnprocessableEntity || !strings.Contains(body, c.says) || fields(body).Get("read_second") != c.second {
			t.Errorf("%+v: status %d, %v", c, code, errorsIn(body))
		}
	}
	boil := func() string {
		v.recipe("kettle", "stove-kettle")
		_, body := v.get("/brews/evening-seed-next/setup")
		_, wait, _ := strings.Cut(body, "leave it off the boil")
		_, wait, _ = strings.Cut(wait, "about ")
		wait, _, _ = strings.Cut(wait, " s")
		return wait
	}
	kettle("read_first", "", "read_second", "", "read_apart", "", "read_water", "")
	byThumb := boil()
	if code, _ := kettle("read_first", "97", "read_second", "83", "read_apart", "4:00", "read_water", "600", "spout", "14"); code != http.StatusSeeOther {
		t.Fatalf("two good readings: status %d", code)
	}
	if own := boil(); own == "" || own == byThumb {
		t.Errorf("the wait is %q by the rule of thumb and %q by the kettle's own readings", byThumb, own)
	}
	_, page := v.get("/gear/kettles/stove-kettle")
	if got := fields(page); got.Get("read_apart") != "4:00" || got.Get("spout") != "14" {
		t.Errorf("comes back as %v", got)
	}
}

// The finer points of pouring reach the schedule, and what cannot be poured says so beside its field.
func TestPoursCanBeSetByHand(t *testing.T) {
	t.Parallel()
	v := visit(t)
	_, got, body := v.recipe("pours", "4")
	if got.Get("pours") != "4" || strings.Count(body, `class="pour-row`) != 5 {
		t.Errorf("four pours: %d in the schedule", strings.Count(body, `class="pour-row`))
	}
	if _, _, body := v.recipe("hand", "needle stir"); strings.Count(body, `value="needle stir" selected`) != 3 {
		t.Error("the needle stir is not in the schedule")
	}
	if _, _, body := v.recipe("wait", recipe.ByBed); strings.Count(body, `value="when the water has reached the bed" selected`) != 4 {
		t.Error("three pours should wait for the bed")
	}
	v.post("/brews/evening-seed-next/start")
	began := v.now
	for i, at := range []int{14, 45, 60} { // the bloom is in, the first pour begins, and is in
		v.now = began.Add(time.Duration(at) * time.Second)
		v.post("/brews/evening-seed-next/touch", "key", fmt.Sprint("k", i), "kind", "advance")
	}
	if _, body := v.get("/brews/evening-seed-next/brew"); !strings.Contains(body, "pour again when the water reaches the bed") || !strings.Contains(body, "Tap when the water reaches the bed") {
		t.Error("the brew does not say to wait for the bed")
	}
}

func TestPoursThatOverlapSaySo(t *testing.T) {
	t.Parallel()
	v := visit(t)
	code, _, body := v.recipe("gap", "8")
	if code != http.StatusOK || !strings.Contains(body, "the one before it runs until") || !strings.Contains(body, `data-set="gap"`) {
		t.Errorf("pours that overlap: status %d", code)
	}
	if code, _, body := v.recipe("gap", "900"); code != http.StatusUnprocessableEntity || !strings.Contains(body, "can be 5 to 140 s") {
		t.Errorf("a gap of 900 s: status %d, %v", code, errorsIn(body))
	}
}

// The page says what the model took for granted, as the gear and the bag make it.
func TestTheModelCanBeArguedWith(t *testing.T) {
	t.Parallel()
	v := visit(t)
	_, page := v.get("/brews/evening-seed-next/recipe")
	for _, says := range []string{"First drip", "least certain", "fines from a hand mill", "each pour at its own temperature", "warmed to 72"} {
		if !strings.Contains(page, says) {
			t.Errorf("the model does not say %q", says)
		}
	}
	if _, _, page = v.recipe("kettle", "stove-kettle"); !strings.Contains(page, "by its two readings") {
		t.Error("the kettle that cools is not among what the model took")
	}
}

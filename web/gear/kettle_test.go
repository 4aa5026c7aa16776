package gear_test

import (
	"net/http"
	"strings"
	"testing"

	"yardbloom/web/webtest"
)

func TestKettleReadings(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	kettle := func(pairs ...string) (int, string) {
		form := append([]string{"name", "Stove kettle", "thermostat", "no", "capacity", "1600"}, pairs...)
		return v.Post("/gear/kettles/stove-kettle", form...)
	}
	for _, c := range []struct{ first, second, apart, water, spout, says string }{
		{"97", "99", "4:00", "600", "", "must be cooler than the first"},
		{"97", "88", "", "600", "", "Two readings need both"},
		{"97", "88", "0:20", "600", "", "No kettle cools at that rate"},
		{"97", "24", "40:00", "600", "", "too close to room temperature"},
		{"97", "warm", "4:00", "600", "", "is not a number"},
		{"97", "88", "4:00", "600", "90", "The stream can be 2 to 40 g/s"},
	} {
		code, body := kettle("read_first", c.first, "read_second", c.second, "read_apart", c.apart, "read_water", c.water, "spout", c.spout)
		if code != http.StatusUnprocessableEntity || !strings.Contains(body, c.says) ||
			webtest.Fields(body).Get("read_second") != c.second {
			t.Errorf("%+v: status %d, %v", c, code, webtest.ErrorsIn(body))
		}
	}
	boil := func() string {
		v.Recipe("kettle", "stove-kettle")
		_, body := v.Get("/brews/evening-seed-next/setup")
		_, wait, _ := strings.Cut(body, "leave it off the boil")
		_, wait, _ = strings.Cut(wait, "about ")
		wait, _, _ = strings.Cut(wait, " s")
		return wait
	}
	kettle("read_first", "", "read_second", "", "read_apart", "", "read_water", "")
	byThumb := boil()
	if code, _ := kettle("read_first", "97", "read_second", "83", "read_apart", "4:00", "read_water", "600", "spout",
		"14"); code != http.StatusSeeOther {
		t.Fatalf("two good readings: status %d", code)
	}
	if own := boil(); own == "" || own == byThumb {
		t.Errorf("the wait is %q by the rule of thumb and %q by the kettle's own readings", byThumb, own)
	}
	_, page := v.Get("/gear/kettles/stove-kettle")
	if got := webtest.Fields(page); got.Get("read_apart") != "4:00" || got.Get("spout") != "14" {
		t.Errorf("comes back as %v", got)
	}
}

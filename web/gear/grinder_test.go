package gear_test

import (
	"net/http"
	"strings"
	"testing"

	"yardbloom/web/webtest"
)

// A setting can be converted both ways and to another grinder. A calibrated grinder starts again. A blade
// has no clicks. An impossible water gets a reason.
func TestGrinderConversion(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	_, page := v.Get("/gear/grinders/apron-mill?reading=22&other=bench-grinder")
	if !strings.Contains(page, "22 clicks: 654 µm, like table salt.") ||
		!strings.Contains(page, "on Bench grinder (from the drawdowns of ") {
		t.Error("22 clicks are not read, or not matched")
	}
	if code, page := v.Get("/gear/grinders/apron-mill?reading=9000"); code != http.StatusOK ||
		!strings.Contains(page, "Type a setting of this dial") {
		t.Errorf("9000 clicks: status %d", code)
	}
	v.Post("/gear/grinders/apron-mill/zero")
	if _, page := v.Get("/gear/grinders/apron-mill"); !strings.Contains(page, "Re-zeroed once") ||
		!strings.Contains(page, "one brew on the other would calibrate it") {
		t.Error("a re-zeroed grinder still uses its earlier brews")
	}
	code, _ := v.Post("/gear/grinders/new", "name", "Old blade", "burrs", "blade", "dial_kind", "clicks", "step", "0", "loss", "1")
	if code != http.StatusSeeOther {
		t.Errorf("a blade without a dial: status %d", code)
	}
	_, list := v.Get("/gear")
	if !strings.Contains(list, "blade, 650 µm is like table salt") {
		t.Error("the blade has a setting")
	}
	if code, page := v.Get("/water?hardness=900&alkalinity=40&amount=1000&salt=soda"); code != http.StatusUnprocessableEntity ||
		!strings.Contains(page, "can be 0 to 300 mg/l") {
		t.Errorf("water that cannot be mixed: status %d", code)
	}
	if _, page := v.Get("/water?hardness=70&alkalinity=40&amount=2000&salt=soda"); !strings.Contains(page, "14.00 g") ||
		!strings.Contains(page, "Food-grade salts only") {
		t.Error("the mix, or its cautions")
	}
}

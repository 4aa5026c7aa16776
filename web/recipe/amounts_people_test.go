package recipe_test

import (
	"net/http"
	"strings"
	"testing"

	"yardbloom/web/webtest"
)

// Two mugs, and the same cup with another dose and another brewer.
func TestAmountsForPeople(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	_, got, body := v.Recipe("cup", "two mugs of 200 ml")
	if got.Get("cup") != "400" || got.Get("ratio") != "16.5" {
		t.Errorf("two mugs: %s ml at 1 : %s, %v", got.Get("cup"), got.Get("ratio"), webtest.ErrorsIn(body))
	}
	code, body := v.Post("/brews/"+webtest.Planned+"/scale", "scale_dose", "20", "scale_brewer", "bench-flat")
	if got := webtest.Fields(body); code != http.StatusOK || got.Get("dose") != "20" || got.Get("brewer") != "bench-flat" ||
		got.Get("ratio") != "16.4" || !strings.Contains(body, "For the same cup: ") {
		t.Errorf("scaled: status %d, %v", code, got)
	}
	_, got, _ = v.Recipe("edit", "undo")
	if got.Get("brewer") != "window-cone" || got.Get("cup") != "400" {
		t.Errorf("taken back: %s, %s ml", got.Get("brewer"), got.Get("cup"))
	}
	if code, body := v.Post("/brews/"+webtest.Planned+"/scale", "scale_dose", "1000"); code != http.StatusUnprocessableEntity ||
		len(webtest.ErrorsIn(body)) != 1 {
		t.Errorf("a kilogram: status %d", code)
	}
}

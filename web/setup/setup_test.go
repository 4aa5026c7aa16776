package setup_test

import (
	"net/http"
	"strings"
	"testing"
	"time"

	"yardbloom/web/webtest"
)

// A different ground dose changes the water at the same ratio, or keeps the cup.
func TestGroundDoseAdjustsTheWater(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	path := "/brews/" + webtest.Planned
	v.Post(path+"/gave", "gave", "17.5", "keep", "ratio")
	_, got, _ := v.Recipe()
	if got.Get("dose") != "17.5" || got.Get("ratio") != "16.5" || got.Get("water") != "289" {
		t.Errorf("the water follows: %s g, 1 : %s, %s g", got.Get("dose"), got.Get("ratio"), got.Get("water"))
	}
	cup := got.Get("cup")
	v.Post(path+"/gave", "gave", "16", "keep", "cup")
	if _, got, _ = v.Recipe(); got.Get("dose") != "16" || got.Get("cup") != cup {
		t.Errorf("the cup stays: %s g, %s ml, was %s", got.Get("dose"), got.Get("cup"), cup)
	}
	for _, typed := range []string{"300", "", "x"} {
		if code, page := v.Post(path+"/gave", "gave", typed); code != http.StatusUnprocessableEntity || len(webtest.ErrorsIn(page)) != 1 {
			t.Errorf("%q: status %d", typed, code)
		}
	}
	// A timer continues after a reload, and can be reset.
	v.Recipe("kettle", "stove-kettle")
	v.Post(path+"/setup", "list", "shown", "timer", "boil")
	v.SetNow(v.Now().Add(10 * time.Second))
	if _, page := v.Get(path + "/setup"); !strings.Contains(page, "put back") {
		t.Error("the timer does not run any more")
	}
}

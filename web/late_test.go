package web_test

import (
	"net/http"
	"testing"
	"time"

	"yardbloom/web/webtest"
)

// A brew that was forgotten for weeks, and ended then, is shown on every page that can show it. Mutation caught: an axis with a tick each
// half minute of a month.
func TestBrewOfAMonthIsShown(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	path := "/brews/" + webtest.Planned
	v.Post(path + "/start")
	v.SetNow(v.Now().Add(29 * 24 * time.Hour))
	if code, _ := v.Post(path+"/tap", "key", "end", "kind", "finish"); code != http.StatusSeeOther {
		t.Fatalf("the end: status %d", code)
	}
	_, cup := v.Get(path + "/cup")
	typed := webtest.Fields(cup)
	typed.Set("overall", "6")
	if code, body, _ := v.Send("POST", path+"/cup", typed); code != http.StatusSeeOther {
		t.Errorf("the cup as it was offered: status %d, %v", code, webtest.ErrorsIn(body))
	}
	for _, page := range []string{path, path + "/next", path + "/cup", path + "/card", "/log", "/learned", "/yard", "/yard/day",
		"/log/compare?id=" + webtest.Planned + "&id=slate-terrace-3", "/bags/evening-seed", "/"} {
		code, body := v.Get(page)
		if code != http.StatusOK || len(body) > 300_000 {
			t.Errorf("%s: status %d, %d bytes", page, code, len(body))
		}
	}
}

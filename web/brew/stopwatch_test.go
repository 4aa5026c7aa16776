package brew_test

import (
	"net/http"
	"strconv"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"yardbloom/web"
	"yardbloom/web/webtest"
	"yardbloom/yard"
)

// elapsed returns the time since the first water on the Brew station.
func elapsed(v *webtest.Visitor, path string) float64 {
	v.T.Helper()
	_, body := v.Get(path + "/brew")
	_, after, _ := strings.Cut(body, `data-elapsed="`)
	text, _, _ := strings.Cut(after, `"`)
	s, err := strconv.ParseFloat(text, 64)
	if err != nil {
		v.T.Fatalf("no second on the page: %v", err)
	}
	return s
}

// A person or a time server sets the clock during a brew. Mutation caught: using the wall clock, which
// freezes the brew and its taps.
func TestSettingTheClockDoesNotMoveABrew(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	var up atomic.Int64
	restart := func() {
		v.Reopen(func(y *yard.Config, _ *web.Config) {
			y.Uptime = func() time.Duration { return time.Duration(up.Load()) }
		})
	}
	restart()
	const path = "/brews/" + webtest.Planned
	v.Post(path + "/start")
	pass := func(d time.Duration) {
		v.SetNow(v.Now().Add(d))
		up.Add(int64(d))
	}
	pass(14 * time.Second)
	v.Post(path+"/tap", "key", "a", "kind", "advance")
	for _, step := range []time.Duration{-time.Hour, 3 * time.Hour, -26 * time.Hour} {
		before := elapsed(v, path)
		v.SetNow(v.Now().Add(step))
		pass(4 * time.Second)
		if got := elapsed(v, path); got != before+4 {
			t.Errorf("a step of %v: from second %v to %v", step, before, got)
		}
	}
	if code, _ := v.Post(path+"/tap", "key", "b", "kind", "mark", "mark", "stall"); code != http.StatusSeeOther {
		t.Errorf("a tap after it: status %d", code)
	}
	if _, body := v.Get(path + "/brew"); !strings.Contains(body, "0:26 stall") {
		t.Error("the tap is not stored at its second")
	}
	// The program restarts while the clock is a day behind: the taps are still there, and the brew
	// continues.
	restart()
	if got := elapsed(v, path); got != 26 {
		t.Errorf("restarted at second %v", got)
	}
	if pass(5 * time.Second); elapsed(v, path) != 31 {
		t.Errorf("5 s later it is at second %v", elapsed(v, path))
	}
}

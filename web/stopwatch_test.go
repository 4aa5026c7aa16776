package web

import (
	"net/http"
	"strconv"
	"strings"
	"testing"
	"time"
)

// elapsed is the second at which the Brew station says that a brew stands.
func (v *visitor) elapsed(path string) float64 {
	v.t.Helper()
	_, body := v.get(path + "/brew")
	_, after, _ := strings.Cut(body, `data-elapsed="`)
	text, _, _ := strings.Cut(after, `"`)
	s, err := strconv.ParseFloat(text, 64)
	if err != nil {
		v.t.Fatalf("no second on the page: %v", err)
	}
	return s
}

// Somebody, or a time server, sets the clock in mid-brew. Reckoning by the wall clock
// freezes the brew here, and its taps do nothing.
func TestAClockThatIsSetDoesNotMoveABrew(t *testing.T) {
	t.Parallel()
	v := visit(t)
	var up time.Duration
	restart := func() {
		var err error
		if v.s, err = New(Config{Store: v.store, Log: v.s.Log, Now: v.s.Now, Uptime: func() time.Duration { return up }}); err != nil {
			t.Fatal(err)
		}
	}
	restart()
	const path = "/brews/" + planned
	v.post(path + "/start")
	pass := func(d time.Duration) { v.now, up = v.now.Add(d), up+d }
	pass(14 * time.Second)
	v.post(path+"/touch", "key", "a", "kind", "advance")
	for _, step := range []time.Duration{-time.Hour, 3 * time.Hour, -26 * time.Hour} {
		before := v.elapsed(path)
		v.now = v.now.Add(step)
		pass(4 * time.Second)
		if got := v.elapsed(path); got != before+4 {
			t.Errorf("a step of %v: from second %v to %v", step, before, got)
		}
	}
	if code, _ := v.post(path+"/touch", "key", "b", "kind", "mark", "mark", "stall"); code != http.StatusSeeOther {
		t.Errorf("a touch after it: status %d", code)
	}
	if _, body := v.get(path + "/brew"); !strings.Contains(body, "0:26 stall") {
		t.Error("the touch is not kept at its second")
	}
	// The program is started anew while the clock is a day behind: what was tapped stands, and time goes on.
	restart()
	if got := v.elapsed(path); got != 26 {
		t.Errorf("started anew at second %v", got)
	}
	if pass(5 * time.Second); v.elapsed(path) != 31 {
		t.Errorf("5 s later it is at second %v", v.elapsed(path))
	}
}

package e2e

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"strings"
	"sync/atomic"
	"testing"
	"yardbloom/e2e/yard"
)

// A proxy answers in place of a server that is away or whose disk is full. Mutation caught: a queue that
// drops a tap on such an answer.
func TestTapSurvivesAProxyError(t *testing.T) {
	t.Parallel()
	y, _ := start(t, true)
	target, err := url.Parse(y.URL)
	if err != nil {
		t.Fatal(err)
	}
	var away atomic.Int64 // status in the server's place; 0 for none
	pass := httputil.NewSingleHostReverseProxy(target)
	proxy := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if status := int(away.Load()); status > 0 && strings.HasSuffix(r.URL.Path, "/tap") {
			http.Error(w, "away", status)
			return
		}
		pass.ServeHTTP(w, r)
	}))
	t.Cleanup(proxy.Close)

	u := screen(t, proxy.URL)
	u.open("/brews/evening-seed-next/brew")
	u.until(`document.readyState === "complete"`)
	u.click("#tap")
	u.until(`document.querySelector("#live") && document.readyState === "complete"`)
	for _, status := range []int64{http.StatusBadGateway, http.StatusInsufficientStorage, http.StatusInternalServerError,
		http.StatusTooManyRequests} {
		away.Store(status)
		u.press("d")
		u.sees("#said", "will be sent")
	}
	u.press("c")
	away.Store(0)
	u.sees("#said", "channel")
	if said := u.text("#said"); strings.Count(said, "dry spot") != 4 {
		t.Errorf("of four taps there are: %q", said)
	}
	// A refused tap is dropped, and the next one is sent.
	away.Store(http.StatusUnprocessableEntity)
	u.press("s")
	u.until(`!Object.keys(localStorage).some(k => k.startsWith("tap "))`)
	away.Store(0)
	u.press("x")
	u.sees("#said", "spill")

	// Two tabs wait for the server, and one of them is closed: its taps stay on the device. Mutation
	// caught: one list that both tabs overwrite.
	away.Store(http.StatusBadGateway)
	other := screen(t, proxy.URL)
	other.open("/brews/evening-seed-next/brew")
	other.press("d")
	other.sees("#said", "will be sent")
	u.press("x")
	u.sees("#said", "will be sent")
	other.Close()
	away.Store(0)
	u.ok(u.Reload())
	u.until(`document.querySelector("#said").innerText.split("dry spot").length === 6 &&
		document.querySelector("#said").innerText.split("spill").length === 3`)
}

// A tablet whose clock is set during a brew continues at the right second.
func TestSettingATabletsClockDoesNotMoveTheBrew(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	u.open("/brews/evening-seed-next/brew")
	u.until(`document.readyState === "complete"`)
	u.click("#tap")
	u.until(`document.querySelector("#live") && document.readyState === "complete"`)
	u.until(`document.querySelector("#clock").innerText !== "0:00"`)
	for _, step := range []string{"-3600e3", "7200e3"} {
		u.until(`(() => { const wall = Date.now; Date.now = () => wall() + (` + step + `); return true })()`)
		u.until(`document.querySelector("#clock").innerText.startsWith("0:") && ` + shownSecond + ` < 30 && ` + shownSecond + ` >= 1`)
		second, err := yard.Eval[float64](u.Screen, shownSecond)
		u.ok(err)
		u.until(fmt.Sprintf(`%s > %g`, shownSecond, second)) // the clock runs
		u.until(shownSecond + ` < 30 && ` + shownSecond + ` > 2`)
	}
	u.press("c")
	u.sees("#said", "channel")
	if said := u.text("#said"); !strings.HasPrefix(said, "Marked: 0:") {
		t.Errorf("marked: %q", said)
	}
}

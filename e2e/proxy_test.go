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
	"time"

	"yardbloom/core/brew"
	"yardbloom/e2e/yard"
)

// proxyOf serves a proxy of a yard and returns its address. answer may call pass, which forwards the request.
func proxyOf(t *testing.T, y *yard.Yard, answer func(w http.ResponseWriter, r *http.Request, pass http.Handler)) string {
	t.Helper()
	target, err := url.Parse(y.URL)
	if err != nil {
		t.Fatal(err)
	}
	pass := httputil.NewSingleHostReverseProxy(target)
	proxy := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) { answer(w, r, pass) }))
	t.Cleanup(proxy.Close)
	return proxy.URL
}

// A proxy or a captive portal answers in the app's place, or an answer stalls after its head. Mutations caught: a
// queue that drops a tap on such an answer, or that stops after one.
func TestTapSurvivesAnotherServersAnswer(t *testing.T) {
	t.Parallel()
	y, _ := start(t, true)
	const stalls = -1
	var away atomic.Int64 // status in the server's place; 0 for none
	var refused atomic.Bool
	proxy := proxyOf(t, y, func(w http.ResponseWriter, r *http.Request, pass http.Handler) {
		tapped := strings.HasSuffix(r.URL.Path, "/tap")
		switch status := int(away.Load()); {
		case tapped && status == stalls:
			w.Header().Set("Yard-Answer", r.Header.Get("Yard-Key"))
			w.Header().Set("Content-Length", "1000")
			w.WriteHeader(http.StatusOK)
			http.NewResponseController(w).Flush()
			<-r.Context().Done()
		case tapped && status > 0:
			http.Error(w, "away", status)
		case tapped && refused.Load():
			r.URL.Path = "/brews/orchard-wall-1/tap" // a brew that ended long ago
			pass.ServeHTTP(w, r)
		default:
			pass.ServeHTTP(w, r)
		}
	})

	u := screen(t, proxy)
	u.open("/brews/evening-seed-next/brew")
	u.until(`document.readyState === "complete"`)
	began := time.Now()
	u.click("#tap")
	u.until(`document.querySelector("#live") && document.readyState === "complete"`)
	answers := []int64{http.StatusOK, http.StatusBadRequest, http.StatusForbidden, http.StatusNotFound, http.StatusConflict,
		http.StatusGone, http.StatusUnprocessableEntity, http.StatusTooManyRequests, http.StatusInternalServerError,
		http.StatusBadGateway, http.StatusInsufficientStorage, stalls}
	for _, status := range answers {
		away.Store(status)
		u.press("d")
		u.sees("#said", "will be sent")
	}
	u.press("c")
	u.sees("#said", fmt.Sprintf("%d taps are kept", len(answers)+1))
	away.Store(0)
	u.sees("#said", "channel")
	if said := u.text("#said"); strings.Count(said, "dry spot") != len(answers) {
		t.Errorf("of %d taps there are: %q", len(answers), said)
	}

	// A tap that the app refuses is shown with its reason until it is dismissed, and the next one is sent.
	refused.Store(true)
	u.press("s")
	u.sees("#refused", "Not counted: stall at ")
	if at, ran := readClock(t, u.text("#refused"), "Not counted: stall at m:ss"), time.Since(began).Seconds(); at > ran {
		t.Errorf("a stall at %v s, %.1f s after the first water", at, ran)
	}
	u.sees("#refused", "The brew has moved on")
	refused.Store(false)
	u.until(`document.readyState === "complete"`)
	u.press("x")
	u.sees("#said", "spill")
	u.ok(u.Reload())
	u.sees("#refused", "Not counted: stall at ")
	u.click("#refused button")
	u.until(`document.querySelector("#refused").innerText === "" && !Object.keys(localStorage).some(k => k.startsWith("tap "))`)

	// Two tabs wait for the server, and one of them is closed: its taps stay on the device. Mutation
	// caught: one list that both tabs overwrite.
	away.Store(http.StatusBadGateway)
	other := screen(t, proxy)
	other.open("/brews/evening-seed-next/brew")
	other.press("d")
	other.sees("#said", "will be sent")
	u.press("x")
	u.sees("#said", "will be sent")
	other.Close()
	away.Store(0)
	u.ok(u.Reload())
	u.until(`document.querySelector("#said").innerText.split("dry spot").length === 14 &&
		document.querySelector("#said").innerText.split("spill").length === 3`)
}

// Taps on the board of a rush wait for the server too, with a message, and count at their own time. Mutations caught: a
// tap that is lost without a message, or that counts when it arrives.
func TestRushTapsSurviveAnotherServersAnswer(t *testing.T) {
	t.Parallel()
	y, _ := start(t, true)
	var away atomic.Int64 // status in the server's place; 0 for none
	proxy := proxyOf(t, y, func(w http.ResponseWriter, r *http.Request, pass http.Handler) {
		if status := int(away.Load()); status > 0 && r.Method == http.MethodPost {
			http.Error(w, "away", status)
			return
		}
		pass.ServeHTTP(w, r)
	})
	u := screen(t, proxy)
	u.open("/rush")
	u.fill(`input[name="order.slate-terrace-3-kept"]`, "2")
	u.fill("#same", "2")
	u.click(".button.now")
	u.sees(".do", "Begin the rush")
	for _, status := range []int64{http.StatusNotFound, http.StatusOK} {
		away.Store(status)
		u.press(" ")
		u.sees("#said", "Your tap is kept and will be sent.")
		time.Sleep(1500 * time.Millisecond) // the tap becomes older
		away.Store(0)
		u.until(`document.querySelector("#said").innerText === ""`)
		u.sees("#tap .place", "Window cone")
	}
	u.sees("#tap .tapsays", "when the water is in")
	rushes, err := y.Store.Rushes(t.Context())
	u.ok(err)
	b := kept(t, y, rushes[0].Value.Orders[0].Brew)
	if late := y.Clock.Now().Sub(b.Started).Seconds(); late < 1 || late > 600 {
		t.Errorf("the tap counts %.1f s before it was sent", late)
	}
}

// A tablet whose clock is set during a brew continues at the right second. Mutations caught: a clock that follows the wall clock of the
// tablet, one that stops when it is set back.
func TestSettingATabletsClockDoesNotMoveTheBrew(t *testing.T) {
	t.Parallel()
	y, u := start(t, true)
	y.Clock.Run()
	u.open("/brews/evening-seed-next/brew")
	u.until(`document.readyState === "complete"`)
	began := u.begins(func() {
		u.click("#tap")
		u.until(`document.querySelector("#live") && document.readyState === "complete"`)
	})
	for _, step := range []string{"-3600e3", "7200e3"} {
		u.js(`const wall = Date.now; Date.now = () => wall() + (` + step + `)`)
		sameSecond(u, began)
		second, err := yard.Eval[float64](u.Screen, shownSecond)
		u.ok(err)
		u.clock(second + 1) // it runs
		sameSecond(u, began)
	}
	u.press("c")
	u.sees("#said", "channel")
	if said := u.text("#said"); readClock(t, said, "Marked: m:ss") > time.Since(began.from).Seconds() {
		t.Errorf("marked: %q", said)
	}
}

// Two tablets without the server begin one brew, some seconds apart, and tap on. Whichever is connected first, the earlier
// first water counts, every tap is kept, and both screens ask whether it was one brew. Mutations caught: a second start that is
// dropped, taps without the start that they count from, a refused tap.
func TestTwoTabletsOfflineBrewTogether(t *testing.T) {
	t.Parallel()
	y, _ := start(t, true)
	y.Clock.Run()
	id := longBloom(t, y)
	tablet := func() (user, *atomic.Bool) {
		away := &atomic.Bool{}
		u := screen(t, proxyOf(t, y, func(w http.ResponseWriter, r *http.Request, pass http.Handler) {
			if away.Load() && r.Method == http.MethodPost {
				http.Error(w, "away", http.StatusBadGateway)
				return
			}
			pass.ServeHTTP(w, r)
		}))
		u.open("/brews/" + id + "/brew")
		u.until(`document.readyState === "complete"`)
		away.Store(true)
		return u, away
	}
	a, aAway := tablet()
	b, bAway := tablet()
	begin := func(u user) {
		u.press(" ")
		u.sees("#said", "will be sent")
	}
	begin(a)
	time.Sleep(5500 * time.Millisecond) // longer than two touches of one moment are apart
	begin(b)
	for _, u := range []user{a, b} {
		u.press(" ") // the bloom is in
		u.sees(".cue:not([hidden]) .do", "wait")
		u.press("d")
	}
	sent := `!Object.keys(localStorage).some(k => k.startsWith("tap "))`
	bAway.Store(false)
	b.until(sent)
	aAway.Store(false)
	a.until(sent)
	for _, u := range []user{a, b} {
		u.until(`document.querySelector('#brew .menu button[value="same"]')`)
		if refused := u.text("#refused"); refused != "" {
			t.Errorf("refused: %q", refused)
		}
	}
	got := kept(t, y, id)
	taps, starts := 0, 0
	for _, e := range got.Events {
		if e.Kind.IsTap() {
			taps++
		} else if e.Kind == brew.Start {
			starts++
		}
	}
	if taps != 4 || starts != 2 || got.Started.Equal(got.Origin().Instant) || !got.Started.Before(got.Origin().Instant) {
		t.Errorf("%d taps and %d starts are kept; begun at %v, first told of %v", taps, starts, got.Started, got.Origin().Instant)
	}
	a.click(`.menu:has(button[value="same"]) summary`)
	a.sees(".menu[open]", "Two screens saw a first water")
	a.click(`button[value="same"]`)
	a.until(`!document.querySelector('button[value="same"]')`)
	b.until(`!document.querySelector('button[value="same"]')`)
}

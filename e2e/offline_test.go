package e2e

import (
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"sync/atomic"
	"testing"
	"time"

	"yardbloom/e2e/yard"
)

// cable is a connection to a yard that can be pulled out.
type cable struct {
	*httptest.Server
	out atomic.Bool
}

func pulled(t *testing.T, y *yard.Yard) *cable {
	t.Helper()
	to, err := url.Parse(y.URL)
	if err != nil {
		t.Fatal(err)
	}
	proxy := &httputil.ReverseProxy{FlushInterval: -1, Rewrite: func(r *httputil.ProxyRequest) {
		r.SetURL(to)
		r.Out.Host = r.In.Host
	}}
	c := &cable{}
	c.Server = httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if c.out.Load() {
			panic(http.ErrAbortHandler)
		}
		proxy.ServeHTTP(w, r)
	}))
	t.Cleanup(c.Close)
	return c
}

// pull cuts what is open and lets nothing new through.
func (c *cable) pull() {
	c.out.Store(true)
	c.CloseClientConnections()
}

// held waits until this device holds the Brew station.
const held = `(async () => { for (const name of await caches.keys()) if (name.startsWith("pages ") && (await (await caches.open(name)).keys()).some(k => k.url.endsWith("/brew"))) return true; return false })()`

// A brew begins, goes on and ends with no server at all; when it is back, everything is there once.
func TestABrewBeginsAndGoesOnWithoutTheServer(t *testing.T) {
	t.Parallel()
	y, _ := start(t, true)
	y.Clock.Run()
	c := pulled(t, y)
	u := screen(t, c.URL)
	u.open("/brews/evening-seed-next/setup")
	u.until(`navigator.serviceWorker.controller`)
	u.ok(u.Reload()) // from here on the worker has the page and its files
	u.until(held)
	u.open("/brews/evening-seed-next/brew")
	u.until(`document.readyState === "complete"`)
	u.until(held)
	c.pull()
	u.ok(u.Reload())
	u.sees(".place", "Ready")
	began := time.Now()
	u.press(" ")
	u.sees("#said", "The server does not answer")
	u.sees("#clock", "0:03")
	u.press("d")
	u.press(" ") // the bloom is in: the screen goes on by itself
	u.sees(".cue:not([hidden]) .do", "Swirl, then wait")
	u.ok(u.Reload()) // even now

	u.sees(".cue:not([hidden]) .do", "Swirl, then wait")
	sameSecond(u, began)
	if _, err := y.Store.Brew(t.Context(), "evening-seed-next"); err == nil {
		t.Fatal("the server knows of the brew already: the cable was not out")
	}

	c.out.Store(false)
	u.until(`!Object.keys(localStorage).some(k => k.startsWith("touch "))`)
	u.sees("#said", "dry spot")
	u.sees(".cue:not([hidden]) .do", "Swirl, then wait")
	sameSecond(u, began)
	b, err := y.Store.Brew(t.Context(), "evening-seed-next")
	u.ok(err)
	kinds := map[string]int{}
	for _, e := range b.Events {
		kinds[string(e.Kind)]++
	}
	if kinds["start"] != 1 || kinds["mark"] != 1 || kinds["advance"] != 1 {
		t.Errorf("kept: %v", kinds)
	}
	if off := b.Started.Sub(yard.Morning.Add(time.Since(began))).Seconds() + time.Since(began).Seconds(); off < 0 || off > 20 {
		t.Errorf("it began %.1f s after the yard's clock stood", off)
	}

	// Off again in mid-brew, and back.
	c.pull()
	u.ok(u.Reload())
	sameSecond(u, began)
	u.press("c")
	u.sees("#said", "will be sent")
	c.out.Store(false)
	u.sees("#said", "channel")
	sameSecond(u, began)

	// The page that came from the device follows the server again: it sees what another screen does.
	other := screen(t, y.URL)
	other.open("/brews/evening-seed-next/brew")
	other.until(`document.readyState === "complete"`)
	other.press("s")
	other.sees("#said", "stall")
	u.sees("#said", "stall")
}

// What a worker of an older version held goes with it: its pages ask for files that are gone.
func TestAnOldWorkersPagesAreDropped(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	u.open("/sw.js") // no page of the app, so no worker yet
	if _, err := yard.Eval[bool](u.Screen, `(async () => { const old = await caches.open("pages /static/0123456789ab/"); await old.put("/brews/evening-seed-next/brew", new Response("of last month")); return true })()`); err != nil {
		t.Fatal(err)
	}
	u.open("/brews/evening-seed-next/setup")
	u.until(`navigator.serviceWorker.controller`)
	u.until(`(async () => !(await caches.keys()).some(k => k.includes("0123456789ab")))()`)
	u.until(held)
	u.open("/brews/evening-seed-next/brew")
	u.sees(".place", "Ready")
}

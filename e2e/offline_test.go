package e2e

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"sync/atomic"
	"testing"
	"time"

	"yardbloom/e2e/yard"
)

// cable is a connection to a yard that can be unplugged.
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

// pull closes open connections and refuses new ones.
func (c *cable) pull() {
	c.out.Store(true)
	c.CloseClientConnections()
}

// held waits until this device has cached the Brew station.
const held = `(async () => { for (const name of await caches.keys()) if (name.startsWith("pages ") &&
	(await (await caches.open(name)).keys()).some(k => k.url.endsWith("/brew"))) return true; return false })()`

// A brew begins and continues without a server; when it is back, every tap is stored once, although its recipe was archived meanwhile.
func TestBrewOffline(t *testing.T) {
	t.Parallel()
	y, _ := start(t, true)
	y.Clock.Run()
	id := longBloom(t, y)
	path := "/brews/" + id
	c := pulled(t, y)
	u := screen(t, c.URL)
	u.open(path + "/setup")
	u.until(`navigator.serviceWorker.controller`)
	u.ok(u.Reload()) // now the worker has the page and its files
	u.until(held)
	u.open(path + "/brew")
	u.until(`document.readyState === "complete"`)
	u.until(held)
	c.pull()
	u.ok(u.Reload())
	u.sees(".place", "Ready")
	before := y.Clock.Now()
	began := u.begins(func() { u.press(" "); u.sees("#said", "The server does not answer") })
	after := y.Clock.Now()
	u.clock(3)
	u.press("d")
	u.press(" ") // end of the bloom: the screen continues without the server
	u.sees(".cue:not([hidden]) .do", "Swirl, then wait")
	u.ok(u.Reload()) // still works

	u.sees(".cue:not([hidden]) .do", "Swirl, then wait")
	sameSecond(u, began)
	if _, err := y.Store.Brew(t.Context(), id); err == nil {
		t.Fatal("the server knows of the brew already: the cable was not out")
	}
	u.ok(y.Store.DiscardDraft(t.Context(), id, true, y.Clock.Now())) // on another screen

	c.out.Store(false)
	u.until(`!Object.keys(localStorage).some(k => k.startsWith("tap "))`)
	u.sees("#said", "dry spot")
	u.sees(".cue:not([hidden]) .do", "Swirl, then wait")
	sameSecond(u, began)
	b, err := y.Store.Brew(t.Context(), id)
	u.ok(err)
	kinds := map[string]int{}
	for _, e := range b.Events {
		kinds[string(e.Kind)]++
	}
	if kinds["start"] != 1 || kinds["mark"] != 1 || kinds["advance"] != 1 {
		t.Errorf("kept: %v", kinds)
	}
	if b.Started.Before(before.Add(-time.Second)) || b.Started.After(after.Add(time.Second)) {
		t.Errorf("it began at %v, not between %v and %v", b.Started, before, after)
	}

	// Offline again during the brew, and back.
	c.pull()
	u.ok(u.Reload())
	sameSecond(u, began)
	u.press("c")
	u.sees("#said", "will be sent")
	c.out.Store(false)
	u.sees("#said", "channel")
	sameSecond(u, began)

	// The page from the cache follows the server again: it shows a change by another screen.
	other := screen(t, y.URL)
	other.open(path + "/brew")
	other.until(`document.readyState === "complete"`)
	other.press("s")
	other.sees("#said", "stall")
	u.sees("#said", "stall")
}

// The cache of an older worker is dropped with it, because its pages refer to files that are gone.
func TestOldWorkersPagesAreDropped(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	u.open("/sw.js") // not a page of the app, so no worker yet
	if _, err := yard.Eval[bool](u.Screen, `(async () => { const old = await caches.open("pages /static/0123456789ab/");
		await old.put("/brews/evening-seed-next/brew", new Response("of last month")); return true })()`); err != nil {
		t.Fatal(err)
	}
	u.open("/brews/evening-seed-next/setup")
	u.until(`navigator.serviceWorker.controller`)
	u.until(`(async () => !(await caches.keys()).some(k => k.includes("0123456789ab")))()`)
	u.until(held)
	u.open("/brews/evening-seed-next/brew")
	u.sees(".place", "Ready")
}

// The sign-in page clears the stored pages of a device and keeps its unsent taps. Mutations caught: a
// worker that keeps its pages, or that drops the taps too.
func TestSignInPageClearsHeldPages(t *testing.T) {
	t.Parallel()
	y, _ := start(t, true)
	var signedOut atomic.Bool
	u := screen(t, proxyOf(t, y, func(w http.ResponseWriter, r *http.Request, pass http.Handler) {
		switch {
		case !signedOut.Load():
			pass.ServeHTTP(w, r)
		case r.URL.Path == "/sign-in":
			w.Header().Set("Yard-Sign-In", "asked")
			w.Header().Set("Yard-Answer", r.Header.Get("Yard-Key"))
			w.Header().Set("Content-Type", "text/html")
			fmt.Fprint(w, "<!doctype html><title>Sign in</title><h1>Sign in</h1>")
		default:
			http.Redirect(w, r, "/sign-in", http.StatusSeeOther)
		}
	}))
	u.open("/brews/evening-seed-next/setup")
	u.until(`navigator.serviceWorker.controller`)
	u.ok(u.Reload())
	u.until(held)
	u.open("/brews/evening-seed-next/brew")
	u.until(`document.readyState === "complete"`)
	signedOut.Store(true)
	u.press(" ")
	u.sees("h1", "Sign in") // the start was sent there, and the page reloads
	u.until(`(async () => !(await caches.keys()).some(k => k.startsWith("pages ")))()`)
	u.until(`Object.keys(localStorage).some(k => k.startsWith("tap "))`)
	signedOut.Store(false)
	u.open("/brews/evening-seed-next/brew")
	u.until(`document.querySelector("#brew")?.dataset.status === "running" && !Object.keys(localStorage).some(k => k.startsWith("tap "))`)
}

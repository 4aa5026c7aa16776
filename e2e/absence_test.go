package e2e

import (
	"bytes"
	"io"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"regexp"
	"strconv"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/e2e/yard"
)

// A front is a connection to a yard that can be unplugged, restarted, signed out, and updated to another version of the static files.
type front struct {
	*httptest.Server
	to                      atomic.Pointer[url.URL]
	out, signedOut, updated atomic.Bool
	holds                   atomic.Bool // the next request for the list of pages that a worker stores is never answered
}

var staticFolder = regexp.MustCompile(`/static/[0-9a-f]{12}/`)

const newFolder = "/static/0123456789ab/"

func frontOf(t *testing.T, y *yard.Yard) *front {
	t.Helper()
	f := &front{}
	f.turnTo(t, y)
	var folder atomic.Pointer[string]
	proxy := &httputil.ReverseProxy{FlushInterval: -1, Rewrite: func(r *httputil.ProxyRequest) {
		r.SetURL(f.to.Load())
		r.Out.Host = r.In.Host
		r.Out.Header.Del("Accept-Encoding")
		if old := folder.Load(); old != nil {
			r.Out.URL.Path = strings.Replace(r.Out.URL.Path, newFolder, *old, 1)
		}
	}, ModifyResponse: func(r *http.Response) error {
		kind := r.Header.Get("Content-Type")
		if !f.updated.Load() || !strings.HasPrefix(kind, "text/html") && !strings.Contains(kind, "json") && !strings.Contains(kind, "javascript") {
			return nil
		}
		body, err := io.ReadAll(r.Body)
		if old := staticFolder.FindString(string(body)); old != "" && old != newFolder {
			folder.Store(&old)
		}
		body = staticFolder.ReplaceAll(body, []byte(newFolder))
		r.Body, r.ContentLength = io.NopCloser(bytes.NewReader(body)), int64(len(body))
		r.Header.Set("Content-Length", strconv.Itoa(len(body)))
		return err
	}}
	f.Server = httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch {
		case f.out.Load():
			panic(http.ErrAbortHandler)
		case r.URL.Path == "/offline.json" && f.holds.CompareAndSwap(true, false):
			<-r.Context().Done()
		case f.signedOut.Load() && r.URL.Path == "/sign-in":
			w.Header().Set("Yard-Sign-In", "asked")
			w.Header().Set("Yard-Answer", r.Header.Get("Yard-Key"))
			_, _ = io.WriteString(w, "<!doctype html><title>Sign in</title><h1>Sign in</h1>")
		case f.signedOut.Load() && !strings.HasPrefix(r.URL.Path, "/static/"):
			http.Redirect(w, r, "/sign-in", http.StatusSeeOther)
		default:
			proxy.ServeHTTP(w, r)
		}
	}))
	t.Cleanup(f.Close)
	return f
}

func (f *front) turnTo(t *testing.T, y *yard.Yard) {
	t.Helper()
	to, err := url.Parse(y.URL)
	if err != nil {
		t.Fatal(err)
	}
	f.to.Store(to)
}

// A brew of one of the last recipes continues without the server from each of its steps, and arrives once, whichever event the server had
// meanwhile. Each step and each event occurs once; the unit tests of the queue have the other pairs. Mutations caught: a start that
// a restarted server takes twice, taps that are dropped with the session, a cup that the old worker's pages lose,
// a worker that still stores pages after a new version was found.
func TestBrewGoesOnFromEachStep(t *testing.T) {
	t.Parallel()
	for _, c := range []struct{ from, event string }{{"start", "restarted"}, {"pour", "signed out"}, {"finish", "down"}, {"taste", "updated"}} {
		t.Run(c.from+", "+c.event, func(t *testing.T) {
			t.Parallel()
			dir := t.TempDir()
			y, err := yard.Start(dir, true)
			if err != nil {
				t.Fatal(err)
			}
			y.Clock.Run()
			f := frontOf(t, y)
			u := screen(t, f.URL)
			u.open("/")
			keeps(u, "/offline", "/offline/cup", "/brews/slate-terrace-15/ready")
			u.until(`(async () => { for (const name of await caches.keys()) if (name.startsWith("files ") && (await (await caches.open(name)).keys()).some(k =>
				k.url.endsWith("/waiting.js"))) return true; return false })()`)
			u.open("/brews/slate-terrace-15/ready")
			u.sees(".place", "Ready")
			step := func(name string, do func()) {
				if name == c.from {
					f.out.Store(true)
					f.CloseClientConnections()
				}
				do()
			}
			taps := func(n int) func() {
				return func() {
					for range n {
						time.Sleep(2800 * time.Millisecond)
						u.until(`document.readyState === "complete"`)
						u.press(" ")
					}
				}
			}
			var id string
			step("start", func() {
				u.press(" ")
				u.until(`/^\/brews\/[0-9a-f-]{36}\/brew$/.test(location.pathname)`)
				path, err := u.Path()
				u.ok(err)
				id = path[len("/brews/") : len(path)-len("/brew")]
			})
			step("pour", taps(2))
			step("finish", taps(6))
			if c.from == "taste" {
				u.at("/brews/" + id + "/cup")
			} else {
				u.sees("#left", "poured")
			}
			step("taste", func() {
				u.open("/brews/" + id + "/cup")
				u.sees("h1", "The cup")
				u.until(`document.readyState === "complete"`)
				u.fill("#beverage", "262")
				u.js(`const mark = document.querySelector('input[name="overall"][value="8"]');
					if (mark) mark.click(); else document.querySelector("#overall").value = "8"`)
				u.js(`document.querySelector('input[name="warm.acidity"][value="3"]').click()`)
				u.js(`document.querySelector("#offline-cup, .cupform").requestSubmit()`)
				u.sees("#waiting", "will be sent")
			})
			switch c.event {
			case "restarted":
				at := y.Clock
				y.Close()
				if y, err = yard.Start(dir, true); err != nil {
					t.Fatal(err)
				}
				y.Clock.Add(at.Now().Sub(y.Clock.Now()))
				y.Clock.Run()
				f.turnTo(t, y)
			case "signed out":
				f.signedOut.Store(true)
			}
			f.out.Store(false)
			switch c.event {
			case "updated": // while the worker stores pages
				f.holds.Store(true)
				u.open("/log")
				for f.holds.Load() {
					u.js(`navigator.serviceWorker.controller.postMessage("keep")`)
					time.Sleep(200 * time.Millisecond)
				}
				f.updated.Store(true)
			case "signed out":
				u.open("/log")
				u.sees("h1", "Sign in")
				u.until(`Object.keys(localStorage).some(k => k.startsWith("tap "))`)
				f.signedOut.Store(false)
			}
			u.open("/log")
			u.until(`!Object.keys(localStorage).some(k => k.startsWith("tap "))`)
			if c.event == "updated" {
				takenOver(u, "0123456789ab")
			}
			b, err := y.Store.Brew(t.Context(), id)
			u.ok(err)
			starts := 0
			for _, e := range b.Events {
				if e.Kind == brew.Start {
					starts++
				}
			}
			if b.Status != brew.Done || b.Cup.Beverage != 262 || b.Cup.Overall != 8 || starts != 1 {
				t.Errorf("%s, %v g, mark %d, %d starts", b.Status, b.Cup.Beverage, b.Cup.Overall, starts)
			}
			if all, err := y.Store.Path(t.Context(), "slate-terrace", 100); err != nil || len(all) != 17 {
				t.Errorf("%d brews of the bag, %v", len(all), err)
			}
			y.Close()
		})
	}
}

// takenOver waits until a worker has replaced those of other versions, and opens a page now and then, as a person does.
func takenOver(u user, version string) {
	u.t.Helper()
	for n := 1; n <= 1000; n++ {
		only, err := yard.Eval[bool](u.Screen, `(async () => { const r = await navigator.serviceWorker.getRegistration();
			return !r.waiting && !r.installing && (await caches.keys()).every(name => name.includes("`+version+`")) })()`)
		u.ok(err)
		if only {
			return
		}
		time.Sleep(200 * time.Millisecond)
		if n%50 == 0 {
			u.open("/log")
		}
	}
	u.t.Error("the old worker is not replaced")
}

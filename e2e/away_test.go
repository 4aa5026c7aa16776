package e2e

import (
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/e2e/yard"
)

// keeps waits until this device has kept some pages for when the server is away.
func keeps(u user, paths ...string) {
	u.t.Helper()
	u.until(`navigator.serviceWorker.controller`)
	u.js(`navigator.serviceWorker.controller.postMessage("keep")`)
	for _, path := range paths {
		u.until(`(async () => Boolean(await caches.match("` + path + `")))()`)
	}
}

// away is a screen that has kept its pages, and the cable to its yard.
func away(t *testing.T) (*yard.Yard, *cable, user) {
	t.Helper()
	y, _ := start(t, true)
	y.Clock.Run()
	c := pulled(t, y)
	u := screen(t, c.URL)
	u.open("/")
	keeps(u, "/", "/glossary", "/offline", "/offline/cup", "/brews/slate-terrace-15/ready", "/brews/long-meadow-3")
	u.until(`(async () => { for (const name of await caches.keys()) if (name.startsWith("files ") && (await (await caches.open(name)).keys()).some(k =>
		k.url.endsWith("/waiting.js"))) return true; return false })()`)
	return y, c, u
}

// Without the server the shelf, the glossary, the book and the last brews can be read, and a page that is not kept leads to the brews that can
// begin. Mutations caught: a page that is kept under a version of the files that is gone, a form that ends on the browser's own error page.
func TestPagesAreReadWithoutTheServer(t *testing.T) {
	t.Parallel()
	_, c, u := away(t)
	keeps(u, "/book", "/log", "/brews/slate-terrace-3-kept/card")
	c.pull()
	for path, says := range map[string]string{"/": "Slate Terrace", "/glossary": "Bypass", "/book": "Terrace at the window", "/log": "Orchard Wall",
		"/brews/long-meadow-3": "Long Meadow", "/brews/slate-terrace-3-kept/card": "Terrace at the window"} {
		u.open(path)
		u.sees("main", says)
		u.sees("#waiting", "this page is from")
	}
	u.open("/gear")
	u.sees("h1", "Without the server")
	u.open("/")
	u.click(".bag form .button")
	u.sees("h1", "Without the server")
	c.out.Store(false)
	u.open("/gear")
	u.sees("h1", "Gear")
}

// A brew of one of the last recipes begins, is poured, ended and tasted without the server, also over a reload, and arrives once, also if its bag
// was removed meanwhile. Mutations caught: a copy for each attempt, a reload that forgets the start, a brew that is lost with its bag.
func TestWholeBrewWithoutTheServer(t *testing.T) {
	t.Parallel()
	y, c, u := away(t)
	c.pull()
	u.open("/offline")
	u.clickText("main a", "Slate Terrace")
	u.sees(".place", "Ready")
	u.press(" ")
	u.until(`/^\/brews\/[0-9a-f-]{36}\/brew$/.test(location.pathname)`)
	u.clock(2)
	u.press("d")
	u.until(`(async () => Boolean(await caches.match(location.pathname)))()`)
	u.ok(u.Reload())
	u.clock(3)
	u.until(shownSecond + ` >= 45 || document.querySelector(".cue:not([hidden])").innerText.includes("Bloom")`) // the bloom ends at 0:45
	path, err := u.Path()
	u.ok(err)
	id := path[len("/brews/") : len(path)-len("/brew")]
	u.js(`document.querySelector('#tap').closest("form").action.includes("` + id + `") || (() => { throw new Error("another brew") })()`)
	for range 8 { // to the end; a second tap at once would be a double tap
		time.Sleep(2800 * time.Millisecond)
		u.press(" ")
	}
	u.sees("#left", "poured")
	u.open("/brews/" + id + "/cup")
	u.sees("h1", "The cup")
	u.fill("#beverage", "262")
	u.js(`document.querySelector('input[name="overall"][value="8"]').click()`)
	u.js(`document.querySelector('input[name="warm.acidity"][value="3"]').click()`)
	u.click("#offline-cup .button.now")
	u.sees("#waiting", "will be sent")
	u.ok(y.Store.DeleteBag(t.Context(), "slate-terrace", yard.Morning))
	c.out.Store(false)
	u.open("/log")
	u.until(`!Object.keys(localStorage).some(k => k.startsWith("tap "))`)
	b, err := y.Store.Brew(t.Context(), id)
	u.ok(err)
	marks := 0
	for _, e := range b.Events {
		if e.Kind == brew.MarkEvent {
			marks++
		}
	}
	if b.Status != brew.Done || b.Cup.Beverage != 262 || b.Cup.Overall != 8 || marks != 1 || b.Parent != "slate-terrace-15" {
		t.Errorf("%s, %v g, mark %d, %d marks, after %s", b.Status, b.Cup.Beverage, b.Cup.Overall, marks, b.Parent)
	}
	if all, err := y.Store.Path(t.Context(), "slate-terrace", 100); err != nil || len(all) != 17 {
		t.Errorf("%d brews of the bag, %v", len(all), err)
	}
}

// The manifest and its icons are there. Mutation caught: an icon that the build leaves out.
func TestAppIsInstallable(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	u.open("/")
	ok, err := yard.Eval[string](u.Screen,
		`(async () => { const link = document.querySelector('link[rel="manifest"]'), m = await (await fetch(link.href)).json();
		const bad = [];
		for (const i of m.icons) {
			const img = new Image(); img.src = i.src; await img.decode(); if (img.naturalWidth + "x" + img.naturalHeight !== i.sizes) bad.push(i.src); }
		if (!m.icons.some(i => i.purpose === "maskable") || m.display !== "standalone" || m.scope !== "/") bad.push("manifest");
		return bad.join(" "); })()`)
	u.ok(err)
	if ok != "" {
		t.Error(ok)
	}
}

package e2e

import (
	"bytes"
	"slices"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/person"
	"yardbloom/demo"
	"yardbloom/e2e/yard"
)

// startWithPeople serves the demo yard with its people; Marta is at the screen.
func startWithPeople(t *testing.T) (*yard.Yard, user) {
	t.Helper()
	y, u := startNamed(t)
	u.open("/keys")
	u.js(`document.cookie = "person=marta; path=/"`)
	return y, u
}

// startNamed serves the demo yard with its people, on a device without a chosen person.
func startNamed(t *testing.T) (*yard.Yard, user) {
	t.Helper()
	y, u := start(t, true)
	u.ok(demo.Name(t.Context(), y.Store))
	device, err := browser.Device()
	u.ok(err)
	t.Cleanup(device.Close)
	u.Screen = device
	u.ok(u.Size(1280, 800))
	return y, u
}

// Two people at one tablet taste one brew, chosen by a tap in the header: two tastings, two pieces of advice. The
// choice stays with the device. Mutations caught: a tasting by the previous person, advice for the wrong person, a
// choice that is lost.
func TestTwoPeopleTasteOneBrew(t *testing.T) {
	t.Parallel()
	y, u := startNamed(t)
	u.open("/log")
	u.sees(".chooser", "Who is here?")
	u.click(`.chooser button[aria-label="Tilda"]`)
	u.until(`document.querySelector('.chooser button[aria-label="Tilda"]').getAttribute("aria-pressed") === "true"`)

	taste := func(name, mark string, pick ...string) {
		u.open("/brews/long-meadow-3/cup")
		u.sees(`.tasters [aria-current="true"]`, name)
		u.fill("#beverage", "216")
		u.fill("#tds", "1.36")
		for _, css := range pick {
			u.js(`document.querySelector('` + css + `').click()`)
		}
		u.fill("#overall", mark)
		u.click(".head .button.now")
		u.sees("h1", "What next for "+name+"?")
	}
	taste("Tilda", "9", `input[name="warm.sweetness"][value="4"]`, `input[name="serve"][value="yes"]`)
	u.sees(".one-change .change", "Keep the recipe")
	tilda := u.text(".advice h2")
	u.click(`.chooser button[aria-label="Ivo"]`)
	u.sees(".notice", "You have not tasted this cup.")
	taste("Ivo", "5", `input[name="warm.body"][value="1"]`, `input[name="serve"][value="no"]`)
	u.sees(".differ", "Tastes differ: fine for Tilda, stronger for Ivo")
	if ivo := u.text(".advice h2"); ivo == tilda {
		t.Errorf("both are told %q", ivo)
	}
	u.click(`.tasters a[href*="tilda"]`)
	u.sees("h1", "What next for Tilda?")
	u.sees(".advice h2", tilda)
	u.ok(u.Reload())
	u.until(`document.querySelector('.chooser button[aria-label="Ivo"]').getAttribute("aria-pressed") === "true"`)

	// A tap has the name of the person at the screen.
	u.open("/brews/evening-seed-next/brew")
	u.click("#tap")
	u.until(`document.querySelector("#brew").dataset.status === "running"`)
	u.press("d")
	u.sees("#said", "dry spot")
	u.until(`!document.querySelector("#said").classList.contains("lost")`)
	b := kept(t, y, "evening-seed-next")
	marked := slices.ContainsFunc(b.Events, func(e brew.Event) bool { return e.Kind == brew.MarkEvent && e.By == "ivo" })
	if b.BrewedBy != "ivo" || !marked {
		t.Errorf("brewed by %q, events %+v", b.BrewedBy, b.Events)
	}
}

// A yard of one person looks the same whether the person was entered or not. Mutation caught: any pixel that appears
// with the first person.
func TestOnePersonSeesTheSamePixels(t *testing.T) {
	t.Parallel()
	y, u := start(t, true)
	paths := []string{"/", "/log", "/brews/slate-terrace-4", "/brews/slate-terrace-4/next", "/brews/slate-terrace-4/cup",
		"/brews/evening-seed-next/recipe", "/brews/evening-seed-next/setup", "/book", "/practice"}
	picture := func() []byte {
		time.Sleep(300 * time.Millisecond)
		png, err := u.Picture()
		u.ok(err)
		return png
	}
	// look opens a page and returns its picture once it no longer changes.
	look := func(path string) []byte {
		u.open(path)
		_, err := yard.Eval[bool](u.Screen, `document.fonts.ready.then(() => { document.activeElement.blur(); return true })`)
		u.ok(err)
		u.until(`document.readyState === "complete" && typeof htmx === "object"`)
		png := picture()
		for range 40 {
			next := picture()
			if bytes.Equal(png, next) {
				return png
			}
			png = next
		}
		t.Fatalf("%s never rests", path)
		return nil
	}
	before := map[string][]byte{}
	for _, path := range paths {
		look(path) // the first visit fetches fonts and scripts
		before[path] = look(path)
	}
	u.ok(y.Store.AddPerson(t.Context(), person.Person{ID: "ada", Name: "Ada", Initials: "A", Mark: person.Leaf}, true))
	for _, path := range paths {
		same := bytes.Equal(look(path), before[path])
		for end := time.Now().Add(2 * time.Minute); !same && time.Now().Before(end); {
			same = bytes.Equal(look(path), before[path]) // a slow machine may show a page before all of its scripts ran
		}
		if !same {
			t.Errorf("%s has changed", path)
		}
	}
}

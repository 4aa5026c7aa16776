package e2e

import (
	"image"
	"image/jpeg"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp/kb"
)

// The log is searched, filtered and compared, and a brew corrected, deleted and brought back, by keyboard alone. Mutations caught: a key
// that the page takes from a field, a focus that a live result loses, a mark that cannot be reached.
func TestLogByKeyboardAlone(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	u.open("/log")
	toSearch(u)
	u.press("slate")
	u.until(`[...document.querySelectorAll(".log-row strong")].every(e => e.innerText === "Slate Terrace") && location.search.includes("q=slate")`)
	u.focused("#q")
	tabTo(u, "#filters > summary")
	u.press(kb.Enter)
	tabTo(u, "#low")
	u.press("6")
	u.press(kb.Tab)
	u.until(`location.search.includes("low=6") && document.querySelectorAll(".log-row").length === 14`)

	toSearch(u)
	u.press(kb.ArrowDown)
	u.focused(".log li:nth-child(1) .row-open")
	u.press("c")
	u.press(kb.ArrowDown)
	u.press("c")
	u.until(`document.querySelector("#compare-marked").innerText === "Compare 2 brews"`)
	tabTo(u, "#compare-marked")
	u.press(kb.Enter)
	u.at("/log/compare")
	u.sees("main", "apart")

	tabTo(u, ".compared thead a")
	u.press(kb.Enter)
	u.until(`document.querySelector("#cup-title")`)
	brew := u.text("h1") + u.text(".head .hint")
	record, err := u.Path()
	u.ok(err)
	tabTo(u, `main a[href$="/cup"]`)
	u.press(kb.Enter)
	u.until(`document.querySelector("#tds")`)
	tabTo(u, "#tds")
	u.js(`document.activeElement.select()`) // as Tab does in a browser with a window
	u.press("1.40")
	tabTo(u, "form[action$='/cup'] .button.now")
	u.press(kb.Enter)
	u.until(`location.pathname.endsWith("/next")`)
	u.open(record)
	u.sees("main", "1.40")
	tabTo(u, ".card details > summary")
	u.press(kb.Enter)
	u.sees(".card details[open] li", "TDS was")

	tabTo(u, "form[action$='/delete'] button")
	u.press(kb.Enter)
	u.at("/log")
	tabTo(u, "form[action$='/restore'] button")
	u.press(kb.Enter)
	u.until(`document.querySelector("#cup-title")`)
	if after := u.text("h1") + u.text(".head .hint"); after != brew {
		t.Errorf("%q came back, not %q", after, brew)
	}
}

// toSearch goes to the search by its key. The driver also types the key's character, which a person's browser does not.
func toSearch(u user) {
	u.t.Helper()
	u.js(`document.querySelector("#q").addEventListener("beforeinput", e => { if (e.data === "/") e.preventDefault(); })`)
	u.js(`document.activeElement.blur()`)
	u.press("/")
	u.focused("#q")
}

// A photo is added without leaving the form that is being filled in, and a file that is none gets its sentence. Mutation caught: a page
// that is loaded again and drops what was typed.
func TestPhotoIsAddedBesideAHalfFilledCup(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	dir := t.TempDir()
	good, bad := filepath.Join(dir, "bed.jpg"), filepath.Join(dir, "bed.png")
	f, err := os.Create(good)
	u.ok(err)
	u.ok(jpeg.Encode(f, image.NewGray(image.Rect(0, 0, 600, 400)), nil))
	u.ok(f.Close())
	u.ok(os.WriteFile(bad, []byte("<svg/>"), 0o600))
	u.open("/brews/long-meadow-3/cup")
	u.fill("#beverage", "203")
	for _, c := range []struct{ file, shows string }{{bad, "#photo-about .error"}, {good, ".photo-list img"}} {
		u.ok(u.Upload("#photo", c.file))
		u.click(".add-photo button")
		u.until(`document.querySelector("` + c.shows + `")`)
	}
	u.value("#beverage", "203")
	u.click(`[action$="/remove"] button`)
	u.until(`!document.querySelector(".photo-list")`)
	u.click(`[action$="/restore"] button`)
	u.until(`document.querySelector(".photo-list img").complete && document.querySelector(".photo-list img").naturalWidth === 320`)
	u.value("#beverage", "203")
}

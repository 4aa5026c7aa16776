package e2e

import (
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"

	"yardbloom/e2e/yard"
)

// A new coffee gets a recipe that drains in its window by the model, each value with its reason; only the
// reason of the focused knob is visible.
func TestFirstRecipeOnANewBag(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	u.open("/bags/new")
	u.fill("#name", "Potting Mix")
	u.ok(u.Choose("#roast", "1"))
	u.ok(u.Choose("#roasted_on", "2026-05-10"))
	u.click("form.card .button.now")
	u.sees("h1", "Potting Mix")
	u.sees(".stock", "very fresh")
	u.click(".head .button.now")
	u.sees("h1", "The recipe: Three rounds")
	u.until(`!document.querySelector(".recipe-warnings") || !document.querySelector(".recipe-warnings").innerText.includes("wanted")`)
	tabTo(u, "#setting")
	u.until(`[...document.querySelectorAll(".knobs .knob-about")].filter(a => a.offsetParent &&
		getComputedStyle(a).display !== "none").length === 1`)
	u.sees(".knob:focus-within .knob-about", "cups of such coffees that you liked")
	u.sees(".knob:focus-within .effects", "EY")
	// Everything important is on the first screen, with the link to the next station.
	u.until(`["#setting", "#dose", "#ratio", "#temperature", "#pours", ".ribbon-wide", ".cutaway", ".forecast",
		".recipe-head .button.now"].every(css => { const r = document.querySelector(css).getBoundingClientRect(); return r.top >= 0 &&
			r.bottom <= innerHeight })`)
	for _, size := range [][2]int64{{390, 844}, {820, 1180}, {1180, 820}} {
		u.ok(u.Size(size[0], size[1]))
		u.until(`document.documentElement.scrollWidth <= innerWidth`)
	}
}

// An impossible value of a pour stays in its field with an error; impossible splits and removals give a
// reason.
func TestImpossibleEditsAreReported(t *testing.T) {
	t.Parallel()
	u := editing(t)
	u.fill(`[name="pours.2.water"]`, "900")
	u.press(kb.Tab)
	u.sees(".pours .error", "can be 1 to")
	u.entry("pours.2.water", "900")
	u.click("#undo") // nothing was changed, so there is nothing to undo; the field is corrected by typing
	u.fill(`[name="pours.2.water"]`, "8")
	u.press(kb.Tab)
	u.until(`!document.querySelector(".pours .error")`)
	u.click("#pour-2-more summary")
	u.click("#pour-2-split")
	u.sees(".pours > .error", "the pour is too small to split")
	u.total(4, "297 g")
}

// Each way to brew, from the coffee to the set-up, has its own knobs, figure, steps and cautions.
func TestEachModeFromCoffeeToSetUp(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	for _, c := range []struct{ name, style, brewer, knob, figure, step, caution string }{
		{"over ice", "ice-hot-and-slow", "window-cone", "#ice", ".cut-ice", "Weigh the ice into the carafe", "on ice can crack"},
		{"steep", "steep-and-release", "shed-steeper", "#release", ".cut-crust", "Shut the valve", "The valve opens"},
		{"diluted", "concentrate", "window-cone", "#dilution", ".cut-coffee", "Set water aside for dilution", "scalds"},
		{"hot", "pulses", "window-cone", "#pours", ".cut-water", "make a small well", "scalds"},
	} {
		u.open("/bags/first-frost/wish")
		u.until(`document.readyState === "complete"`)
		if _, err := yard.Eval[bool](u.Screen, `(() => { const f = document.querySelector('form[method=post][action$="/wish"]');
			for (const [name, v] of Object.entries({brewer: "`+c.brewer+`", grinder: "bench-grinder", style: "`+c.style+`"}))
				f.querySelector("[name=" + name + "]").value = v;
			f.querySelector("button").click(); return true })()`); err != nil {
			t.Fatal(err)
		}
		u.sees("h1", "The recipe")
		u.until(`document.querySelector("` + c.knob + `")`)
		u.until(`document.querySelector("` + c.figure + `")`)
		if c.figure == ".cut-ice" || c.figure == ".cut-crust" { // visible at some moment of the brew
			u.until(`JSON.parse(document.querySelector(".cutaway").dataset.frames).some(f => f[` +
				map[string]string{".cut-crust": "3", ".cut-ice": "4"}[c.figure] + `] !== "")`)
		}
		u.click(".recipe-head .button.now")
		u.sees("#checklist", c.step)
		u.sees(".cautions", c.caution)
		u.click(".head .button.now")
		u.until(`document.querySelector("#start-form")`)
		u.open("/bags/first-frost")
		u.click(`#recipes form[action$="/discard"] button`)
		u.sees(".notice", "archived")
	}
}

// A card prints on one sheet of A6, four on one of A4, without the rest of the page.
func TestCardPrintsOnItsPaper(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	for _, c := range []struct {
		query string
		w, h  float64 // mm
	}{{"", 105, 148}, {"?sheet=a4", 210, 297}} {
		u.open("/brews/slate-terrace-4/card" + c.query)
		u.until(`document.readyState === "complete" && document.querySelector(".card-paper .ribbon")`)
		pdf, err := u.PDF()
		u.ok(err)
		pages := regexp.MustCompile(`/MediaBox \[0 0 ([\d.]+) ([\d.]+)\]`).FindAllSubmatch(pdf, -1)
		if len(pages) != 1 {
			t.Errorf("%q prints on %d sheets", c.query, len(pages))
			continue
		}
		const mm = 72 / 25.4
		w, _ := strconv.ParseFloat(string(pages[0][1]), 64)
		h, _ := strconv.ParseFloat(string(pages[0][2]), 64)
		if w < c.w*mm-2 || w > c.w*mm+2 || h < c.h*mm-2 || h > c.h*mm+2 {
			t.Errorf("%q prints on %.0f × %.0f mm", c.query, w/mm, h/mm)
		}
		u.until(`[...document.querySelectorAll(".card-paper")].every(c => c.scrollHeight <= c.clientHeight + 1 &&
			c.scrollWidth <= c.clientWidth + 1)`)
	}
}

// A trade term in a sentence opens its entry in place, by the mouse and by keyboard, and the entry leads to the glossary. Mutations caught: a
// link that leaves the page, one in a line of the set-up that also ticks the line.
func TestTermsOpenInPlace(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	const page, link = "/brews/slate-terrace-3/next", `main p a.term[data-in="sentence"]`
	u.open(page)
	u.until(`document.readyState === "complete"`)
	word, err := u.Text(link)
	u.ok(err)
	for _, open := range []func(){func() { u.click(link) }, func() { u.ok(u.Focus(link)); u.press("\r") }} {
		open()
		u.until(`document.querySelector("#term").matches(":popover-open")`)
		u.until(`document.querySelector("#term strong").textContent.toLowerCase().includes(` + strconv.Quote(strings.ToLower(word)) + `)`)
		u.at(page)
		u.press("\x1b")
		u.until(`!document.querySelector("#term").matches(":popover-open")`)
	}
	u.click(link)
	u.click("#term a")
	u.at("/glossary")
	u.until(`document.querySelector(".glossary :target")`)
	u.open("/brews/evening-seed-next/setup")
	u.until(`document.readyState === "complete"`)
	u.click(`#checklist label a.term`)
	u.until(`document.querySelector("#term").matches(":popover-open")`)
	if ticked, err := yard.Eval[int](u.Screen, `document.querySelectorAll("#checklist :checked").length`); err != nil || ticked > 0 {
		t.Errorf("a look at a term ticks %d lines, %v", ticked, err)
	}
}

// Package e2e tests the product as people use it: in a real browser, by mouse, by keyboard alone, on two
// screens, and with the server killed during a brew.
package e2e

import (
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"yardbloom/e2e/yard"
)

var (
	browser *yard.Screen
	scratch string // a folder that is removed after the tests
)

func TestMain(m *testing.M) {
	var err error
	if scratch, err = os.MkdirTemp("", "yardbloom"); err == nil {
		browser, err = yard.Browser()
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	code := m.Run()
	browser.Close()
	os.RemoveAll(scratch)
	os.Exit(code)
}

// A user uses one screen of a yard.
type user struct {
	*yard.Screen
	t   *testing.T
	url string
}

func start(t *testing.T, withDemo bool) (*yard.Yard, user) {
	t.Helper()
	y, err := yard.Start(t.TempDir(), withDemo)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(y.Close)
	return y, screen(t, y.URL)
}

func screen(t *testing.T, url string) user {
	t.Helper()
	s, err := browser.Another()
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(s.Close)
	u := user{s, t, url}
	u.ok(s.Size(1280, 800))
	return u
}

func (u user) ok(err error) {
	u.t.Helper()
	if err != nil {
		u.t.Fatal(err)
	}
}

func (u user) open(path string)      { u.t.Helper(); u.ok(u.Open(u.url + path)) }
func (u user) click(css string)      { u.t.Helper(); u.ok(u.Click(css)) }
func (u user) fill(css, text string) { u.t.Helper(); u.ok(u.Fill(css, text)) }
func (u user) sees(css, text string) { u.t.Helper(); u.ok(u.UntilText(css, text)) }
func (u user) until(js string)       { u.t.Helper(); u.ok(u.Until(js)) }

// js executes a statement in the page.
func (u user) js(statement string) {
	u.t.Helper()
	_, err := yard.Eval[bool](u.Screen, "(() => { "+statement+"; return true })()")
	u.ok(err)
}

// press presses keys after the page has loaded its scripts.
func (u user) press(keys string) {
	u.t.Helper()
	u.until(`document.readyState === "complete"`)
	u.ok(u.Press(keys))
}

// alt presses a shortcut.
func (u user) alt(key string) {
	u.t.Helper()
	u.until(`document.readyState === "complete"`)
	u.ok(u.Press(key, chromedp.ModifierAlt))
}

func (u user) at(path string) { u.t.Helper(); u.ok(u.UntilPath(path)) }
func (u user) value(css, want string) {
	u.t.Helper()
	u.until(fmt.Sprintf(`document.querySelector(%q)?.value === %q`, css, want))
}
func (u user) text(css string) string {
	u.t.Helper()
	s, err := u.Text(css)
	u.ok(err)
	return strings.ReplaceAll(s, "\u00a0", " ")
}
func (u user) focused(css string) {
	u.t.Helper()
	u.until(fmt.Sprintf(`document.activeElement.matches(%q)`, css))
}

// pour taps through a brew in three rounds, with the clock jumping from tap to tap. The clock of the screen also runs between
// them; pour returns the most seconds that it ran before the last tap.
func pour(u user, y *yard.Yard, tap func()) (ran time.Duration) {
	u.t.Helper()
	taps := []struct {
		after time.Duration
		then  string
	}{
		{14 * time.Second, "Swirl, then wait"}, {31 * time.Second, "Pour to"}, {17 * time.Second, "Wait"}, {23 * time.Second, "Pour to"},
		{17 * time.Second, "Wait"}, {23 * time.Second, "Pour to"}, {18 * time.Second, "Swirl, let it drain"}, {55 * time.Second, ""},
	}
	for _, step := range taps {
		y.Clock.Add(step.after)
		loaded := time.Now()
		u.ok(u.Reload())
		u.until(`document.querySelector("#tap")`)
		tap()
		ran = time.Since(loaded)
		if step.then != "" {
			u.sees(".cue:not([hidden]) .do", step.then)
		}
	}
	return ran
}

func TestWholeLineByMouse(t *testing.T) {
	t.Parallel()
	y, u := start(t, false)
	seedGear(t, y)
	u.open("/")
	u.sees("h2", "The shelf is empty")
	u.click(".empty .button")
	u.fill("#name", "Window Box")
	u.ok(u.Choose("#roast", "2"))
	u.ok(u.Choose("#process", "natural"))
	u.click("form.card .button.now")
	u.sees("h1", "Window Box")

	u.click(".head .button.now")
	u.sees("h1", "The recipe")
	u.click(`button[data-for="dose"][data-by="1"]`)
	u.value("#dose", "18.5")
	u.value("#water", "305")
	u.click("#finer-points summary")
	u.fill("#water", "320")
	u.value("#ratio", "17.3")
	u.fill("#ratio", "sixteen")
	u.sees(".field.wrong .error", "is not a number")
	u.value("#ratio", "sixteen")
	u.fill("#ratio", "16,5")
	u.until(`!document.querySelector(".error")`)
	u.until(`document.querySelector(".ribbon-wide .ribbon-total")`)

	u.click(".recipe-head .button.now")
	u.sees("h1", "before the first water")
	u.click("#check-filter")
	u.sees(".line li.here .fact", "1 of")
	u.sees(".cautions", "Boiling water and steam burn")
	u.click(".head .button.now")

	u.click("#tap")
	u.until(`document.querySelector("#live") && document.readyState === "complete"`)
	u.sees("#step-said", "Bloom") // a live region
	u.click(`[data-mark="dry spot"]`)
	u.sees("#said", "dry spot")
	ran := pour(u, y, func() { u.click("#tap") })

	u.sees("h1", "The cup")
	u.until(`document.querySelector("#drawdown")?.value`)
	drawdown, err := u.Value("#drawdown")
	u.ok(err)
	if late := readClock(t, drawdown, "m:ss") - 198; late < 0 || late > 1+ran.Seconds() {
		t.Errorf("after 3:18 and at most %v the drawdown is %s", ran, drawdown)
	}
	u.fill("#beverage", "267")
	u.fill("#tds", "1.21")
	u.sees("#yield", "16.7 ± 0.4 %")
	for _, css := range []string{`input[name="hot.acidity"][value="5"]`, `input[name="hot.sweetness"][value="2"]`,
		`input[name="hot.body"][value="3"]`} {
		u.click(css + " + span")
	}
	u.click(".head .button.now")
	u.sees("#verdict", "Uneven")
	u.sees(".evidence", "You marked a dry spot")
	u.sees(".one-change .change", "a larger bloom")

	before := u.text(".path li")
	u.click(".one-change .button.now")
	u.sees("h1", "The recipe")
	u.sees(".asked", "a larger bloom")
	u.sees(".marked", "a larger bloom")
	u.value("#bloom", "3.5")
	if !strings.Contains(before, "first recipe") {
		t.Errorf("the path begins with %q", before)
	}

	u.open("/log")
	u.sees(".log", "Window Box")
	u.until(`document.querySelector(".log svg[aria-label*='drawdown ` + drawdown + `']")`)
	u.click(".log a")
	u.sees("body", "dry spot at 0:")
	u.sees("body", "Last steady stream")
}

// No mouse: Tab, arrows, Enter, Space and the shortcuts.
func TestWholeLineByKeyboardAlone(t *testing.T) {
	t.Parallel()
	y, u := start(t, true)
	u.open("/")
	u.press("?")
	u.until(`document.querySelector("#help:popover-open")`)
	u.press(kb.Escape)
	u.until(`!document.querySelector("#help:popover-open")`)
	u.alt("1")
	u.at("/")
	tabTo(u, `.bag form .button`)
	u.press(kb.Enter)
	u.sees("h1", "The recipe")

	tabTo(u, "#dose")
	u.press(kb.ArrowUp)
	u.value("#dose", "18.5")
	u.ok(u.Press(kb.ArrowDown, chromedp.ModifierShift))
	u.value("#dose", "18.4")
	u.focused("#dose")
	u.until(`document.querySelector("#water").value === String(Math.round(18.4 * document.querySelector("#ratio").value))`)
	u.focused("#dose")
	u.alt(kb.Enter)
	u.sees("h1", "before the first water")
	tabTo(u, "#check-kettle")
	u.press(" ")
	u.sees(".line li.here .fact", "1 of")
	u.focused("#check-kettle")
	u.alt("4")
	u.until(`document.querySelector("#start-form") && document.readyState === "complete"`)

	u.press(" ")
	u.until(`document.querySelector("#live") && document.readyState === "complete"`)
	u.press("c")
	u.sees("#said", "channel")
	u.press("u")
	u.until(`document.querySelector("#said").innerText === ""`)
	u.press("m")
	u.sees("#mute", "Voice")
	u.press("m")
	u.sees("#mute", "Sound off")
	pour(u, y, func() { u.press(" ") })

	u.sees("h1", "The cup")
	tabTo(u, "#beverage")
	u.press("255")
	tabTo(u, `input[name="hot.sweetness"]`)
	u.press(" ")
	u.press(kb.ArrowRight)
	u.press(kb.ArrowRight)
	u.press(kb.ArrowRight)
	tabTo(u, `input[name=serve]`)
	u.press(" ")
	u.alt(kb.Enter)
	u.sees("#verdict", "Good enough is a result")
	u.alt("l")
	u.at("/log")
}

// tabTo presses Tab until an element has the focus, and fails if it never does.
func tabTo(u user, css string) {
	u.t.Helper()
	for range 80 {
		there, err := yard.Eval[bool](u.Screen, fmt.Sprintf(`document.activeElement.matches(%q)`, css))
		u.ok(err)
		if there {
			return
		}
		u.press(kb.Tab)
	}
	u.t.Fatalf("Tab does not reach %s", css)
}

func TestTwoTabletsShowTheSameBrew(t *testing.T) {
	t.Parallel()
	y, u := start(t, true)
	path := "/brews/" + longBloom(t, y) + "/brew"
	u.open(path)
	u.click("#tap")
	u.until(`document.querySelector("#live") && document.readyState === "complete"`)
	y.Clock.Add(14 * time.Second)
	other, opened := screen(t, y.URL), time.Now()
	other.open(path)
	other.clockOf(14, opened)
	other.click("#tap")
	other.sees(".cue:not([hidden]) .do", "Swirl, then wait")
	u.sees(".cue:not([hidden]) .do", "Swirl, then wait")
	u.press("s")
	other.sees("#said", "stall")
	// Every other page has a link back to it.
	other.open("/log")
	other.sees(".notice-now", "is being poured")
}

func TestBackAndReloadKeepWhatWasTyped(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	u.open("/brews/evening-seed-next/recipe")
	u.fill("#temperature", "300")
	u.sees(".wrong .error", "can be 70 to 100")
	u.open("/log")
	u.open("/brews/evening-seed-next/recipe")
	u.value("#temperature", "300")
	u.sees(".wrong .error", "can be 70 to 100")
	u.open("/brews/evening-seed-next/brew")
	u.until(`document.querySelector("#tap").disabled`)
}

func TestNothingScrollsWhileBrewing(t *testing.T) {
	t.Parallel()
	y, u := start(t, true)
	u.open("/brews/evening-seed-next/brew")
	u.click("#tap")
	u.until(`document.querySelector("#live") && document.readyState === "complete"`)
	y.Clock.Add(50 * time.Second)
	for _, size := range [][2]int64{{1280, 800}, {820, 1180}, {1180, 820}, {390, 844}} {
		u.ok(u.Size(size[0], size[1]))
		opened := time.Now()
		u.ok(u.Reload())
		u.clockOf(50, opened)
		u.until(`document.documentElement.scrollHeight <= innerHeight && document.documentElement.scrollWidth <= innerWidth`)
		u.until(`[...document.querySelectorAll(".under button, #tap")].every(b => b.getBoundingClientRect().bottom <= innerHeight &&
			b.getBoundingClientRect().right <= innerWidth)`)
		u.until(`document.querySelector("#tap").getBoundingClientRect().height > 0.3 * innerHeight`)
	}
}

// A warning offers its smallest fix as one button.
func TestWarningIsFixedByItsButton(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	u.open("/brews/evening-seed-next/recipe")
	u.until(`document.readyState === "complete"`)
	u.fill("#dose", "8")
	u.sees(".warning", "is thin in this brewer")
	u.click(`.fix[data-set="dose"]`)
	u.value("#dose", "11")
	u.until(`![...document.querySelectorAll(".warning")].some(w => w.innerText.includes("is thin"))`)
	u.fill("#dose", "18")
	u.value("#water", "297")
	u.fill("#dose", "60") // the dose was typed last, but the fix for the kettle keeps the ratio
	u.until(`[...document.querySelectorAll(".warning")].some(w => w.innerText.includes("Narrow-spout kettle holds"))`)
	u.click(`.fix[data-set="water"]`)
	u.value("#water", "800")
	u.value("#ratio", "16.5")
	u.fill("#dose", "18")
	u.value("#water", "297")
	u.fill("#setting", "15")
	u.until(`[...document.querySelectorAll(".warning")].some(w => w.innerText.includes("after the target"))`)
	u.click(`.fix[data-set="grind"]`)
	u.until(`![...document.querySelectorAll(".warning")].some(w => w.innerText.includes("after the target"))`)
}

// A goal lists the ways to reach it, and one press applies one of them.
func TestGoalIsReachedByOneOfItsWays(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	u.open("/brews/evening-seed-next/recipe")
	u.until(`document.readyState === "complete"`)
	u.value("#setting", "22")
	u.click("#solve-for summary")
	u.fill("#goal_drain", "2:50")
	tabTo(u, `.goal button[value="goal_drain"]`)
	u.press(kb.Enter)
	u.sees(".ways caption", "Drain in 2:50")
	u.sees(".ways tbody tr:nth-child(1)", "clicks coarser")
	u.sees(".ways .sorry", "No temperature reaches it")
	u.value("#setting", "22") // only asked, not applied
	u.click(`.ways button[value="goal_drain/grind"]`)
	u.until(`Number(document.querySelector("#setting").value) > 22 && !document.querySelector(".ways")`)
	u.until(`/2:(4|5)/.test(document.querySelector(".forecast").innerText)`)
}

// The cutaway follows the slider and the pointer over the ribbon without a request.
func TestCutawayShowsTheMomentUnderThePointer(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	u.open("/brews/evening-seed-next/recipe")
	u.until(`document.readyState === "complete"`)
	const shown = `JSON.parse(document.querySelector(".cutaway").dataset.frames).findIndex(f => f[5] === document.querySelector(".cut-words").textContent)`
	before, err := yard.Eval[int](u.Screen, shown)
	u.ok(err)
	if _, err := yard.Eval[bool](u.Screen, `(window.asked = 0, document.addEventListener("htmx:before:request", () => asked++), true)`); err != nil {
		t.Fatal(err)
	}
	tabTo(u, "#moment")
	u.press(kb.ArrowLeft)
	u.press(kb.ArrowLeft)
	u.until(fmt.Sprintf(`%s === %d`, shown, before-2))
	// A minute into the brew, under the pointer, is the twentieth moment.
	if _, err := yard.Eval[bool](u.Screen, `(() => { const r = document.querySelector(".ribbon-wide"), p =
		new DOMPoint(Number(r.dataset.from) + 60 * r.dataset.perSecond, 100).matrixTransform(r.getScreenCTM());
		r.dispatchEvent(new PointerEvent("pointermove", {clientX: p.x, clientY: p.y, bubbles: true})); return true })()`); err != nil {
		t.Fatal(err)
	}
	u.until(shown + ` === 20`)
	u.sees(".cut-words", "1:00")
	time.Sleep(400 * time.Millisecond)
	if asked, err := yard.Eval[int](u.Screen, `asked`); err != nil || asked != 0 {
		t.Errorf("%d requests for a look at another moment (%v)", asked, err)
	}
}

// Clicks faster than the server are not lost, and the last response is shown.
func TestQuickClicksAreAllCounted(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	u.open("/brews/evening-seed-next/recipe")
	u.until(`document.readyState === "complete"`)
	if _, err := yard.Eval[bool](u.Screen, `(() => { for (let i = 0; i < 5;
		i++) document.querySelector('button[data-for="dose"][data-by="1"]').click(); return true })()`); err != nil {
		t.Fatal(err)
	}
	u.value("#dose", "20.5")
	u.value("#water", "338")
	u.sees(".line li.here .fact", "20.5")
	u.sees("#pour-4 .total", "338")
	u.until(`!document.querySelector(".notice-wrong")`)
	took, err := yard.Eval[float64](u.Screen, `new Promise(done => { const began = performance.now();
		document.addEventListener("htmx:after:swap", () => done(performance.now() - began), {once: true});
		const dose = document.querySelector("#dose"); dose.value = "18"; dose.dispatchEvent(new Event("change", {bubbles: true})) })`)
	u.ok(err)
	t.Logf("a changed number reached the screen in %.0f ms", took)
}

// A recipe is kept under a name and brewed again; the draft stays.
func TestRecipeIsKeptAndBrewedFrom(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	u.open("/brews/evening-seed-next/recipe")
	u.until(`document.readyState === "complete"`)
	u.fill("#name", "Sunday")
	u.press(kb.Enter)
	u.at("/book")
	u.sees(".kept-now", "Sunday")
	u.open("/bags/evening-seed")
	u.sees("#recipes", "Sunday")
	u.sees("#recipes", "Draft from")
	tabTo(u, `#recipes form[action$="/copy"] button`)
	u.press(kb.Enter)
	u.sees("h1", "The recipe")
	u.value("#bloom", "3.5")
	u.open("/bags/evening-seed") // the kept recipe, the copy, and the draft
	u.until(`document.querySelectorAll("#recipes li").length === 3`)
	u.click(`#recipes li:first-child form[action$="/discard"] button`)
	u.sees(".notice", "archived")
	u.click(".notice .button")
	u.sees("h1", "The recipe")
}

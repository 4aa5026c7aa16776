package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"yardbloom/e2e/yard"
)

// editing opens a recipe with a bloom and three pours: 63, 141, 219 and 297 g.
func editing(t *testing.T) user {
	t.Helper()
	_, u := start(t, true)
	u.open("/brews/evening-seed-next/recipe")
	u.until(`document.readyState === "complete"`)
	u.total(4, "297 g")
	return u
}

// total waits for the scale reading after a pour.
func (u user) total(pour int, want string) {
	u.t.Helper()
	u.sees(fmt.Sprintf("#pour-%d .total", pour), want[:len(want)-2])
}

func (u user) entry(at, want string) { u.t.Helper(); u.value(fmt.Sprintf(`[name="%s"]`, at), want) }

// drag moves a grip by mouse or finger by a number of pixels.
func (u user) drag(grip, kind string, dx, dy int) {
	u.t.Helper()
	moved, err := yard.Eval[bool](u.Screen, fmt.Sprintf(`(async () => {
		const grip = [...document.querySelectorAll('[data-grip="%s"]')].find(g => g.getBoundingClientRect().width > 0);
		grip.setPointerCapture = () => {};
		const r = grip.getBoundingClientRect(), x = r.x + r.width / 2, y = r.y + r.height / 2;
		const send = (type, x, y) => grip.dispatchEvent(new PointerEvent(type, {pointerType: "%s", pointerId: 7, button: 0, clientX: x,
			clientY: y, bubbles: true, cancelable: true}));
		send("pointerdown", x, y);
		for (let i = 1; i <= 4; i++) { send("pointermove", x + i * %d / 4, y + i * %d / 4); await new Promise(requestAnimationFrame) }
		const drawn = !!grip.closest("svg").querySelector(".ribbon-ghost").getAttribute("d");
		send("pointerup", x + %d, y + %d);
		return drawn && !document.querySelector(".ribbon-ghost").getAttribute("d");
	})()`, grip, kind, dx, dy, dx, dy))
	u.ok(err)
	if !moved {
		u.t.Errorf("dragging %s shows nothing under the hand", grip)
	}
}

// A pour is moved, lengthened and enlarged with the mouse: the fields follow, the total stays, the
// predictions change, and one press undoes each.
func TestPoursAreDraggedOnTheRibbon(t *testing.T) {
	t.Parallel()
	u := editing(t)
	before := u.text(".forecast")
	u.drag("pours.3.start", "mouse", 40, 0)
	u.until(`["1:34", "1:35", "1:36"].includes(document.querySelector('[name="pours.3.start"]').value)`)
	u.entry("pours.4.start", "2:05") // the others stay
	u.drag("pours.2.water", "mouse", 0, -30)
	u.until(`Number(document.querySelector('[name="pours.2.water"]').value) > 100`)
	u.total(4, "297 g")
	u.until(fmt.Sprintf(`document.querySelector(".forecast").innerText !== %q`, before))
	u.drag("pours.4.lasts", "mouse", 60, 0)
	u.until(`Number(document.querySelector('[name="pours.4.lasts"]').value) > 20`)
	// The grip stops at its neighbour: pour 2 ends before pour 3 begins.
	u.drag("pours.2.lasts", "mouse", 900, 0)
	u.until(`(() => { const s = (n) => { const [m, r] = document.querySelector('[name="pours.' + n + '"]').value.split(":"); return 60 * m + Number(r) };
		return s("2.start") + Number(document.querySelector('[name="pours.2.lasts"]').value) <= s("3.start") })()`)
	if u.text(".error") != "" {
		t.Errorf("a drag past the end says %q", u.text(".error"))
	}
	for range 4 {
		u.click("#undo")
	}
	u.until(`document.querySelector("#undo").disabled`)
	u.entry("pours.3.start", "1:25")
	u.entry("pours.2.water", "78")
	u.click("#redo")
	u.until(`["1:34", "1:35", "1:36"].includes(document.querySelector('[name="pours.3.start"]').value)`)
}

// The same by touch on a phone.
func TestPoursAreDraggedByTouch(t *testing.T) {
	t.Parallel()
	u := editing(t)
	u.ok(u.Size(390, 844))
	u.ok(u.Reload())
	u.until(`document.readyState === "complete"`)
	u.drag("pours.2.start", "touch", 20, 0)
	u.until(`document.querySelector('[name="pours.2.start"]').value > "0:50"`)
	u.until(`document.documentElement.scrollWidth <= innerWidth`)
}

// By keys: arrows nudge, Shift is fine, letters split, pin, merge and remove.
func TestPoursAreEditedByKeys(t *testing.T) {
	t.Parallel()
	u := editing(t)
	tabTo(u, `[data-grip="pours.2.start"]`)
	u.press(kb.ArrowRight)
	u.entry("pours.2.start", "0:50")
	u.ok(u.Press(kb.ArrowLeft, chromedp.ModifierShift))
	u.entry("pours.2.start", "0:49")
	u.focused(`[data-grip="pours.2.start"]`) // the response keeps the focus
	tabTo(u, `[data-grip="pours.3.water"]`)
	u.press("p")
	u.until(`document.querySelector("#pour-3.pinned")`)
	u.press("s")
	u.until(`document.querySelector("#pour-5")`)
	u.total(5, "297 g")
	u.entry("pours.3.water", "39")
	u.ok(u.Press("z", chromedp.ModifierCtrl))
	u.until(`!document.querySelector("#pour-5")`)
	u.focused(`[data-grip="pours.3.water"]`)
	tabTo(u, `[data-grip="pours.4.water"]`)
	u.press(kb.ArrowUp)
	u.until(`Number(document.querySelector('[name="pours.4.water"]').value) > 80`)
	u.entry("pours.3.water", "78") // pinned
	u.press(kb.Delete)
	u.until(`!document.querySelector("#pour-4")`)
	u.total(3, "297 g")
	u.ok(u.Press("z", chromedp.ModifierCtrl))
	u.until(`document.querySelector("#pour-4")`)
	u.ok(u.Press("y", chromedp.ModifierCtrl))
	u.until(`!document.querySelector("#pour-4")`)
	// An impossible edit gives a reason and changes nothing.
	tabTo(u, `[name="pours.2.start"]`)
	u.fill(`[name="pours.2.start"]`, "0:02")
	u.press(kb.Tab)
	u.sees(".pours .error", "can be 0:14 to")
	u.entry("pours.2.start", "0:02")
}

// Eight edits in a row, each after the response to the one before, end where they began.
func TestEditsInARow(t *testing.T) {
	t.Parallel()
	u := editing(t)
	_, err := yard.Eval[bool](u.Screen, `(async () => {
		for (let i = 0; i < 8; i++) { const grip = document.querySelector('[data-grip="pours.3.start"]');
			const done = new Promise(ok => document.addEventListener("htmx:after:swap", ok, {once: true}));
			grip.dispatchEvent(new KeyboardEvent("keydown", {key: i % 2 ? "ArrowLeft" : "ArrowRight", bubbles: true}));
			await done }
		return true })()`)
	u.ok(err)
	u.entry("pours.3.start", "1:25")
}

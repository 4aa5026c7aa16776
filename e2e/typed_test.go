package e2e

import (
	"testing"
	"time"
)

// What was typed survives Back and Forward. Caught: a form that the browser draws anew and
// empty.
func TestBackAndForwardKeepTypedText(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	for _, form := range []struct{ path, entry, text string }{
		{"/bags/new", "#name", "Potting Mix"}, {"/brews/slate-terrace-4/cup", "#notes", "Sharp at first."}, {"/gear/kettles/new", "#name", "Tall kettle"},
	} {
		u.open(form.path)
		u.until(`document.readyState === "complete"`)
		u.fill(form.entry, form.text)
		u.open("/log")
		u.until(`document.readyState === "complete"`)
		u.js(`history.back()`)
		u.at(form.path)
		u.value(form.entry, form.text)
		u.js(`history.forward()`)
		u.at("/log")
		u.js(`history.back()`)
		u.at(form.path)
		u.value(form.entry, form.text)
		u.open(form.path) // opened anew, it begins anew
		u.until(`document.readyState === "complete"`)
		if got, _ := u.Value(form.entry); got == form.text {
			t.Errorf("%s: a new page begins with %q", form.path, got)
		}
	}
}

// A page that comes back out of the browser's memory checks what it shows. Caught: an old page
// that is shown as if it were current, typed text that is thrown away for it.
func TestARestoredPageChecksItsVersion(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	other := screen(t, u.url)
	restore := func() {
		u.t.Helper()
		u.js(`window.marked = true; window.dispatchEvent(new PageTransitionEvent("pageshow", {persisted: true}))`)
	}
	u.open("/gear/kettles/spout-kettle")
	u.until(`document.readyState === "complete"`)
	restore()
	time.Sleep(300 * time.Millisecond)
	u.until(`window.marked && !document.querySelector(".notice-wrong")`) // nothing has changed
	change := func(name string) {
		other.open("/gear/kettles/spout-kettle")
		other.until(`document.readyState === "complete"`)
		other.fill("#name", name)
		other.click("form .button.now")
		other.at("/gear")
	}
	change("Thin-spout kettle")
	restore()
	u.until(`!window.marked && document.querySelector("#name")?.value === "Thin-spout kettle"`) // loaded again
	u.fill("#name", "My kettle")
	change("Their kettle")
	restore()
	u.sees(".notice-wrong", "was changed since you left it")
	u.value("#name", "My kettle")
}

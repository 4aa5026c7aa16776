package e2e

import (
	"testing"
	"time"
)

// Mutation caught: a form that is empty after Back.
func TestBackAndForwardKeepTypedText(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	for _, form := range []struct{ path, entry, text string }{
		{"/bags/new", "#name", "Potting Mix"}, {"/brews/slate-terrace-4/cup", "#notes", "Sharp at first."},
		{"/gear/kettles/new", "#name", "Tall kettle"},
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
		u.open(form.path) // a new visit starts with an empty form
		u.until(`document.readyState === "complete"`)
		if got, _ := u.Value(form.entry); got == form.text {
			t.Errorf("%s: a new page begins with %q", form.path, got)
		}
	}
}

// Mutations caught: an outdated page that is shown without notice, typed text lost in a reload.
func TestRestoredPageChecksItsVersion(t *testing.T) {
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
	u.until(`window.marked && !document.querySelector(".notice-wrong")`) // unchanged: no reload, no notice
	change := func(name string) {
		other.open("/gear/kettles/spout-kettle")
		other.until(`document.readyState === "complete"`)
		other.fill("#name", name)
		other.click("form .button.now")
		other.at("/gear")
	}
	change("Thin-spout kettle")
	restore()
	u.until(`!window.marked && document.querySelector("#name")?.value === "Thin-spout kettle"`) // reloaded
	u.fill("#name", "My kettle")
	change("Their kettle")
	restore()
	u.sees(".notice-wrong", "was changed since you left it")
	u.value("#name", "My kettle")
}

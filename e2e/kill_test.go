package e2e

import (
	"fmt"
	"path/filepath"
	"testing"
	"time"

	"yardbloom/e2e/yard"
)

func TestKilledServerComesBackToTheRightSecond(t *testing.T) {
	t.Parallel()
	path, err := yard.Build(t.TempDir())
	var p *yard.Program
	if err == nil {
		p, err = yard.NewProgram(path, filepath.Join(t.TempDir(), "demo"))
	}
	if err == nil {
		err = p.Start("demo")
	}
	if err != nil {
		t.Fatal(err)
	}
	u := screen(t, p.URL())
	u.open("/brews/evening-seed-next/brew")
	u.until(`document.readyState === "complete"`)
	u.click("#tap")
	began := time.Now()
	u.until(`document.querySelector("#live") && document.readyState === "complete"`)
	u.sees("#clock", "0:02")
	u.press("d")
	u.sees("#said", "dry spot")

	u.ok(p.Kill())
	u.sees("#clock", "0:04") // the clock continues without a server
	untouched := time.Since(began).Seconds()
	u.press("c")
	u.sees("#said", "The server does not answer")
	touched := time.Since(began).Seconds()
	u.until(shownSecond + ` >= 6`)
	u.ok(p.Start("demo"))
	t.Cleanup(func() { p.Kill() })

	u.sees("#said", "channel")
	u.sees("#said", "dry spot")
	sameSecond(u, began)
	u.ok(u.Reload())
	u.sees("#said", "channel")
	sameSecond(u, began)
	other := screen(t, p.URL())
	other.open("/brews/evening-seed-next/brew")
	sameSecond(other, began)

	// A tap made while the server was dead is stored at its own second.
	said := u.text("#said")
	var dry, channel int
	if _, err := fmt.Sscanf(said, "Marked: 0:%d dry spot · 0:%d channel", &dry, &channel); err != nil {
		t.Fatalf("%q: %v", said, err)
	}
	if channel < int(untouched)-1 || channel > int(touched)+1 {
		t.Errorf("the tap between seconds %.0f and %.0f is stored at second %d", untouched, touched, channel)
	}
}

// sameSecond waits until the clock on the screen agrees with the wall clock. A clock that restarted or lags by
// a fixed time never does.
func sameSecond(u user, began time.Time) {
	u.t.Helper()
	u.until(`document.querySelector("#clock").innerText !== "0:00"`)
	var said string
	for end := time.Now().Add(2 * time.Minute); time.Now().Before(end); time.Sleep(100 * time.Millisecond) {
		before := time.Since(began).Seconds()
		clock, err := yard.Eval[string](u.Screen, `document.querySelector("#clock").innerText`)
		u.ok(err)
		after := time.Since(began).Seconds()
		var m, s int
		if _, err := fmt.Sscanf(clock, "%d:%d", &m, &s); err != nil {
			u.t.Fatalf("the clock reads %q", clock)
		}
		if shown := float64(60*m + s); shown >= before-2 && shown <= after+1 {
			return
		}
		said = fmt.Sprintf("the screen shows %s, %.1f s have passed", clock, after)
	}
	u.t.Error(said)
}

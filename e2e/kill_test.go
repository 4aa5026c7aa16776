package e2e

import (
	"fmt"
	"path/filepath"
	"strings"
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
	began := u.begins(func() { u.click("#tap") })
	u.until(`document.querySelector("#live") && document.readyState === "complete"`)
	u.clock(2)
	u.press("d")
	u.sees("#said", "dry spot")

	u.ok(p.Kill())
	u.clock(4) // the clock continues without a server
	untouched := time.Since(began.to).Seconds()
	u.press("c")
	u.sees("#said", "The server does not answer")
	touched := time.Since(began.from).Seconds()
	u.clock(6)
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
	var minutes, channel int
	if _, err := fmt.Sscanf(said[strings.Index(said, "·")+len("· "):], "%d:%d channel", &minutes, &channel); err != nil {
		t.Fatalf("%q: %v", said, err)
	}
	channel += 60 * minutes
	if channel < int(untouched)-1 || channel > int(touched)+1 {
		t.Errorf("the tap between seconds %.0f and %.0f is stored at second %d", untouched, touched, channel)
	}
}

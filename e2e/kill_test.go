package e2e

import (
	"math"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"yardbloom/e2e/yard"
	"yardbloom/store"
)

// program builds the real program once and returns its path.
var program = sync.OnceValues(func() (string, error) { return yard.Build(scratch) })

// startProgram starts the real program with a new demo yard and kills it after the test.
func startProgram(t *testing.T) *yard.Program {
	t.Helper()
	path, err := program()
	if err != nil {
		t.Fatal(err)
	}
	p, err := yard.NewProgram(path, filepath.Join(t.TempDir(), "demo"))
	if err != nil {
		t.Fatal(err)
	}
	if err := p.Start("demo"); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = p.Kill() })
	return p
}

func TestKilledServerComesBackToTheRightSecond(t *testing.T) {
	t.Parallel()
	p := startProgram(t)
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
	dry, channel := readClock(t, said, "Marked: m:ss dry spot · "), readClock(t, said, " · m:ss channel")
	if dry > channel || channel < math.Floor(untouched)-1 || channel > math.Floor(touched)+1 {
		t.Errorf("the tap between seconds %.0f and %.0f is stored: %q", untouched, touched, said)
	}
}

// The program is killed while water runs onto the scale: at most a second of readings is lost, and the brew
// continues at the right second with the water poured meanwhile. Mutation caught: readings that are stored at the end of a stage.
func TestKilledWhileTheScaleSeesWater(t *testing.T) {
	t.Parallel()
	p := startProgram(t)
	if err := p.Kill(); err != nil {
		t.Fatal(err)
	}
	st, err := store.Open(t.Context(), p.Dir)
	if err != nil {
		t.Fatal(err)
	}
	handed(t, st)
	st.Close()
	if err := p.Start("demo"); err != nil {
		t.Fatal(err)
	}
	u := screen(t, p.URL())
	onScale(u)
	u.recordReadings()
	u.until(`window.weighedAt > 8`)
	second, err := yard.Eval[float64](u.Screen, `window.weighedAt`)
	u.ok(err)
	u.ok(p.Kill())
	if st, err = store.Open(t.Context(), p.Dir); err != nil {
		t.Fatal(err)
	}
	readings, err := st.Readings(t.Context(), "evening-seed-next")
	u.ok(err)
	if n := len(readings); n == 0 || float64(readings[n-1].At) < second-1.2 {
		t.Errorf("killed after the reading of second %.1f, and %d readings are stored", second, n)
	}
	st.Close()
	u.clock(second + 2)
	u.ok(p.Start("demo"))
	// the bloom has ended, by the scale or the clock
	u.until(shownSecond + ` > 12 && !document.querySelector(".cue:not([hidden]) .do").innerText.includes("Bloom")`)
	u.until(`document.querySelector("#shows").innerText.includes("g")`)
}

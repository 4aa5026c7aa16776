package e2e

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"yardbloom/e2e/yard"
)

// shownSecond is JavaScript for the second on the clock of the Brew station.
const shownSecond = `document.querySelector("#clock").innerText.split(":").reduce((m, s) => 60 * m + Number(s), 0)`

// clock waits until the clock of the Brew station shows a second or a later one.
func (u user) clock(second float64) {
	u.t.Helper()
	u.until(fmt.Sprintf(`document.querySelector("#brew")?.dataset.status === "running" && %s >= %g`, shownSecond, second))
}

// clockOf waits for a second of a yard whose clock is stopped. On the screen it runs on, for no longer than since the page was opened.
func (u user) clockOf(second float64, opened time.Time) {
	u.t.Helper()
	u.clock(second)
	shown, err := yard.Eval[float64](u.Screen, shownSecond)
	u.ok(err)
	if most := second + time.Since(opened).Seconds() + 1; shown > most {
		u.t.Errorf("the clock shows %g s instead of %g to %.1f", shown, second, most)
	}
}

// readClock returns the seconds of the time that a text has in the place of "m:ss" in a pattern.
func readClock(t *testing.T, text, pattern string) float64 {
	t.Helper()
	m := regexp.MustCompile(strings.Replace(regexp.QuoteMeta(pattern), "m:ss", `(\d+):(\d\d)`, 1)).FindStringSubmatch(text)
	if m == nil {
		t.Fatalf("%q does not contain %q", text, pattern)
	}
	minutes, _ := strconv.Atoi(m[1]) // digits always parse
	seconds, _ := strconv.Atoi(m[2])
	return float64(60*minutes + seconds)
}

// recordReadings sets window.weighedAt to the time of the last reading of the scale that the screen shows.
func (u user) recordReadings() {
	u.t.Helper()
	u.js(`document.addEventListener("scale", e => { window.weighedAt = JSON.parse(e.detail.data).t })`)
}

// A beginning is the span of real time in which a brew began.
type beginning struct{ from, to time.Time }

// begins calls a function that begins a brew.
func (u user) begins(begin func()) beginning {
	from := time.Now()
	begin()
	return beginning{from, time.Now()}
}

// sameSecond waits until the clock on the screen agrees with the wall clock. A clock that restarted or lags by
// a fixed time never does.
func sameSecond(u user, began beginning) {
	u.t.Helper()
	u.clock(1)
	var said string
	for end := time.Now().Add(2 * time.Minute); time.Now().Before(end); time.Sleep(100 * time.Millisecond) {
		least := time.Since(began.to).Seconds() - 2
		shown, err := yard.Eval[float64](u.Screen, shownSecond)
		u.ok(err)
		most := time.Since(began.from).Seconds() + 1
		if shown >= least && shown <= most {
			return
		}
		said = fmt.Sprintf("the screen shows %g s instead of %.1f to %.1f", shown, least, most)
	}
	u.t.Error(said)
}

// longBloom adds a draft whose bloom lasts five minutes, and returns its ID.
func longBloom(t *testing.T, y *yard.Yard) string {
	t.Helper()
	d, _, err := y.Store.Draft(t.Context(), "evening-seed-next")
	if err != nil {
		t.Fatal(err)
	}
	d.ID = "long-bloom"
	for i := range d.Recipe.Pours[1:] {
		d.Recipe.Pours[1+i].Start += 255
	}
	if err := y.Store.AddDraft(t.Context(), d, yard.Morning); err != nil {
		t.Fatal(err)
	}
	return d.ID
}

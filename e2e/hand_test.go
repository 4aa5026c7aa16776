package e2e

import (
	"testing"
	"time"

	"yardbloom/e2e/yard"
)

// A handPour is the demo's next brew, poured by a simulated hand. The yard's clock moves on when the screens have shown
// the brew so far, so that a slow machine shows every stage.
type handPour struct {
	y       *yard.Yard
	began   time.Time
	screens []user
}

const demoBrew = "evening-seed-next"

// watch begins a brew by a simulated hand and returns it with the screen on which it was begun.
func watch(t *testing.T, manner string) (*handPour, user) {
	t.Helper()
	y, u := start(t, true)
	u.open("/brews/" + demoBrew + "/brew")
	u.click(".menu summary")
	u.ok(u.Choose(`select[name="manner"]`, manner))
	u.js(`document.querySelector('select[name="speed"]').append(new Option("real", 1, true, true));
		document.querySelector('form[action$="/watch"]').requestSubmit()`)
	h := &handPour{y: y, began: y.Clock.Now()}
	h.show(u)
	return h, u
}

// show makes the brew wait for a screen that shows it.
func (h *handPour) show(u user) {
	u.t.Helper()
	u.until(`document.readyState === "complete" && document.querySelector("#brew")?.dataset.status === "running"`)
	u.recordReadings()
	h.screens = append(h.screens, u)
}

// second lets another second of the brew pass and waits until every screen shows its readings or the cup. It returns false
// after the brew.
func (h *handPour) second() bool {
	h.y.Clock.Add(time.Second)
	poured := false
	for _, u := range h.screens {
		u.t.Helper()
		poured = h.reach(u) || poured
	}
	return !poured
}

// reach waits until a screen shows the brew of the last second, and returns whether it shows the cup instead. Meanwhile the clock
// creeps, because a reading that comes before the screen's stream is not sent again.
func (h *handPour) reach(u user) (poured bool) {
	u.t.Helper()
	for range 4000 {
		at, err := yard.Eval[float64](u.Screen, `location.pathname.endsWith("/cup") ? -1 : window.weighedAt ?? 0`)
		if err == nil && at < 0 {
			return true
		}
		if err == nil && h.y.Clock.Now().Sub(h.began).Seconds() < at+1.25 {
			return false
		}
		time.Sleep(30 * time.Millisecond)
		h.y.Clock.Add(20 * time.Millisecond)
	}
	u.t.Fatal("the readings do not reach the screen")
	return false
}

// until pours until a JavaScript expression is true on a screen.
func (h *handPour) until(u user, js string) {
	u.t.Helper()
	for h.second() {
		if shows, err := yard.Eval[bool](u.Screen, "!!("+js+")"); err == nil && shows {
			return
		}
	}
	u.t.Fatalf("in a brew of %v the screen never shows %s", h.y.Clock.Now().Sub(h.began), js)
}

// finish pours to the end and waits until every screen asks for the cup.
func (h *handPour) finish() {
	for h.second() {
	}
	for _, u := range h.screens {
		u.t.Helper()
		u.at("/brews/" + demoBrew + "/cup")
	}
}

// A clean brew by a practised hand, without a tap, including the weight of the cup. Mutations caught: water to go by the clock although
// a scale is there, a second screen without the measured line, readings that are not stored.
func TestHandPoursAWholeBrew(t *testing.T) {
	t.Parallel()
	h, u := watch(t, "practised")
	other := screen(t, h.y.URL)
	other.open("/brews/" + demoBrew + "/brew")
	h.show(other)
	h.until(u, `/to go/.test(document.querySelector("#togo").innerText) && !document.querySelector("#togo").innerText.startsWith("~")`)
	h.until(u, `/ of [0-9.]+ g/.test(document.querySelector("#rate-says").innerText)`)
	const trace = `document.querySelector(".ribbon-wide .ribbon-trace")?.getAttribute("d").length > 200`
	h.until(u, trace)
	h.until(other, trace)
	h.finish()
	b := kept(t, h.y, demoBrew)
	for _, p := range b.At(b.Ended).Pours() {
		if off := p.Weighed - p.To; off > 4 || off < -4 {
			t.Errorf("a practised hand is %v off at %v", off, p.To)
		}
	}
	u.until(`Number(document.querySelector("#beverage").value) - Number(document.querySelector("#carafe").value) > 240`)
	u.open("/brews/" + demoBrew)
	u.sees("#poured-title", "steadiness")
	if readings, err := h.y.Store.Readings(t.Context(), b.ID); err != nil || len(readings) < int(b.Cup.Drawdown)*9 {
		t.Errorf("%d readings of %v are stored, %v", len(readings), b.Cup.Drawdown, err)
	}
}

// With a heavy hand the plan is revised with a short message, and the total is right.
func TestOverpourRevisesThePlan(t *testing.T) {
	t.Parallel()
	h, u := watch(t, "heavy")
	h.until(u, `document.querySelector("#bent")?.innerText.includes("less next")`)
	h.finish()
	b := kept(t, h.y, demoBrew)
	last := b.Plan.Steps[len(b.Plan.Steps)-1].Total
	state := b.At(b.Ended)
	if over := state.Weight - last; over > 14 { // each pour was about 10 g over, and only the last one has no later pour to compensate
		t.Errorf("a heavy hand poured %v too much in all", over)
	}
	u.open("/brews/" + demoBrew)
	u.sees(".against tbody tr:first-child small", "+")
}

// With a late hand the rest of the plan moves.
func TestLateHandDelaysTheRest(t *testing.T) {
	t.Parallel()
	h, u := watch(t, "hurried")
	h.until(u, `/later/.test(document.querySelector("#bent")?.innerText)`)
	h.finish()
	b := kept(t, h.y, demoBrew)
	state := b.At(b.Ended)
	if got := state.Stages[2].Entered - b.Plan.Steps[1].Start; got < 2 {
		t.Errorf("the second pour began %v late", got)
	}
}

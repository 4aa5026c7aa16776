package e2e

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/recipe"
	"yardbloom/e2e/yard"
	"yardbloom/store"
)

func kept(t *testing.T, y *yard.Yard, id string) brew.Brew {
	t.Helper()
	b, err := y.Store.Brew(t.Context(), id)
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// After a filter rinse on the scale, the screen waits for the first water again, and no brew is left.
func TestRinseOnTheScaleUndoesTheStart(t *testing.T) {
	t.Parallel()
	rinse := &rinser{}
	y, u := withDevices(t, func(st *store.Store) { known(t, st, rinse) })
	tare(u)
	u.sees("#ready-says", "by itself")
	rinse.pours.Store(true)
	u.until(`document.querySelector("#brew")?.dataset.status === "running"`)
	rinse.tips.Store(true)
	u.until(`document.querySelector("#brew")?.dataset.status === "ready"`)
	u.sees(".place", "Ready")
	if _, err := y.Store.Brew(t.Context(), "evening-seed-next"); err == nil {
		t.Error("the rinse is a brew")
	}
	u.press("t")
	u.sees("#ready-says", "by itself")
}

// The scale is lost in the bloom and comes back: the brew continues by the clock, and then by the scale.
func TestScaleIsLostAndComesBack(t *testing.T) {
	t.Parallel()
	var scale *benchScale
	y, u := withDevices(t, func(st *store.Store) { scale = handed(t, st) })
	onScale(u)
	u.until(`document.querySelector("#togo").innerText.includes("to go") && !document.querySelector("#togo").innerText.startsWith("~")`)
	scale.stop()
	happens := func(kind brew.EventKind, times int) {
		t.Helper()
		n := 0
		for range 2400 {
			n = 0
			for _, e := range kept(t, y, "evening-seed-next").Events {
				if e.Kind == kind {
					n++
				}
			}
			if n == times {
				return
			}
			time.Sleep(50 * time.Millisecond)
		}
		t.Fatalf("%s %d times instead of %d in %+v", kind, n, times, kept(t, y, "evening-seed-next").Events)
	}
	happens(brew.Unwatched, 1)
	u.until(`!document.querySelector(".cue[data-held]")`)
	scale.plug(t)
	happens(brew.Watched, 2)
}

// Everything fits its box on the smallest phone, including the longest words and a forgotten brew.
func TestNothingOverflowsItsBox(t *testing.T) {
	t.Parallel()
	y, u := start(t, true)
	d, _, err := y.Store.Draft(t.Context(), "evening-seed-next")
	u.ok(err)
	for i := range d.Recipe.Pours {
		d.Recipe.Pours[i].Then = recipe.SurfaceStir
	}
	const outside = `(() => { if (!document.querySelector("#tap")) return ""; // poured, and on its way to the cup
		const tap = document.querySelector("#tap").getBoundingClientRect(), html = document.documentElement;
		const out = [...document.querySelectorAll("#tap .cue:not([hidden]) *, #tap .figures *")].filter(e => e.innerText &&
			e.getClientRects().length && getComputedStyle(e).visibility !== "hidden").filter(e => { const r = e.getBoundingClientRect();
			return r.left < tap.left - 1 || r.right > tap.right + 1 || r.top < tap.top - 1 ||
				r.bottom > tap.bottom + 1 }).map(e => e.className + ": " + e.innerText);
		if (html.scrollWidth > innerWidth || html.scrollHeight > innerHeight) out.push("the page scrolls: " + html.scrollWidth + " by "
			+ html.scrollHeight);
		const under = document.querySelector(".under").getBoundingClientRect();
		if (under.bottom > innerHeight + 1) out.push("what stands under it ends at " + under.bottom);
		return out.join(", ") })()`
	for _, size := range [][2]int64{{360, 740}, {820, 1180}, {1180, 820}, {1280, 800}} {
		d.ID = fmt.Sprintf("wordy-%d", size[0])
		u.ok(y.Store.AddDraft(t.Context(), d, yard.Morning))
		u.ok(u.Size(size[0], size[1]))
		u.open("/brews/" + d.ID + "/brew")
		u.until(`document.readyState === "complete"`)
		apart(u)
		u.press(" ")
		u.sees(".line li.here .fact", "pouring")
		apart(u)
		for _, after := range []time.Duration{14 * time.Second, 20 * time.Second, 100 * time.Second, time.Hour} {
			y.Clock.Add(after)
			u.open("/brews/" + d.ID + "/brew")
			u.until(`document.readyState === "complete"`)
			if after == time.Hour {
				u.click(".forgotten .quiet")
				u.until(`document.readyState === "complete" && document.querySelector("#clock")?.classList.contains("over")`)
			}
			u.until(`document.querySelector("#clock")`)
			u.press(" ") // on to the next stage
			time.Sleep(150 * time.Millisecond)
			if path, _ := u.Path(); !strings.HasSuffix(path, "/brew") {
				break // poured
			}
			if out, err := yard.Eval[string](u.Screen, outside); err != nil || out != "" {
				t.Errorf("at %v after %v there leaves its box (%v): %s", size, after, err, out)
			}
		}
	}
}

// apart checks that the instruction and the clock do not overlap.
func apart(u user) {
	u.t.Helper()
	over, err := yard.Eval[bool](u.Screen, `(() => { const cue = document.querySelector("#tap .cue:not([hidden])").getBoundingClientRect(), figures =
		document.querySelector("#tap .figures").getBoundingClientRect();
		return cue.left < figures.right - 1 && figures.left < cue.right - 1 && cue.top < figures.bottom - 1 &&
			figures.top < cue.bottom - 1 })()`)
	u.ok(err)
	if over {
		path, _ := u.Path()
		u.t.Errorf("%s: the clock overlaps the instruction", path)
	}
}

// A brew that was left running asks for its outcome.
func TestForgottenBrewIsClosed(t *testing.T) {
	t.Parallel()
	y, u := start(t, true)
	u.open("/brews/evening-seed-next/brew")
	u.until(`document.readyState === "complete"`)
	u.click("#tap")
	u.sees(".line li.here .fact", "pouring")
	y.Clock.Add(time.Hour)
	u.open("/")
	u.sees(".notice-now", "was never ended")
	u.click(".notice-now .button")
	u.sees("h2", "Running for 60 minutes")
	u.click(".forgotten .button.now")
	u.at("/brews/evening-seed-next/cup")
	if b := kept(t, y, "evening-seed-next"); b.Cup.Drawdown > 300 {
		t.Errorf("closed at %v", b.Cup.Drawdown)
	}
}

// Three brews at once: one key or tap each, without overlaps.
func TestRushByKeyboard(t *testing.T) {
	t.Parallel()
	y, u := start(t, true)
	u.open("/rush")
	for _, css := range []string{`input[name="order.slate-terrace-3-kept"]`} {
		if ok, _ := yard.Eval[bool](u.Screen, fmt.Sprintf(`!!document.querySelector(%q)`, css)); ok {
			u.fill(css, "3")
		}
	}
	u.fill("#same", "3")
	u.click(".button.now")
	u.sees(".do", "Begin the rush")
	u.press(" ")
	u.sees("#tap .place", "Window cone")
	follow(y, u, " ") // first water
	u.sees("#tap .tapsays", "when the water is in")
	follow(y, u, " ")
	u.until(`document.querySelectorAll(".tile")[0].innerText.includes("waits")`)
	for taps := 0; ; taps++ {
		if place, err := u.Text("#tap .place"); err != nil || taps == 8 {
			t.Fatalf("after %d taps at %q the second order has not begun (%v)", taps, place, err)
		} else if strings.HasPrefix(place, "2") {
			break
		}
		follow(y, u, " ")
	}
	follow(y, u, "2")
	u.until(`document.querySelectorAll(".tile")[1].innerText.includes("pouring")`)
	u.press("9") // no order has this key
	u.ok(u.Size(390, 844))
	apart(u)
	u.ok(u.Size(1280, 800))
	running, err := y.Store.Running(t.Context())
	if err != nil || len(running) != 2 {
		t.Errorf("%d brews run, %v", len(running), err)
	}
	other := screen(t, y.URL)
	path, _ := u.Path()
	other.open(path)
	other.until(`document.querySelectorAll(".tile")[1].innerText.includes("pouring")`)
	for i, a := range running {
		for _, b := range running[:i] {
			clash(t, kept(t, y, a), kept(t, y, b))
		}
	}
}

// follow waits for the time of the board's next action, on the yard's clock, presses a key for it, and waits for the next board.
func follow(y *yard.Yard, u user, key string) {
	u.t.Helper()
	u.until(`!Object.keys(localStorage).some(k => k.startsWith("tap "))`) // a tap that waits would move the next one
	ahead, err := yard.Eval[float64](u.Screen, `(() => { const { until, lasts, busy } = document.querySelector("#tap .clock").dataset;
		window.followed = document.querySelector("#tap").form.elements.key.value;
		return Number(until) + (busy === undefined ? 0 : Number(lasts)) - Number(document.querySelector("#board").dataset.elapsed) })()`)
	u.ok(err)
	y.Clock.Add(time.Duration(max(0, ahead) * float64(time.Second)))
	u.press(key)
	u.until(`document.querySelector("#tap").form.elements.key.value !== window.followed`)
}

// clash fails the test if two brews need the hands at once from now on.
func clash(t *testing.T, a, b brew.Brew) {
	t.Helper()
	for _, s := range a.Plan.Steps[1:] {
		for _, o := range b.Plan.Steps[1:] {
			from, to := a.Started.Add(time.Duration(s.Start)*time.Second), a.Started.Add(time.Duration(s.End())*time.Second)
			other, until := b.Started.Add(time.Duration(o.Start)*time.Second), b.Started.Add(time.Duration(o.End())*time.Second)
			if from.Before(until) && other.Before(to) {
				t.Errorf("two pours collide: %v to %v and %v to %v", from, to, other, until)
			}
		}
	}
}

// A presentation: lines by space, prompts on a second screen, and a comparison with the plan.
func TestPresentation(t *testing.T) {
	t.Parallel()
	y, u := start(t, true)
	u.open("/stage")
	u.fill("#name", "Heat one")
	u.fill("#limit", "eleven")
	u.click("form.card .button.now")
	u.sees(".wrong .error", "time")
	u.value("#limit", "eleven")
	u.fill("#limit", "7:00")
	u.click("form.card .button.now")
	u.sees("h1", "Heat one")
	u.sees(".against", "Good morning")
	script, _ := u.Path()
	u.open(script + "/show")
	prompt := screen(t, y.URL)
	prompt.open(script + "/prompt")
	prompt.until(`document.querySelector("#tap").disabled`)
	u.press(" ")
	u.sees("#tap .do", "The first line comes at")
	prompt.sees("#tap .do", "The first line comes at")
	y.Clock.Add(15 * time.Second)
	u.press(" ")
	u.sees("#tap .do", "Good morning")
	prompt.sees("#tap .do", "Good morning")
	y.Clock.Add(30 * time.Second)
	u.press(" ")
	prompt.sees("#tap .do", "While it blooms")
	u.click(".tools form .quiet")
	u.sees("#tap .place", "Ready")
	u.open(script)
	u.sees(".against tbody tr:first-child td:last-child", "s")
	u.sees("body", "2 of 4 lines")
}

// A practice pour is scored, with the simulated hand and by taps alone.
func TestPourForPracticeIsScored(t *testing.T) {
	t.Parallel()
	y, u := start(t, true)
	y.Clock.Run()
	u.open("/practice/low-and-gentle")
	u.until(`document.readyState === "complete"`)
	u.ok(u.Choose("#by", ""))
	u.press(" ")
	time.Sleep(3200 * time.Millisecond)
	u.press(" ")
	time.Sleep(2 * time.Second)
	u.press(" ")
	u.sees("#step", "Enter the weight")
	u.fill("#water", "ten litres")
	u.click("#by-taps .button")
	u.sees(".wrong .error", "number")
	u.fill("#water", "22")
	u.click("#by-taps .button")
	u.sees("#last", "of 100")
	u.sees("#last + .facts", "needs a scale")
	u.ok(u.Choose("#by", "hand=practised"))
	u.press(" ")
	// A tap ends the pour. A slow browser may see only its end.
	u.until(`/to go/.test(document.querySelector("#togo").innerText) && parseFloat(document.querySelector("#togo").innerText) < 35 ?
		(document.querySelector("#tap").click(), true) : document.querySelector("#last + .facts").innerText.includes("varying")`)
	u.until(`document.querySelector("#last + .facts")?.innerText.includes("varying")`)
}

// The count-down announces its seconds and begins the brew; pressed again it stops. Mutations caught: a count-down that never
// begins, a stopped one that does.
func TestCountDownBeginsTheBrew(t *testing.T) {
	t.Parallel()
	const counted = 5 // s
	_, u := start(t, true)
	u.open("/brews/evening-seed-next/brew")
	u.until(`document.readyState === "complete"`)
	says, err := yard.Eval[string](u.Screen, `(() => { const button = document.querySelector("#count-in"), says = document.querySelector("#ready-says");
		button.click(); const first = says.innerText; button.click(); return first + ". " + says.innerText })()`)
	if err != nil || says != "First water in 5. Tap, or press space, with the first water" {
		t.Errorf("%q, %v", says, err)
	}
	time.Sleep((counted + 1) * time.Second)
	u.sees(".place", "Ready")
	began := time.Now()
	u.click("#count-in")
	u.until(`document.querySelector("#brew").dataset.status === "running"`)
	second, err := yard.Eval[float64](u.Screen, shownSecond)
	u.ok(err)
	if ran := time.Since(began).Seconds() - counted; second > ran {
		t.Errorf("the clock shows %v s, %.1f s after the count-down", second, ran)
	}
}

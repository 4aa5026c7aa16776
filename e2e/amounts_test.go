package e2e

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"

	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/e2e/yard"
)

// An amountCase is one way to set two amounts on the Recipe station: one level of each factor.
type amountCase [6]string

var (
	amounts    = []string{"dose", "water", "ratio", "cup"}
	ways       = []string{"tab", "enter", "click away", "arrows", "stepper"}
	amountWays = [6][]string{amounts, amounts, ways, ways, {"quick", "slow"}, {"alone", "redrawn", "solved for"}}
)

func (c amountCase) String() string { return strings.Join(c[:], ", ") }

// pairs returns the pairs of levels in a case.
func (c amountCase) pairs() []string {
	var out []string
	for i := range c {
		for j := range i {
			out = append(out, fmt.Sprint(i, c[i], j, c[j]))
		}
	}
	return out
}

// pairwise returns cases that cover every pair of levels of different factors. Each case is the
// random draw that covers most of the missing pairs.
func pairwise() []amountCase {
	draw := rand.New(rand.NewPCG(1, 1))
	random := func() amountCase {
		var c amountCase
		for c[0] == c[1] {
			for i, levels := range amountWays {
				c[i] = levels[draw.IntN(len(levels))]
			}
		}
		return c
	}
	missing := map[string]bool{}
	for range 20000 { // enough draws to see every possible pair
		for _, p := range random().pairs() {
			missing[p] = true
		}
	}
	var out []amountCase
	for len(missing) > 0 {
		var best amountCase
		most := 0
		for range 500 {
			c, meets := random(), 0
			for _, p := range c.pairs() {
				if missing[p] {
					meets++
				}
			}
			if meets > most {
				best, most = c, meets
			}
		}
		for _, p := range best.pairs() {
			delete(missing, p)
		}
		if most > 0 {
			out = append(out, best)
		}
	}
	return out
}

// Mutations caught: a response that leaves the focused field stale, a field overwritten during
// typing, a ratio clamped to its usual range, a queued request that counts stale values as typed.
func TestAmountsKeepTheLastTwoTypedValues(t *testing.T) {
	t.Parallel()
	cases := pairwise()
	if len(cases) > 60 {
		t.Fatalf("%d cases, want at most 60", len(cases))
	}
	const screens = 3
	for n := range screens {
		t.Run(fmt.Sprint(n+1), func(t *testing.T) {
			t.Parallel()
			y, u := start(t, true)
			for i := n; i < len(cases); i += screens {
				setAmounts(t, y, u, cases[i])
			}
		})
	}
}

// A dose typed after the water keeps the water. Mutation caught: the sequence ends at 429 g and 1 : 16.5.
func TestDoseTypedAfterWaterKeepsTheWater(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	for _, key := range []string{kb.Tab, kb.Enter} {
		u.open("/brews/evening-seed-next/recipe")
		u.until(`document.readyState === "complete"`)
		for _, typed := range [][2]string{{"#dose", "18"}, {"#water", "297"}, {"#dose", "26"}} {
			u.fill(typed[0], typed[1])
			u.press(key)
		}
		u.until(`!document.body.hasAttribute("data-pending")`)
		u.value("#water", "297")
		u.value("#ratio", "11.4")
		u.value("#dose", "26")
	}
}

func setAmounts(t *testing.T, y *yard.Yard, u user, c amountCase) {
	t.Helper()
	const path = "/brews/evening-seed-next/recipe"
	u.open(path)
	u.until(`document.readyState === "complete"`)
	if c[4] == "slow" {
		u.js(`(() => { const quick = window.fetch.bind(window); window.fetch = async (...a) => { await new Promise(r => setTimeout(r,
			350)); return quick(...a) } })()`)
	}
	values := map[string]string{}
	for i, field := range c[:2] {
		values[field] = setAmount(u, field, c[2+i], c[5])
	}
	if err := u.Until(`!document.body.hasAttribute("data-pending")`); err != nil {
		t.Fatalf("%s: changes stay unanswered: %v", c, err)
	}
	draft, _, err := y.Store.Draft(t.Context(), "evening-seed-next")
	u.ok(err)
	var typed recipe.Amounts
	for field, value := range values {
		v, err := strconv.ParseFloat(value, 64)
		u.ok(err)
		typed = typed.Set(recipe.Knob(field), v)
		if now, _ := u.Value("#" + field); now != value {
			t.Errorf("%s: %s was set to %s and reads %s", c, field, value, now)
		}
	}
	want, err := recipe.Solve(typed, [2]recipe.Knob{recipe.Knob(c[1]), recipe.Knob(c[0])}, draft.Gear.Brewer.Retained)
	u.ok(err)
	for _, k := range recipe.FourAmounts() {
		now, _ := u.Value("#" + string(k))
		v, err := strconv.ParseFloat(now, 64)
		if err != nil || math.Abs(v-want.Get(k)) > map[bool]float64{true: 0.15, false: 1.2}[k == recipe.Dose || k == recipe.Ratio] {
			t.Errorf("%s: %s reads %q, want %s", c, k, now, units.Trim(want.Get(k), 2))
		}
	}
}

// typedAmounts differ clearly from the demo recipe, and any two of them give a valid recipe.
var typedAmounts = map[string]string{"dose": "26", "water": "320", "ratio": "12.4", "cup": "276"}

// setAmount sets one amount and returns the value of its field.
func setAmount(u user, field, way, meanwhile string) string {
	u.t.Helper()
	css := "#" + field
	redraw := func() {
		switch meanwhile {
		case "redrawn":
			u.js(`(() => { const f = document.querySelector("#recipe").elements;
				htmx.ajax("POST", location.pathname, {source: document.querySelector(".recipe-page"), target: "#page",
					swap: "innerMorph", values: {version: f.version.value, tab: f.tab.value, shown: f.shown.value, changed: ""}}) })()`)
		case "solved for":
			u.js(`document.querySelector("#solve button[name=goal]").click()`)
		}
	}
	switch way {
	case "arrows":
		redraw()
		u.ok(u.Focus(css))
		u.press(kb.ArrowUp)
		u.press(kb.ArrowDown)
		u.press(kb.ArrowUp)
	case "stepper":
		redraw()
		for range 2 {
			u.click(fmt.Sprintf(`button[data-for=%q][data-by="1"]`, field))
		}
	default:
		text := typedAmounts[field]
		u.fill(css, text[:1])
		redraw()
		time.Sleep(300 * time.Millisecond) // a pause in typing: the first digit is sent
		u.press(text[1:])
		switch way {
		case "tab":
			u.press(kb.Tab)
		case "enter":
			u.press(kb.Enter)
		case "click away":
			u.click("h1")
		}
	}
	now, err := u.Value(css)
	u.ok(err)
	if want := typedAmounts[field]; way != "arrows" && way != "stepper" && now != want {
		u.t.Errorf("%s by %s, %s: typed %s, the entry reads %s", field, way, meanwhile, want, now)
	}
	return now
}

package e2e

import (
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"

	"yardbloom/e2e/yard"
)

// A newcomer answers the questions of the first run, each with actions: a click on the choice with a text, or a text that is typed.
type newcomer struct {
	name    string
	answers []string
	sees    map[string]string // on the recipe, by selector
}

const (
	typed  = "type: "
	button = "button: "
)

var newcomers = []newcomer{
	{"a kettle, spoons and a blade", []string{"Open cone", "A blade", "With spoons", "The kettle only boils", "No", "Grams, ml", typed + "Old Wall",
		button + "medium-dark"}, map[string]string{".by-hand": "Strike each spoon off", "#why": "Half tablespoons"}},
	{"a hand mill with clicks", []string{"Open cone", "A mill with clicks", typed + "24", button + "Continue", "On a scale", "The kettle holds", "Grams, ml",
		typed + "High Field", button + "light"}, map[string]string{".knobs": "clicks", "h1": "Your first recipe"}},
	{"who knows nothing", []string{"I do not know", "I do not know", "I do not know", "I do not know", button + "I do not know"},
		map[string]string{"#why": "like "}},
	{"a bar in the hills", []string{"Flat bed", "A mill with numbers", typed + "5", button + "Continue", "On a scale", "The kettle only boils", "1000 to 2000",
		"Ounces", typed + "Ridge", button + "medium"}, map[string]string{".knobs": "oz", ".by-hand": "off the boil"}},
}

// mostActions is the number of actions within which a newcomer gets from the first page to "Ready".
const mostActions = 12

// Four kinds of newcomer get from the first page to "Ready" in at most twelve actions. Mutation caught: a question more, a page between the
// recipe and the brew.
func TestFourNewcomersAreReady(t *testing.T) {
	t.Parallel()
	for _, n := range newcomers {
		t.Run(n.name, func(t *testing.T) {
			t.Parallel()
			_, u := start(t, false)
			began, actions := time.Now(), 0
			act := func(do func()) { do(); actions++ }
			u.open("/")
			for _, answer := range n.answers {
				switch {
				case len(answer) > len(typed) && answer[:len(typed)] == typed:
					act(func() { u.fill(".first .field input", answer[len(typed):]) })
				case len(answer) > len(button) && answer[:len(button)] == button:
					act(func() { u.clickText(".first button:not(.vh)", answer[len(button):]) })
				default:
					act(func() { u.clickText(".first a", answer) })
				}
			}
			u.sees("h1", "first recipe")
			for css, says := range n.sees {
				u.sees(css, says)
			}
			act(func() { u.click(".recipe-head .button.now") })
			act(func() { u.click(".head .button.now") })
			u.sees(".place", "Ready")
			if actions > mostActions {
				t.Errorf("%d actions", actions)
			}
			t.Logf("%d actions, %.1f s", actions, time.Since(began).Seconds())
		})
	}
}

// clickText clicks the first element whose text begins with a text.
func (u user) clickText(css, text string) {
	u.t.Helper()
	u.until(`document.readyState === "complete"`)
	find := fmt.Sprintf(`[...document.querySelectorAll(%q)].find(e => (e.querySelector("strong") ?? e).innerText.trim()
		.replaceAll("\u00a0", " ").startsWith(%q))`, css, text)
	u.until(find + " !== undefined")
	u.js(`document.querySelector("[data-clicked]")?.removeAttribute("data-clicked"); ` + find + `.dataset.clicked = ""`)
	u.click("[data-clicked]")
	u.until(`!document.querySelector("[data-clicked]")`)
}

// The first run works by keyboard alone, and Back keeps the answers. Mutation caught: an answer that is no link.
func TestFirstRunByKeyboard(t *testing.T) {
	t.Parallel()
	_, u := start(t, false)
	u.open("/")
	for _, css := range []string{`a[href*="brewer=flat-bed"]`, `a[href*="grinder=plain"]`, `a[href*="scale=scale"]`, `a[href*="kettle=set"]`,
		`a[href*="units=metric"]`} {
		u.until(`document.readyState === "complete" && document.querySelector('` + css + `')`)
		u.ok(u.Focus(css))
		u.js("document.body.dataset.old = ''")
		u.press(kb.Enter)
		u.until("!('old' in document.body.dataset)")
	}
	u.focused("#coffee")
	u.ok(u.Focus(".first-ways a.quiet"))
	u.press(kb.Enter)
	u.sees("h1", "Which units")
	u.until(`document.querySelector('a[href*="brewer=flat-bed"][href*="grinder=plain"]')`)
	u.ok(u.Focus(`a[href*="units=metric"]`))
	u.press(kb.Enter)
	u.sees("h1", "Which coffee")
	u.fill("#coffee", "Hedge Row")
	u.press(kb.Enter)
	u.sees("h1", "first recipe")
	u.sees(".line", "Hedge Row")
}

// On a phone the ribbon, the prediction and the four knobs of the simple recipe are on the first two screens. Mutation caught: a card between
// the prediction and the knobs.
func TestSimpleRecipeOnAPhone(t *testing.T) {
	t.Parallel()
	y, u := start(t, true)
	u.ok(y.Store.SaveFullRecipe(t.Context(), "", false))
	u.ok(u.Size(390, 844))
	u.open("/brews/evening-seed-next/recipe")
	u.until(`document.querySelector(".recipe-simple") && document.readyState === "complete"`)
	bottom, err := yard.Eval[float64](u.Screen, `Math.max(...[...document.querySelectorAll(".knob .entry, .ribbon-narrow, .forecast")].map(e =>
		e.getBoundingClientRect().bottom + scrollY))`)
	u.ok(err)
	if bottom > 2*844 {
		t.Errorf("the last knob ends at %.0f px", bottom)
	}
	u.click(`button[value="full"]`)
	u.until(`document.querySelector("#finer-points")`)
	u.open("/brews/evening-seed-next/recipe")
	u.until(`document.querySelector("#finer-points")`) // it is remembered
	u.click(`button[value="simple"]`)
	u.until(`document.querySelector(".recipe-simple")`)
}

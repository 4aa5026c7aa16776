package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"

	"yardbloom/e2e/yard"
)

// The bed is tapped and the cup tasted, the coach advises, gets feedback, and the next recipe opens: all
// without a mouse.
func TestFromTheCupToTheNextRecipeByKeyboardAlone(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	u.open("/brews/slate-terrace-2/cup")
	tabTo(u, `.zone[data-place="middle"]`)
	u.press(" ")
	u.press(kb.Enter)
	u.sees(`.zone[data-place="middle"]`, "low")
	tabTo(u, `input[name="stage"]`)
	u.press(kb.ArrowRight)
	tabTo(u, `input[name="cool.acidity"]`)
	u.press(" ")
	for range 4 {
		u.press(kb.ArrowRight)
	}
	u.until(`document.querySelector('input[name="cool.acidity"][value="5"]').checked`)
	tabTo(u, `input[name="cool.acidity.like"]`)
	u.press(" ")
	u.alt(kb.Enter)
	u.sees("h1", "What next?")
	u.until(`document.querySelector("figure .map .map-patch")`)

	change := u.text(".one-change .change")
	tabTo(u, `button[value="bad pour"]`)
	u.press(kb.Enter)
	u.sees(".one-change .change", "Repeat the recipe")
	u.until(`document.querySelector('button[value="bad pour"]').getAttribute("aria-pressed") === "true"`)
	tabTo(u, `.account summary`)
	u.press(kb.Enter)
	u.sees(".account", change)
	tabTo(u, `button[value="bad pour"]`)
	u.press(kb.Enter)
	u.until(fmt.Sprintf(`document.querySelector(".one-change .change").innerText.replace(/\u00a0/g, " ") === %q`, change))
	tabTo(u, `.one-change button[value]`)
	u.press(kb.Enter)
	u.sees("h1", "The recipe")

	u.open("/brews/slate-terrace-2/cup")
	u.until(`document.querySelector('input[name="spot.middle"]').value === "low" &&
		document.querySelector('input[name="cool.acidity.like"][value="yes"]').checked`)
}

// A simulated refractometer reads the cup, and the yield is updated.
func TestSimulatedReadingsGiveTheYield(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	u.open("/brews/long-meadow-3/cup")
	u.sees("#yield", "the model's estimate")
	u.fill("#beverage", "208")
	for n := 1; n <= 3; n++ {
		u.until(`(document.querySelector('button[value="reading"]').click(), true)`)
		u.until(fmt.Sprintf(`(document.querySelector("#tds").value.match(/[\d.]+/g) || []).length === %d`, n))
	}
	u.until(`/ ± /.test(document.querySelector("#yield").innerText) && !document.querySelector("#yield").innerText.includes("estimate")`)
	u.value("#beverage", "208")
}

func TestBlindComparison(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	u.open("/side")
	u.fill("#cups", "Tin kettle, Old jug, Rain barrel")
	u.fill("#name", "Which water")
	u.click("form.card .button.now")
	u.sees("h1", "Which water")
	names := `["Tin kettle", "Old jug", "Rain barrel"]`
	u.until(fmt.Sprintf(`%s.every(n => !document.documentElement.outerHTML.includes(n))`, names))
	codes, err := yard.Eval[string](u.Screen, `[...document.querySelectorAll(".glass")].map(g => g.innerText).join(" ")`)
	u.ok(err)
	u.fill("#rank-hot", "12 34")
	u.click(`form[aria-label="Tasted hot"] .button.now`)
	u.sees(".error", "No cup has that code")
	u.value("#rank-hot", "12 34")
	for _, heat := range []string{"hot", "cooled"} {
		u.fill("#rank-"+heat, codes)
		u.click(fmt.Sprintf(`form[aria-label="Tasted %s"] .button.now`, heat))
		u.until(fmt.Sprintf(`document.readyState === "complete" && document.querySelector("#rank-%s")?.value === %q &&
			!document.querySelector(".error")`, heat, codes))
	}
	u.sees("#came ~ p", strings.Fields(codes)[0]+" first when hot")
	u.click(".head .button")
	u.until(fmt.Sprintf(`%s.every(n => document.body.innerText.includes(n))`, names))
	u.sees("body", "the seed")
}

func TestTrialFromItsPlanToItsAnswer(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	u.open("/trials?study=water")
	u.ok(u.Choose("#bag", "slate-terrace"))
	u.fill("#levels", "13, 16")
	u.fill("#repeats", "2")
	u.click("form.card .button.now")
	u.sees("h1", "How much water is enough")
	u.until(`[...document.querySelectorAll(".runs td.level span")].every(td => getComputedStyle(td).visibility === "hidden")`)
	for i, yield := range []string{"19,5", "20.9", "19.7", "21"} {
		u.fill(`.runs input[name="value"]`, yield)
		u.click(`.runs .inline-entry button`)
		u.sees(".head", fmt.Sprintf("%d of 4 brewed", i+1))
	}
	u.sees("#answer ~ p", "it adds")
	u.until(`document.querySelector(".levels .level-error") && document.querySelector(".levels .level-expected")`)
	u.sees("#answer ~ .advice", "the model expected")
	for _, size := range [][2]int64{{390, 844}, {820, 1180}} {
		u.ok(u.Size(size[0], size[1]))
		u.until(`document.documentElement.scrollWidth <= innerWidth`)
	}
}

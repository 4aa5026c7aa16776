package e2e

import (
	_ "embed"
	"strings"
	"testing"
	"time"

	"yardbloom/e2e/yard"
)

//go:embed testdata/axe.min.js
var axe string

// serious lists what axe-core finds that keeps somebody from using the page.
const serious = `axe.run(document, {resultTypes: ["violations"]}).then(r => r.violations
	.filter(v => v.impact === "serious" || v.impact === "critical")
	.map(v => v.id + ": " + v.nodes.slice(0, 3).map(n => n.target + " " + (n.any[0]?.message ?? "")).join(" | ")).join("\n"))`

func TestAxeFindsNothingSeriousOnAnyPage(t *testing.T) {
	t.Parallel()
	y, u := start(t, true)
	check := func(name string) {
		t.Helper()
		u.until(`document.readyState === "complete"`)
		if _, err := yard.Eval[bool](u.Screen, axe+"; true"); err != nil {
			t.Fatal(err)
		}
		found, err := yard.Eval[string](u.Screen, serious)
		u.ok(err)
		if found != "" {
			t.Errorf("%s:\n%s", name, found)
		}
	}
	for _, theme := range []string{"day", "night"} {
		u.open("/keys")
		if _, err := yard.Eval[string](u.Screen, `document.cookie = "theme=`+theme+`; path=/"`); err != nil {
			t.Fatal(err)
		}
		for _, path := range []string{"/", "/bags/new", "/bags/slate-terrace", "/brews/slate-terrace-3/next", "/brews/slate-terrace-4/recipe", "/brews/winter-stores-4/cup", "/brews/evening-seed-1", "/brews/evening-seed-next/recipe", "/brews/evening-seed-next/setup",
			"/brews/evening-seed-next/brew", "/log", "/gear", "/gear/grinders/bench-grinder", "/learned", "/schools", "/book", "/water", "/glossary", "/bags/first-frost/wish", "/side", "/side/window-morning", "/side/window-morning/pourer", "/side/two-mills", "/trials", "/trials/trial-water", "/trials/trial-stir", "/brews/slate-terrace-4/card", "/settings", "/keys", "/rush", "/practice", "/practice/circles", "/stage", "/stage/regional-heat", "/stage/regional-heat/show", "/stage/regional-heat/prompt", "/gear/devices/new", "/?removed=slate-terrace", "/brews/999"} {
			if strings.HasSuffix(path, "/brew") && theme == "night" {
				continue // it runs by now, and is looked at below
			}
			u.open(path)
			check(theme + " " + path)
		}
		if theme == "day" {
			u.open("/brews/evening-seed-next/brew")
			u.click("#tap")
		} else {
			u.open("/brews/evening-seed-next/brew")
		}
		u.until(`document.querySelector("#live") && document.readyState === "complete"`)
		y.Clock.Add(20 * time.Second)
		check(theme + " running brew")
	}
	u.ok(u.Size(390, 844))
	u.open("/brews/winter-stores-4/cup")
	check("phone cup")
}

// A page that scripts cannot reach, or that breaks its own policy, says so in the console.
func TestNoPageBreaksItsOwnPolicy(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	for _, path := range []string{"/", "/brews/evening-seed-next/recipe", "/brews/evening-seed-next/setup", "/brews/evening-seed-next/brew", "/brews/winter-stores-4/cup", "/brews/slate-terrace-3/next", "/side/window-morning", "/trials", "/log", "/practice/circles", "/stage/regional-heat/show"} {
		u.open(path)
		u.until(`document.readyState === "complete" && typeof htmx === "object"`)
		violations, err := yard.Eval[int](u.Screen, `new Promise(done => { let n = 0; document.addEventListener("securitypolicyviolation", () => n++);
			document.querySelectorAll("input").forEach(i => i.dispatchEvent(new Event("change", {bubbles: true}))); setTimeout(() => done(n), 300) })`)
		u.ok(err)
		if violations != 0 {
			t.Errorf("%s: %d violations of the policy", path, violations)
		}
		fonts, err := yard.Eval[bool](u.Screen, `document.fonts.ready.then(() => document.fonts.check('16px "Bricolage Grotesque"') && document.fonts.check('16px "Atkinson Hyperlegible Next"'))`)
		u.ok(err)
		if !fonts {
			t.Errorf("%s: the fonts did not load", path)
		}
	}
}

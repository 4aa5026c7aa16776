package e2e

import (
	_ "embed"
	"testing"
	"time"

	"yardbloom/e2e/yard"
)

//go:embed testdata/axe.min.js
var axe string

// serious returns the violations found by axe-core that make a page unusable for people with disabilities.
// Only the contrast of colours depends on the theme.
func serious(rules string) string {
	return `axe.run(document, {resultTypes: ["violations"]` + rules + `}).then(r => r.violations
	.filter(v => v.impact === "serious" || v.impact === "critical")
	.map(v => v.id + ": " + v.nodes.slice(0, 3).map(n => n.target + " " + (n.any[0]?.message ?? "")).join(" | ")).join("\n"))`
}

func TestAxeFindsNothingSeriousOnAnyPage(t *testing.T) {
	t.Parallel()
	y, u := startWithPeople(t)
	check := func(name string) {
		t.Helper()
		u.until(`document.readyState === "complete"`)
		if _, err := yard.Eval[bool](u.Screen, axe+"; true"); err != nil {
			t.Fatal(err)
		}
		for theme, rules := range map[string]string{"day": "", "night": `, runOnly: ["color-contrast"]`} {
			u.js(`document.documentElement.dataset.theme = "` + theme + `"`)
			found, err := yard.Eval[string](u.Screen, serious(rules))
			u.ok(err)
			if found != "" {
				t.Errorf("%s by %s:\n%s", name, theme, found)
			}
		}
	}
	for _, path := range []string{"/", "/bags/new", "/bags/slate-terrace", "/brews/slate-terrace-3/next",
		"/brews/slate-terrace-4/recipe", "/brews/winter-stores-4/cup", "/brews/evening-seed-1", "/brews/evening-seed-next/recipe",
		"/brews/evening-seed-next/setup", "/brews/evening-seed-next/brew", "/log", "/gear", "/gear/grinders/bench-grinder", "/learned",
		"/schools", "/schools/compare", "/book", "/water", "/glossary", "/bags/first-frost/wish", "/side", "/side/window-morning",
		"/side/window-morning/pourer", "/side/two-mills", "/trials", "/trials/trial-water", "/trials/trial-stir",
		"/log?q=terrace&low=6", "/log/compare?id=slate-terrace-3&id=slate-terrace-4", "/yard", "/yard/day", "/brews/slate-terrace-4",
		"/brews/slate-terrace-4/photos", "/brews/slate-terrace-4/share", "/settings/programs", "/data", "/brews/slate-terrace-4/flavours",
		"/brews/slate-terrace-4/card",
		"/brews/evening-seed-next/text", "/brews/evening-seed-next/record",
		"/people", "/people/ivo", "/people/ivo/remove", "/brews/slate-terrace-4/next?for=ivo",
		"/settings", "/keys", "/rush", "/practice", "/practice/circles", "/stage", "/stage/regional-heat",
		"/stage/regional-heat/show", "/stage/regional-heat/prompt", "/gear/devices/new", "/?removed=slate-terrace", "/brews/999"} {
		u.open(path)
		check(path)
	}
	u.open("/brews/evening-seed-next/brew")
	u.click("#tap")
	u.until(`document.querySelector("#live") && document.readyState === "complete"`)
	y.Clock.Add(20 * time.Second)
	check("running brew")
	u.ok(u.Size(390, 844))
	u.open("/brews/winter-stores-4/cup")
	check("phone cup")
}

// A page with blocked scripts or a violation of its content security policy logs an error to the console.
func TestNoPageViolatesItsPolicy(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	for _, path := range []string{"/", "/brews/evening-seed-next/recipe", "/brews/evening-seed-next/setup", "/brews/evening-seed-next/brew",
		"/brews/winter-stores-4/cup", "/brews/slate-terrace-3/next", "/side/window-morning", "/trials", "/log", "/practice/circles",
		"/stage/regional-heat/show"} {
		u.open(path)
		u.until(`document.readyState === "complete" && typeof htmx === "object"`)
		violations, err := yard.Eval[int](u.Screen, `new Promise(done => { let n = 0; document.addEventListener("securitypolicyviolation", () => n++);
			document.querySelectorAll("input").forEach(i => i.dispatchEvent(new Event("change", {bubbles: true})));
				setTimeout(() => done(n), 300) })`)
		u.ok(err)
		if violations != 0 {
			t.Errorf("%s: %d violations of the policy", path, violations)
		}
		fonts, err := yard.Eval[bool](u.Screen, `document.fonts.ready.then(() => document.fonts.check('16px "Bricolage Grotesque"') &&
			document.fonts.check('16px "Atkinson Hyperlegible Next"'))`)
		u.ok(err)
		if !fonts {
			t.Errorf("%s: the fonts did not load", path)
		}
	}
}

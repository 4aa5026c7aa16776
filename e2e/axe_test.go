package e2e

import (
	_ "embed"
	"fmt"
	"testing"
	"time"

	"yardbloom/e2e/yard"
)

//go:embed testdata/axe.min.js
var axe string

// violations returns what axe-core finds, of every impact.
func violations(rules string) string {
	return `axe.run(document, {resultTypes: ["violations"]` + rules + `}).then(r => r.violations
	.map(v => v.id + " (" + v.impact + "): " + v.nodes.slice(0, 3).map(n => n.target + " " + (n.any[0]?.message ?? "")).join(" | ")).join("\n"))`
}

// onlyContrast limits axe-core to the rule that depends on the theme.
const onlyContrast = `, runOnly: ["color-contrast"]`

// axePages lists all pages, each with content.
var axePages = []string{"/", "/bags/new", "/bags/slate-terrace", "/brews/slate-terrace-3/next",
	"/brews/slate-terrace-4/recipe", "/brews/winter-stores-4/cup", "/brews/evening-seed-1", "/brews/evening-seed-next/recipe",
	"/brews/evening-seed-next/setup", "/brews/evening-seed-next/brew", "/log", "/gear", "/gear/grinders/bench-grinder", "/learned",
	"/schools", "/schools/compare", "/book", "/water", "/glossary", "/bags/first-frost/wish", "/side", "/side/window-morning",
	"/side/window-morning/pourer", "/side/two-mills", "/trials", "/trials/trial-water", "/trials/trial-stir",
	"/log?q=terrace&low=6", "/log/compare?id=slate-terrace-3&id=slate-terrace-4", "/yard", "/yard/day", "/brews/slate-terrace-4",
	"/brews/slate-terrace-4/photos", "/brews/slate-terrace-4/share", "/settings/programs", "/data", "/brews/slate-terrace-4/flavours",
	"/brews/slate-terrace-4/card", "/brews/evening-seed-next/text", "/brews/evening-seed-next/record", "/brews/slate-terrace-15/ready",
	"/people", "/people/ivo", "/people/ivo/remove", "/brews/slate-terrace-4/next?for=ivo",
	"/settings", "/keys", "/rush", "/rush/saturday-rush", "/practice", "/practice/circles", "/stage", "/stage/regional-heat",
	"/stage/regional-heat/show", "/stage/regional-heat/prompt", "/gear/devices/new", "/?removed=slate-terrace", "/brews/999",
	"/offline", "/offline/cup", "/first/brewer", "/first/grinder?grinder=clicks", "/first/measure?kettle=boil", "/first/coffee"}

// axe-core finds nothing on any page, in both themes, at three widths. Mutation caught: a field without a label, a colour too close to its
// background by night, a link that only a phone hides.
func TestAxeFindsNothingOnAnyPage(t *testing.T) {
	t.Parallel()
	for _, width := range []int64{360, 820, 1280} {
		t.Run(fmt.Sprint(width), func(t *testing.T) {
			t.Parallel()
			y, u := startWithPeople(t)
			u.ok(u.Size(width, 900))
			check := func(name string) {
				t.Helper()
				u.until(`document.readyState === "complete"`)
				if _, err := yard.Eval[bool](u.Screen, axe+"; true"); err != nil {
					t.Fatal(err)
				}
				for theme, rules := range map[string]string{"day": "", "night": onlyContrast} {
					u.js(`document.documentElement.dataset.theme = "` + theme + `"`)
					found, err := yard.Eval[string](u.Screen, violations(rules))
					u.ok(err)
					if found != "" {
						t.Errorf("%s by %s:\n%s", name, theme, found)
					}
				}
			}
			for _, path := range axePages {
				u.open(path)
				check(path)
			}
			u.open("/brews/evening-seed-next/recipe")
			u.click(".help-button")
			check("help")
			u.ok(y.Store.SaveFullRecipe(t.Context(), "marta", false))
			u.open("/brews/evening-seed-next/recipe")
			check("simple recipe")
			u.open("/brews/evening-seed-next/brew")
			u.click("#tap")
			u.until(`document.querySelector("#live") && document.readyState === "complete"`)
			y.Clock.Add(20 * time.Second)
			check("running brew")
		})
	}
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

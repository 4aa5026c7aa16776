package e2e

import (
	"strings"
	"testing"

	"yardbloom/e2e/yard"
)

// layoutPages lists all pages, each with content.
var layoutPages = []string{
	"/", "/bags/slate-terrace", "/bags/new", "/bags/evening-seed/wish", "/brews/evening-seed-next/recipe", "/brews/evening-seed-next/setup",
	"/brews/evening-seed-next/brew",
	"/brews/long-meadow-3/cup", "/brews/slate-terrace-4", "/brews/slate-terrace-4/recipe", "/brews/slate-terrace-4/next", "/log", "/book",
	"/gear", "/gear/brewers/window-cone", "/gear/grinders/apron-mill",
	"/gear/kettles/stove-kettle", "/gear/waters/spring-water", "/gear/devices/window-scale", "/learned", "/settings", "/schools", "/schools/compare",
	"/people", "/people/marta", "/people/marta/remove", "/brews/slate-terrace-4/next?for=ivo",
	"/glossary", "/keys", "/rush", "/stage", "/stage/regional-heat", "/stage/regional-heat/show",
	"/practice", "/practice/circles", "/side", "/trials", "/trials/trial-stir",
	"/log?q=terrace", "/log/compare?id=slate-terrace-3&id=slate-terrace-4", "/yard", "/yard/day", "/brews/slate-terrace-4/photos",
	"/brews/slate-terrace-4/flavours", "/brews/slate-terrace-4/share", "/settings/programs", "/data",
	"/first/brewer", "/first/grinder?grinder=clicks", "/first/measure?kettle=boil", "/first/units", "/first/coffee",
}

// layoutFaults returns horizontal overflow, text under 11 px, and targets under 44 px high or
// 24 px wide. Links inside sentences, glossary links and visually hidden elements are exempt. A
// checkbox is measured with its label.
const layoutFaults = `(() => {
	const faults = new Set(), root = document.documentElement;
	const name = e => e.tagName.toLowerCase() + (e.id ? "#" + e.id : "") + (e.className.baseVal ?? e.className ? "."
		+ String(e.className.baseVal ?? e.className).trim().split(/\s+/)[0] : "");
	const shown = e => e.checkVisibility({opacityProperty: true, visibilityProperty: true}) && !e.closest(".vh, .sr-only, [hidden]") &&
		e.getBoundingClientRect().width > 1;
	if (root.scrollWidth > innerWidth) {
		const wide = [...document.querySelectorAll("main *")].filter(e => shown(e) &&
			e.getBoundingClientRect().right > innerWidth + 1 && !e.closest(".scrolls"));
		faults.add("wide " + root.scrollWidth + ": " + (wide.length ? name(wide.at(-1)) : ""));
	}
	const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
	for (let n = walker.nextNode(); n; n = walker.nextNode()) {
		const e = n.parentElement;
		if (!n.textContent.trim() || !shown(e) || e.closest("script, style, template, title")) continue;
		let size = parseFloat(getComputedStyle(e).fontSize);
		if (e.ownerSVGElement) size *= Math.abs(e.getScreenCTM().a);
		if (size < 10.95) faults.add("text " + size.toFixed(1) + ": " + name(e) + " in "
			+ name(e.ownerSVGElement ?? e.parentElement) + " “" + n.textContent.trim().slice(0, 20) + "”");
	}
	for (const e of document.querySelectorAll("a[href], button, summary, select, textarea, input:not([type=hidden]), [role=slider]")) {
		if (!shown(e) || e.tabIndex < 0 && e.ariaHidden) continue;
		const box = ["checkbox", "radio"].includes(e.type) ? e.closest("label") ?? e : e.matches("a") &&
			e.closest(".covers") ? e.closest(".covers") : e.closest(".row-open") &&
				e.matches("a") ? e.closest(".row-open") : e.matches("input, select") ? e.closest(".entry, .cell") ?? e : e;
		const sentence = e.matches("a.term") || e.matches("a") && getComputedStyle(e).display === "inline" &&
			[...e.parentElement.childNodes].some(n => n.nodeType === 3 && n.textContent.trim().length > 1);
		const r = box.getBoundingClientRect();
		if (!sentence && (r.height < 43.5 || r.width < 23.5)) faults.add("target " + r.width.toFixed(0) + "×"
			+ r.height.toFixed(0) + ": " + name(e) + " “" + (e.ariaLabel ?? e.innerText ?? e.name ?? "").trim().slice(0, 20) + "”");
	}
	return [...faults];
})()`

// simpleRecipe is the recipe with the simple view.
const simpleRecipe = "/brews/evening-seed-next/recipe?view=simple"

// A width of 640 px is that of a screen of 1280 px whose text is twice as large.
// Mutations caught: content that overflows, a wide figure on a phone, a target of 39 px.
func TestPageLayoutAtEveryWidth(t *testing.T) {
	t.Parallel()
	y, u := startWithPeople(t)
	for _, path := range append(layoutPages, simpleRecipe) {
		if path == simpleRecipe {
			u.ok(y.Store.SaveFullRecipe(t.Context(), "", false))
		}
		u.open(path)
		u.until(`document.readyState === "complete" && document.fonts.status === "loaded"`)
		for _, width := range []int64{360, 640, 820, 1180, 1280, 1920} {
			u.ok(u.Size(width, map[bool]int64{true: 740, false: 900}[width == 360]))
			faults, err := yard.Eval[[]string](u.Screen, layoutFaults)
			u.ok(err)
			if len(faults) > 0 {
				t.Errorf("%s at %d:\n\t%s", path, width, strings.Join(faults, "\n\t"))
			}
		}
	}
}

// legible returns stages of the Brew screen with text that is too small or clipped.
const legible = `(() => {
	const faults = new Set(), tap = document.querySelector("#tap").getBoundingClientRect();
	const wide = innerWidth >= 820, least = {".do": wide ? 64 : 40, ".how": wide ? 32 : 24, ".then": wide ? 32 : 24};
	const cues = [...document.querySelectorAll("#tap .cue")], shown = cues.map(c => c.hidden);
	for (const cue of cues) {
		for (const c of cues) c.hidden = c !== cue;
		const says = cue.querySelector(".do").innerText;
		for (const [css, size] of Object.entries(least)) {
			const e = cue.querySelector(css), is = e && parseFloat(getComputedStyle(e).fontSize);
			if (e?.innerText.trim() && is < size - 0.01) faults.add(says + " " + css + " " + is);
		}
		for (const e of cue.children) {
			const r = e.getBoundingClientRect();
			if (e.innerText.trim() && (r.bottom > tap.bottom - 3 || r.top < tap.top || r.right > tap.right)) faults.add("“"
				+ says + "”: " + e.className + " leaves the box by " + (r.bottom - tap.bottom).toFixed(0));
		}
	}
	cues.forEach((c, i) => { c.hidden = shown[i]; });
	return [...faults];
})()`

// Mutations caught: technique at 18 px, a line clipped at the bottom of the tap area.
func TestBrewScreenTextSize(t *testing.T) {
	t.Parallel()
	_, u := start(t, true)
	for _, recipe := range []string{"evening-seed-next"} {
		for _, running := range []bool{false, true} {
			u.open("/brews/" + recipe + "/brew")
			if running {
				u.click("#tap")
				u.until(`document.querySelector("#live") && document.readyState === "complete"`)
			}
			for _, size := range [][2]int64{{1280, 800}, {820, 1180}, {1180, 820}, {360, 740}, {1920, 1080}} {
				u.ok(u.Size(size[0], size[1]))
				faults, err := yard.Eval[[]string](u.Screen, legible)
				u.ok(err)
				if len(faults) > 0 {
					t.Errorf("%s, running %v, at %d×%d:\n\t%s", recipe, running, size[0], size[1], strings.Join(faults, "\n\t"))
				}
			}
		}
	}
}

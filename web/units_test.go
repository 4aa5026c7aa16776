package web_test

import (
	"html"
	"regexp"
	"strings"
	"testing"

	"yardbloom/web/webtest"
)

// unitPages lists all pages that show figures.
var unitPages = []string{
	"/", "/bags/evening-seed", "/bags/new", "/bags/evening-seed/wish", "/bags/long-meadow", "/brews/evening-seed-next/recipe",
	"/brews/evening-seed-next/setup", "/brews/evening-seed-next/brew",
	"/brews/evening-seed-next/card", "/brews/evening-seed-next/text", "/brews/long-meadow-3", "/brews/long-meadow-3/recipe", "/brews/long-meadow-3/cup",
	"/brews/slate-terrace-4", "/brews/slate-terrace-4/cup", "/brews/slate-terrace-4/next",
	"/log", "/book", "/gear", "/gear/brewers/window-cone", "/gear/grinders/apron-mill", "/gear/grinders/old-blade",
	"/gear/kettles/stove-kettle", "/gear/waters/spring-water", "/gear/devices/window-scale",
	"/learned", "/settings", "/schools", "/schools/compare", "/glossary", "/keys", "/rush", "/stage", "/stage/regional-heat", "/stage/regional-heat/show",
	"/practice", "/practice/circles", "/side", "/trials", "/trials/trial-stir",
	"/log/compare?id=slate-terrace-3&id=slate-terrace-4", "/yard", "/yard/day", "/brews/slate-terrace-4/photos", "/brews/slate-terrace-4/flavours",
	"/settings/programs", "/data",
}

var (
	tags       = regexp.MustCompile(`(?s)<script.*?</script>|<style.*?</style>|<[^>]*>`)
	spoken     = regexp.MustCompile(`(?:aria-label|aria-valuetext|title|placeholder|data-say|data-unit)="([^"]*)"`)
	metricUnit = regexp.MustCompile(`[0-9]\s?(?:g|ml|kg|g/s|ml/s|°C|K|m|mm|cm|litres?|g/L)(?:[^a-zA-Z/µ]|$)`)
	otherUnit  = regexp.MustCompile(`[0-9]\s?(?:oz|fl oz|°F|ft|in|oz/s|lb)(?:[^a-zA-Z/]|$)`)
)

// visible returns the text of a page, including labels for screen readers.
func visible(page string) string {
	var out strings.Builder
	for _, m := range spoken.FindAllStringSubmatch(page, -1) {
		out.WriteString(m[1] + " | ")
	}
	out.WriteString(tags.ReplaceAllString(page, " | "))
	return strings.ReplaceAll(html.UnescapeString(out.String()), "\u00a0", " ")
}

// Mutation caught: a sentence, a figure or a hint with a hard-coded unit.
func TestPagesUseThePreferredUnits(t *testing.T) {
	if testing.Short() {
		t.Skip("one goroutine works for long: nothing for the race detector")
	}
	t.Parallel()
	for _, c := range []struct {
		name    string
		set     []string
		foreign *regexp.Regexp
	}{
		{"ounces and Fahrenheit", []string{"mass", "oz", "heat", "°F", "altitude", "800 ft"}, metricUnit},
		{"metric", []string{"mass", "g", "heat", "°C", "altitude", "240"}, otherUnit},
	} {
		v := webtest.Visit(t)
		v.Post("/settings", c.set...)
		read := func(path, page string) {
			t.Helper()
			text := visible(page)
			for _, at := range c.foreign.FindAllStringIndex(text, -1) {
				t.Errorf("%s, %s: …%s…", c.name, path, strings.Join(strings.Fields(text[max(0, at[0]-40):min(len(text), at[1]+25)]), " "))
			}
		}
		check := func(path string) {
			t.Helper()
			code, page := v.Get(path)
			if code >= 400 {
				t.Errorf("%s: status %d", path, code)
			}
			read(path, page)
		}
		for _, path := range unitPages {
			check(path)
		}
		for _, typed := range [][]string{{"dose", "8 g"}, {"dose", "60 g"}, {"dose", "18 g", "rate", "19 g/s"},
			{"rate", "5 g/s", "temperature", "99 °C"}, {"dose", "900 g"}, {"dose", "18 g"}, {"serving", "over ice"}, {"serving", "diluted"},
			{"kettle", "stove-kettle"}, {"serving", "hot"}} {
			_, _, page := v.Recipe(typed...) // including its warnings
			read("/brews/…/recipe with "+strings.Join(typed, " "), page)
			check("/brews/" + webtest.Planned + "/setup")
		}
		v.Post("/brews/" + webtest.Planned + "/start")
		check("/brews/" + webtest.Planned + "/brew")
	}
}

package web_test

import (
	"net/http"
	"strings"
	"testing"

	"yardbloom/web/webtest"
)

// Every page has its help, with three terms of the glossary, and its trade terms open in place. Mutation caught: a page that is neither a station
// nor a side tool.
func TestEveryPageHasHelp(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	for _, path := range append(unitPages, "/data", "/people", "/trials/trial-water", "/side/window-morning", "/brews/evening-seed-1/ready") {
		code, page := v.Get(path)
		_, help, found := strings.Cut(page, `<aside id="help"`)
		if strings.HasSuffix(path, "/show") || strings.HasSuffix(path, "/card") { // a stage and a sheet of paper
			continue
		}
		if code != http.StatusOK || !found || strings.Count(help, `<dt><a`) != 3 {
			t.Errorf("%s: status %d, %d terms in its help", path, code, strings.Count(help, `<dt><a`))
		}
	}
	if _, page := v.Get("/brews/evening-seed-next/recipe"); strings.Count(page, `class="term" href="/glossary#`) < 12 ||
		strings.Count(page, `class="term"`) != strings.Count(page, `data-says="`) {
		t.Error("terms of the Recipe station do not open in place")
	}
}

package settings_test

import (
	"html"
	"net/http"
	"regexp"
	"strings"
	"testing"

	"yardbloom/core/recipe"
	"yardbloom/web/webtest"
)

var toTrial = regexp.MustCompile(`href="(/trials\?[^"]*)"`)

// Every dispute that the model can compare, and every pair of the first school with another, shows a comparison with the trial
// that settles it, ready to be planned, or says why not. Mutations caught: a dispute without its setting, a link that the trial's
// form does not take, a style in a brewer that it does not suit.
func TestSchoolsAreCompared(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	_, page := v.Get("/schools")
	var paths []string
	for _, m := range regexp.MustCompile(`href="(/schools/compare\?dispute=[a-z]+)"`).FindAllStringSubmatch(page, -1) {
		paths = append(paths, m[1]+"&bag=slate-terrace")
	}
	if len(paths) < 8 || !strings.Contains(page, "turned=named") {
		t.Errorf("%d disputes can be compared", len(paths))
	}
	for _, style := range recipe.Schools()[1:] {
		paths = append(paths, "/schools/compare?some=three-rounds&other="+string(style.ID)+"&bag=slate-terrace")
	}
	compared := 0
	for _, path := range paths {
		code, page := v.Get(path)
		link := toTrial.FindStringSubmatch(page)
		if code != http.StatusOK || link == nil {
			if code != http.StatusOK || !strings.Contains(page, "does not suit") && !strings.Contains(page, "nothing to compare") && !strings.Contains(page,
				"has no setting") {
				t.Errorf("%s: status %d, without a reason", path, code)
			}
			continue
		}
		compared++
		_, plan := v.Get(html.UnescapeString(link[1]))
		form := webtest.Fields(plan)
		form.Set("repeats", "1") // for a small bag
		if code, body, _ := v.Send("POST", "/trials", form); code != http.StatusSeeOther {
			t.Errorf("%s: the trial is not planned: %v", path, webtest.ErrorsIn(body))
		}
	}
	if compared < 14 {
		t.Errorf("only %d comparisons", compared)
	}
	for path, says := range map[string]string{"?some=three-rounds&other=three-rounds": "the same school", "?some=nonsense": "Choose two schools",
		"?bag=nobody": "Add a coffee"} {
		if code, page := v.Get("/schools/compare" + path); code != http.StatusOK || !strings.Contains(page, says) {
			t.Errorf("%s: status %d, it does not say %q", path, code, says)
		}
	}
}

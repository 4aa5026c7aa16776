package log_test

import (
	"net/http"
	"regexp"
	"strings"
	"testing"

	"yardbloom/web/webtest"
)

// A brew, a trial and a script are deleted, listed in Settings, and restored; a running brew is not deleted. Mutations caught: an
// undo that leads nowhere, a record that stays in its list, a restore that works twice.
func TestRecordsAreDeletedAndRestored(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	for _, c := range []struct{ path, list, name string }{
		{"/brews/slate-terrace-3", "/log", "Slate Terrace"}, {"/trials/trial-water", "/trials", "How much water is enough"},
		{"/stage/regional-heat", "/stage", "Potting shed heat"},
	} {
		code, _, header := v.Send("POST", c.path+"/delete", nil)
		if code != http.StatusSeeOther || !strings.HasPrefix(header.Get("Location"), c.list+"?removed=") {
			t.Fatalf("%s: status %d to %q", c.path, code, header.Get("Location"))
		}
		if code, _ := v.Get(c.path); code != http.StatusNotFound {
			t.Errorf("%s is still there: status %d", c.path, code)
		}
		_, list := v.Get(header.Get("Location"))
		undo := regexp.MustCompile(`action="(/removed/[^"]+/restore)"`).FindStringSubmatch(list)
		if undo == nil || strings.Contains(list, `href="`+c.path+`"`) {
			t.Fatalf("%s: no undo, or it is still in its list", c.path)
		}
		if _, settings := v.Get("/settings"); !strings.Contains(settings, "Recently deleted") || !strings.Contains(settings, c.name) {
			t.Errorf("%s is not in Settings", c.name)
		}
		if code, _ := v.Post(undo[1]); code != http.StatusSeeOther {
			t.Errorf("%s: restored with status %d", c.path, code)
		}
		if code, page := v.Get(c.path); code != http.StatusOK || !strings.Contains(page, c.name) {
			t.Errorf("%s did not come back: status %d", c.path, code)
		}
		if code, page := v.Post(undo[1]); code != http.StatusNotFound || !strings.Contains(page, "cannot be restored") {
			t.Errorf("%s: restored again with status %d", c.path, code)
		}
	}
	v.Post("/brews/" + webtest.Planned + "/start")
	if code, page := v.Post("/brews/" + webtest.Planned + "/delete"); code != http.StatusConflict || !strings.Contains(page, "Stop the brew first") {
		t.Errorf("a running brew: status %d", code)
	}
	for _, path := range []string{"/brews/none/delete", "/trials/none/delete", "/stage/none/delete", "/side/none/delete", "/removed/none/restore"} {
		if code, _ := v.Post(path); code != http.StatusNotFound {
			t.Errorf("%s: status %d", path, code)
		}
	}
}

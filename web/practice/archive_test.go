package practice_test

import (
	"context"
	"net/http"
	"strings"
	"testing"

	"yardbloom/core/rush"
	"yardbloom/web/webtest"
)

// An archived script, rush or try disappears from its list, and can be restored from the notice.
func TestArchiveAndRestore(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	ctx := context.Background()
	tries, err := v.Store.Tries(ctx)
	if err != nil {
		t.Fatal(err)
	}
	if err := v.Store.AddRush(ctx, rush.Rush{ID: "morning", Ended: true}, v.Now()); err != nil {
		t.Fatal(err)
	}
	for list, thing := range map[string]string{"/stage": "/stage/regional-heat", "/practice": "/practice/tries/" +
		tries[0].ID, "/rush": "/rush/morning"} {
		there := func() bool { _, page := v.Get(list); return strings.Contains(page, thing) }
		if list == "/stage" && !there() {
			t.Fatal("the script is not on its list")
		}
		code, _, header := v.Send("POST", thing+"/archive", nil)
		if code != http.StatusSeeOther {
			t.Fatalf("%s archive: status %d", thing, code)
		}
		if there() {
			t.Errorf("%s is archived and still on %s", thing, list)
		}
		if _, page := v.Get(header.Get("Location")); !strings.Contains(page, thing+"/restore") {
			t.Errorf("%s offers no way back", header.Get("Location"))
		}
		if v.Post(thing + "/restore"); !there() {
			t.Errorf("%s did not come back", thing)
		}
		if code, _ := v.Post(strings.TrimSuffix(thing, thing[strings.LastIndex(thing, "/"):]) +
			"/unknown/archive"); code != http.StatusNotFound {
			t.Errorf("unknown id for %s: status %d", thing, code)
		}
	}
}

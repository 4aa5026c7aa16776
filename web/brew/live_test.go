package brew_test

import (
	"context"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/practice"
	"yardbloom/store"
	"yardbloom/web/webtest"
)

// A screen that was offline reports the time since the first water, because its own clock may be wrong.
func TestLateStartCountsFromFirstWater(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	path := "/brews/" + webtest.Planned
	for _, ago := range []string{"NaN", "-5", "2592000.1", "1e9", "soon"} {
		if code, _ := v.Post(path+"/start", "key", "k", "ago", ago); code != http.StatusBadRequest {
			t.Errorf("begun %q ago: status %d", ago, code)
		}
	}
	if _, err := v.Store.Brew(context.Background(), webtest.Planned); err == nil {
		t.Fatal("a start that was refused began the brew")
	}
	for range 2 { // sent twice, stored once
		if code, _ := v.Post(path+"/start", "key", "k", "ago", "130.5"); code != http.StatusSeeOther {
			t.Errorf("status %d", code)
		}
	}
	v.Post(path+"/tap", "key", "m", "kind", "mark", "mark", "dry spot", "at", "12")
	b, err := v.Store.Brew(context.Background(), webtest.Planned)
	made := slices.DeleteFunc(b.Events, func(e brew.Event) bool { return e.Kind == brew.Heated }) // the simulated kettle's, at any time
	if err != nil || v.Now().Sub(b.Started).Seconds() != 130.5 || len(made) != 2 {
		t.Errorf("begun at %v with %+v, %v", b.Started, b.Events, err)
	}
	// The clocks go forward by an hour: the zone changes, the elapsed time does not.
	v.SetNow(v.Now().Add(20 * time.Second).In(time.FixedZone("", 3*3600)))
	if at := elapsed(v, path); at < 150 || at > 151 {
		t.Errorf("after the change of the clocks it stands at %v s", at)
	}
}

// A stop in the bloom is stored with its reason; events of a scale cannot be forged by a form.
func TestStopIsStoredWithItsReason(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	path := "/brews/" + webtest.Planned
	v.Post(path + "/start")
	v.SetNow(v.Now().Add(9 * time.Second))
	for _, kind := range []brew.EventKind{brew.Watched, brew.Ended, brew.Off, brew.Bend, brew.Tared} {
		if code, _ := v.Post(path+"/tap", "key", "forged", "kind", string(kind)); code != http.StatusBadRequest {
			t.Errorf("%s by a form: status %d", kind, code)
		}
	}
	if code, _ := v.Post(path+"/abandon", "reason", strings.Repeat("x", 300)); code != http.StatusUnprocessableEntity {
		t.Errorf("an endless reason: status %d", code)
	}
	if code, _ := v.Post(path+"/abandon", "reason", "spilled"); code != http.StatusSeeOther {
		t.Errorf("status %d", code)
	}
	if _, page := v.Get(path); !strings.Contains(page, "stopped early: spilled") {
		t.Error("the report does not say why it was stopped")
	}
	if code, _ := v.Post(path+"/weigh", "scale", "none-such"); code != http.StatusUnprocessableEntity {
		t.Errorf("a scale that is not there: status %d", code)
	}
	if code, _ := v.Post(path+"/watch", "speed", "4"); code != http.StatusNotFound {
		t.Errorf("a stand-in hand outside the demo: status %d", code)
	}
}

// Invalid input gets a sentence beside the field and stays there, and nothing is stored.
func TestInvalidInputOfTheLiveTools(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	for _, c := range []struct {
		path  string
		pairs []string
		says  string
		typed string
	}{
		{"/gear/devices/new", []string{"name", "Far scale", "kind", "scale", "address", "http://scale"}, "are supported", "http://scale"},
		{"/gear/devices/new", []string{"name", "", "kind", "scale", "address", "tcp://host:1", "carafe", "a lot"}, "cannot be empty",
			"a lot"},
		{"/rush", []string{"same", "1"}, "Order something first", ""},
		{"/rush", []string{"same", "1", "order.slate-terrace-3-kept", "four"}, "number", "four"},
		{"/rush", []string{"same", "6", "order.slate-terrace-3-kept", "6", "order.long-meadow-2-kept", "2"}, "can manage 6 brews", ""},
		{"/stage", []string{"name", "Heat", "recipe", "none", "cups", "9", "words", "130", "limit", "6:00"}, "Choose one of the recipes",
			"9"},
		{"/practice/circles", []string{"readings", "0,1;x,2"}, "could not be read", ""},
		{"/practice/circles", []string{"readings", "0,0;0.1,0;0.2,0"}, "No water was seen", ""},
		{"/practice/circles", []string{"began", "0", "ended", "soon", "water", "100"}, "", ""},
	} {
		code, page := v.Post(c.path, c.pairs...)
		if code != http.StatusUnprocessableEntity || !strings.Contains(page, c.says) || !strings.Contains(page, c.typed) {
			t.Errorf("%s %v: status %d, does not say %q or has lost %q", c.path, c.pairs, code, c.says, c.typed)
		}
	}
	ctx := context.Background()
	devices, _ := v.Store.Devices(ctx)
	rushes, _ := v.Store.Rushes(ctx)
	scripts, _ := v.Store.Scripts(ctx)
	tries, _ := v.Store.Tries(ctx)
	if len(devices) != 2 || len(rushes) != 1 || len(scripts) != 1 ||
		slices.ContainsFunc(tries, func(d store.Dated[practice.Try]) bool { return d.At.Equal(v.Now()) }) {
		t.Errorf("stored anyway: %d devices, %d rushes, %d scripts, %d tries", len(devices), len(rushes), len(scripts), len(tries))
	}
	for _, path := range []string{"/rush/nobody", "/stage/nobody", "/stage/nobody/show", "/practice/juggling",
		"/practice/circles/live?scale=nobody"} {
		if code, _ := v.Get(path); code != http.StatusNotFound {
			t.Errorf("%s: status %d", path, code)
		}
	}
}

package brew_test

import (
	"net/http"
	"net/url"
	"strings"
	"testing"

	"yardbloom/core/gear"
	"yardbloom/web/webtest"
	"yardbloom/yard"

	"yardbloom/web"
)

// An armed scale stays with its draft until a person confirms the transfer. Both screens and every page show it, and a
// restart keeps it. Mutations caught: a page that arms the scale, a claim without its question or only in memory, a loss that
// is not told.
func TestScaleIsTakenOnlyAfterItsQuestion(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	const scale, first = "window-scale", "/brews/" + webtest.Planned
	second := opened(t, v)
	under := func() string {
		t.Helper()
		claims, err := v.Store.Claims(t.Context())
		if err != nil || len(claims) > 1 {
			t.Fatalf("%d claims (%v)", len(claims), err)
		}
		if len(claims) == 0 {
			return ""
		}
		if l := v.Yard.ScaleUnder(claims[0].BrewID); l == nil || l.Device.ID != claims[0].ScaleID {
			t.Errorf("stored is %v, but the brew is on %v", claims[0], l)
		}
		return "/brews/" + claims[0].BrewID
	}
	v.Get(first + "/brew")
	if got := under(); got != "" {
		t.Fatalf("opening a page armed the scale for %s", got)
	}
	if code, _ := v.Post(first + "/arm"); code != http.StatusSeeOther || under() != first {
		t.Fatalf("the end of the set-up: status %d, armed for %s", code, under())
	}
	v.Post(second + "/arm")
	v.Get(second + "/brew")
	if got := under(); got != first {
		t.Fatalf("another set-up took the scale: %s", got)
	}
	if _, shelf := v.Get("/"); !strings.Contains(shelf, "it waits for the first water of <strong>Evening Seed") {
		t.Error("the shelf does not say that the scale is armed")
	}
	code, _, header := v.Send("POST", second+"/weigh", url.Values{"scale": {scale}})
	if code != http.StatusSeeOther || under() != first {
		t.Fatalf("without the question: status %d, armed for %s", code, under())
	}
	_, asks := v.Get(header.Get("Location"))
	if !strings.Contains(asks, "is in use for Evening Seed") || !strings.Contains(asks, `name="from" value="`+webtest.Planned) {
		t.Fatalf("the page does not ask: %s", header.Get("Location"))
	}
	v.Reopen(func(*yard.Config, *web.Config) {})
	if got := under(); got != first {
		t.Errorf("after a restart the scale is armed for %q", got)
	}
	// A confirmation that is out of date takes nothing.
	v.Post(second+"/weigh", "scale", scale, "from", "another")
	if got := under(); got != first {
		t.Errorf("taken from another brew: %s", got)
	}
	v.Post(second+"/weigh", "scale", scale, "from", webtest.Planned)
	if got := under(); got != second {
		t.Fatalf("after the confirmation the scale is armed for %s", got)
	}
	if _, page := v.Get(first + "/brew"); !strings.Contains(page, "was taken for") {
		t.Error("the screen that lost its scale does not say so")
	}
	v.Post(second+"/weigh", "scale", "none")
	v.Post(second + "/arm")
	if got := under(); got != "" {
		t.Errorf("a brew that is to go by taps is on %s", got)
	}
	v.Post(first+"/weigh", "scale", scale)
	if _, page := v.Get(first + "/brew"); under() != first || strings.Contains(page, "was taken for") {
		t.Errorf("a free scale: armed for %q", under())
	}
}

// A scale that was armed before a hand's start is back under the running brew after a restart, though it has seen no water
// yet. Mutation caught: only brews with a scale event go back.
func TestScaleIsBackAfterARestartBeforeTheFirstWater(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	path := "/brews/" + webtest.Planned
	v.Post(path + "/arm")
	v.Post(path + "/start")
	v.Reopen(func(*yard.Config, *web.Config) {})
	if l := v.Yard.ScaleUnder(webtest.Planned); l == nil || l.Device.ID != "window-scale" {
		t.Errorf("the running brew is on %v", l)
	}
}

// With several scales the person chooses. Mutation caught: the first one is armed.
func TestOneOfSeveralScalesIsChosen(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	if err := v.Store.SaveDevice(t.Context(), gear.Device{ID: "second", Name: "Second", Kind: gear.Scale, Address: "tcp://127.0.0.1:1"}, 0); err != nil {
		t.Fatal(err)
	}
	if err := v.Yard.Connect(t.Context()); err != nil {
		t.Fatal(err)
	}
	path := "/brews/" + webtest.Planned
	v.Post(path + "/arm")
	if l := v.Yard.ScaleUnder(webtest.Planned); l != nil {
		t.Errorf("armed %s", l.Title())
	}
	v.Post(path+"/weigh", "scale", "second")
	if l := v.Yard.ScaleUnder(webtest.Planned); l == nil || l.Device.ID != "second" {
		t.Errorf("the chosen scale is not armed: %v", l)
	}
}

// opened returns the path of a new draft.
func opened(t *testing.T, v *webtest.Visitor) string {
	t.Helper()
	_, _, header := v.Send("POST", "/brews/slate-terrace-4/again", url.Values{"choice": {"same"}})
	path := strings.TrimSuffix(header.Get("Location"), "/recipe")
	if !strings.HasPrefix(path, "/brews/") {
		t.Fatalf("no draft was opened: %v", header)
	}
	return path
}

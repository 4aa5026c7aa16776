package brew_test

import (
	"net/http"
	"strings"
	"testing"
	"time"

	"yardbloom/web/webtest"
)

// A bloom that is judged by eye asks whether all of it is wet, and takes more water, which the rest makes up for; other styles do
// not ask. Mutations caught: a question in every style, more water that the page does not show, a check that outlasts the bloom.
func TestBloomByEyeTakesMoreWater(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	path := "/brews/" + webtest.Planned
	const ask = "is all of it wet and moving?"
	if code, _, body := v.Recipe("style", "bloom-by-eye"); code != http.StatusOK {
		t.Fatalf("bloom by eye: status %d, %v", code, webtest.ErrorsIn(body))
	}
	_, ready := v.Get(path + "/brew")
	if !strings.Contains(ready, "Count me in") || !strings.Contains(ready, `data-opening="Ready. Bloom to `) || strings.Count(ready, ask) != 0 {
		t.Error("no opening words before the first water, or a question too early")
	}
	v.Post(path + "/start")
	began := v.Now()
	v.SetNow(began.Add(20 * time.Second))
	_, body := v.Get(path + "/brew")
	if !strings.Contains(body, ask) || !strings.Contains(body, "No: 10 g more") {
		t.Fatal("the bloom is not checked")
	}
	for i := range 2 {
		if code, _ := v.Post(path+"/tap", "key", string(rune('a'+i)), "kind", "more", "stage", "1"); code != http.StatusSeeOther {
			t.Fatalf("more water: status %d", code)
		}
	}
	b, err := v.Store.Brew(t.Context(), webtest.Planned)
	if err != nil {
		t.Fatal(err)
	}
	if got := b.At(v.Now()).Stages[0].Poured() - b.Plan.Steps[0].Water; got != 20 {
		t.Errorf("the bloom has %v g more", got)
	}
	if _, body := v.Get(path + "/brew"); strings.Contains(body, ask) {
		t.Error("more than four and a half times the dose is offered")
	}
}

// A brew offers the marks that it can have. Mutations caught: a crust to be marked in a cone, a dome without a bloom.
func TestMarksFitTheBrew(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	v.Post("/brews/" + webtest.Planned + "/start")
	_, body := v.Get("/brews/" + webtest.Planned + "/brew")
	for mark, offered := range map[string]bool{"dome": true, "sludge": true, "crust broken": false, "collapsed ridge": false} {
		if got := strings.Contains(body, `value="`+mark+`"`); got != offered {
			t.Errorf("%s: offered %v", mark, got)
		}
	}
	v.Post("/brews/"+webtest.Planned+"/tap", "key", "d", "kind", "mark", "mark", "dome")
	if _, body := v.Get("/brews/" + webtest.Planned + "/brew"); !strings.Contains(body, "let it sink before the next pour") {
		t.Error("what a dome means is not said at once")
	}
}

package web_test

import (
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"yardbloom/core/cup"
	"yardbloom/web/webtest"
)

// A body that is not the form of its page changes nothing. Mutation caught: a missing field that counts as
// empty and clears the tasted cup.
func TestNonFormClearsNothing(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	const tasted = "/brews/slate-terrace-4/cup"
	kept := func() cup.Cup {
		b, err := v.Store.Brew(t.Context(), "slate-terrace-4")
		if err != nil {
			t.Fatal(err)
		}
		return b.Cup
	}
	before := kept()
	if before.TDS == 0 || len(before.Steps) == 0 {
		t.Fatalf("the cup was not tasted: %+v", before)
	}
	for _, c := range []struct {
		media, body string
		want        int
	}{
		{"", "", http.StatusUnsupportedMediaType},
		{"text/plain", "tds=1.1", http.StatusUnsupportedMediaType},
		{"application/json", `{"tds": 1.1}`, http.StatusUnsupportedMediaType},
		{"application/x-www-form-urlencoded", "", http.StatusBadRequest},
		{"application/x-www-form-urlencoded", "tds=%zz", http.StatusBadRequest},
		{"application/x-www-form-urlencoded", "a;b=1", http.StatusBadRequest},
	} {
		for _, path := range []string{tasted, "/brews/" + webtest.Planned +
			"/setup", "/bags/slate-terrace", "/gear/grinders/apron-mill", "/settings", "/brews/" + webtest.Planned + "/recipe", "/theme"} {
			r := httptest.NewRequest(http.MethodPost, "http://yard.test"+path, strings.NewReader(c.body))
			r.Header.Set("Content-Type", c.media)
			w := httptest.NewRecorder()
			v.Server.ServeHTTP(w, r)
			if w.Code != c.want {
				t.Errorf("%s of %q %q: status %d, want %d", path, c.media, c.body, w.Code, c.want)
			}
		}
	}
	if code, _ := v.Post(tasted, "notes", "only this"); code != http.StatusSeeOther {
		t.Errorf("a form with one entry: status %d", code)
	}
	after := kept()
	if before.Notes = "only this"; after.TDS != before.TDS || after.Notes != before.Notes || len(after.Steps) != len(before.Steps) ||
		after.Overall != before.Overall {
		t.Errorf("the cup is %+v, want %+v", after, before)
	}
	// Unticked boxes that were shown are cleared.
	v.Post(tasted, "faults", "shown", "fault", string(cup.Papery))
	if !kept().Faults[cup.Papery] {
		t.Error("a ticked fault was not stored")
	}
	v.Post(tasted, "tds", "1.4")
	if !kept().Faults[cup.Papery] {
		t.Error("a form without the faults cleared them")
	}
	if v.Post(tasted, "faults", "shown"); kept().Faults[cup.Papery] {
		t.Error("a fault cannot be cleared")
	}
}

func TestForeignRedirectGoesHome(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	for back, want := range map[string]string{
		"/log?bag=1": "/log?bag=1", "//elsewhere.test": "/", "https://elsewhere.test/": "/", `/\elsewhere.test`: "/",
		"/\t/elsewhere.test": "/", "/\n/elsewhere.test": "/",
		"javascript:alert(1)": "/", "log": "/", "": "/", "///elsewhere.test": "/", "/brews/%2e%2e/x": "/brews/%2e%2e/x",
	} {
		_, _, h := v.Send(http.MethodPost, "/theme", map[string][]string{"theme": {"day"}, "back": {back}})
		if got := h.Get("Location"); got != want {
			t.Errorf("%q leads to %q, want %q", back, got, want)
		}
	}
	for _, retired := range []string{"1-../brews/5/cup%23", "kettles~../x", "brews~1", "..~1"} {
		if _, body := v.Get("/gear?retired=" + retired); strings.Contains(body, "Undo") {
			t.Errorf("retired=%s offers a button", retired)
		}
	}
	for _, removed := range []string{"../brews/5/cup%23", "no-such-bag"} {
		if _, body := v.Get("/?removed=" + removed); strings.Contains(body, "Undo") {
			t.Errorf("removed=%s offers a button", removed)
		}
	}
}

func TestEveryMethodIsAnswered(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	for _, path := range []string{"/", "/log", "/brews/" + webtest.Planned + "/recipe", v.Server.Asset("app.css")} {
		get, _, _ := v.Send(http.MethodGet, path, nil)
		if head, _, _ := v.Send(http.MethodHead, path, nil); head != get || get != http.StatusOK {
			t.Errorf("%s: GET %d, HEAD %d", path, get, head)
		}
	}
	for path, want := range map[string]string{"/log": "GET HEAD", "/brews/" + webtest.Planned +
		"/start": "POST", "/settings": "GET HEAD POST"} {
		code, _, h := v.Send(http.MethodDelete, path, nil)
		if got := strings.Join(h.Values("Allow"), " "); code != http.StatusMethodNotAllowed || got != want {
			t.Errorf("%s: status %d, allows %q, want %q", path, code, got, want)
		}
	}
}

// A dial with a tiny step gives grinds that no grinder makes.
func TestDialsStepMustChangeSomething(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	for _, step := range []string{"0", "0,0000000001", "-0.05", "1e-31"} {
		if code, body := v.Post("/gear/grinders/apron-mill", "step", step); code != http.StatusUnprocessableEntity ||
			len(webtest.ErrorsIn(body)) == 0 {
			t.Errorf("a step of %s: status %d", step, code)
		}
	}
	if code, _ := v.Post("/gear/grinders/apron-mill", "step", "-12"); code != http.StatusSeeOther {
		t.Errorf("a step of −12: status %d", code)
	}
}

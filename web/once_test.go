package web_test

import (
	"net/http"
	"net/url"
	"strings"
	"sync"
	"testing"
	"time"

	"yardbloom/web/webtest"
)

// Mutations caught: a key that stays used after a refusal, a key that ignores edits, two
// concurrent requests that are both processed.
func TestDoubleSubmitCreatesOneBag(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	bags := func() int {
		t.Helper()
		all, err := v.Store.BagNames(t.Context(), 100)
		if err != nil {
			t.Fatal(err)
		}
		return len(all)
	}
	_, page := v.Get("/bags/new")
	form := webtest.Fields(page)
	form.Set("name", "Potting Mix")
	form.Set("process", "washed")
	form.Set("roast", "3")
	form.Set("weight", "heavy")
	before := bags()
	if code, _, _ := v.Send("POST", "/bags", form); code != http.StatusUnprocessableEntity {
		t.Fatalf("without a readable weight: status %d", code)
	}
	form.Set("weight", "250")
	var sent sync.WaitGroup
	led := make([]string, 12)
	for i := range led {
		sent.Go(func() {
			code, _, header := v.Send("POST", "/bags", form)
			if code != http.StatusSeeOther {
				t.Errorf("status %d", code)
			}
			led[i] = header.Get("Location")
		})
	}
	sent.Wait()
	for _, at := range led {
		if at != led[0] || !strings.HasPrefix(at, "/bags/") {
			t.Errorf("the answers lead to %q", led)
			break
		}
	}
	if n := bags(); n != before+1 {
		t.Errorf("%d bags came of one form", n-before)
	}
	form.Set("name", "Potting Mix two")
	if _, _, header := v.Send("POST", "/bags", form); header.Get("Location") == led[0] || bags() != before+2 {
		t.Errorf("an edited form led to %s", header.Get("Location"))
	}
}

func TestCreatingFormsHaveAKey(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	for path, action := range map[string]string{"/bags/new": "/bags", "/gear/brewers/new": "/gear/brewers/new", "/rush": "/rush",
		"/stage": "/stage", "/side": "/side", "/trials": "/trials", "/book": "/book",
		"/practice/circles": "/practice/circles", "/bags/evening-seed": "/bags/evening-seed/freeze"} {
		_, page := v.Get(path)
		_, form, found := strings.Cut(page, `action="`+action+`"`)
		form, _, _ = strings.Cut(form, "</form>")
		if !found || !strings.Contains(form, `name="once" value="`) || strings.Contains(form, `name="once" value=""`) {
			t.Errorf("%s: the form to %s has no key", path, action)
		}
	}
}

func TestFutureRoastDateNeedsConfirmation(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	tomorrow := v.Now().Add(24 * time.Hour).Format("2006-01-02")
	form := url.Values{"name": {"Early"}, "process": {"washed"}, "roast": {"3"}, "weight": {"250"}, "roasted_on": {tomorrow}}
	code, body, _ := v.Send("POST", "/bags", form)
	if code != http.StatusUnprocessableEntity || !strings.Contains(body, "is in the future") ||
		webtest.Fields(body).Get("roasted_on") != tomorrow {
		t.Fatalf("status %d, %v", code, webtest.ErrorsIn(body))
	}
	again := webtest.Fields(body)
	if code, body, _ := v.Send("POST", "/bags", again); code != http.StatusSeeOther {
		t.Errorf("saved again: status %d, %v", code, webtest.ErrorsIn(body))
	}
}

func TestBrewPageLinksToItsCup(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	if _, page := v.Get("/brews/slate-terrace-4"); !strings.Contains(page, `href="/brews/slate-terrace-4/cup">Correct this`) {
		t.Error("a tasted brew cannot be corrected from its page")
	}
}

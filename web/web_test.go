package web_test

import (
	"bufio"
	"context"
	"fmt"
	"html"
	"maps"
	"net/http"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"yardbloom/web"
	"yardbloom/web/webtest"
	"yardbloom/yard"
)

func TestEveryPageAnswersAndSetsAStrictPolicy(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	for _, path := range []string{"/", "/bags/new", "/bags/slate-terrace", "/bags/first-frost", "/brews/slate-terrace-4",
		"/brews/slate-terrace-4/recipe", "/brews/slate-terrace-4/setup", "/brews/slate-terrace-4/cup", "/brews/slate-terrace-4/next",
		"/brews/long-meadow-3", "/brews/evening-seed-next/recipe", "/brews/evening-seed-next/setup", "/brews/evening-seed-next/brew",
		"/log", "/log?bag=orchard-wall", "/gear", "/gear/grinders/bench-grinder", "/gear/kettles/new", "/learned", "/settings", "/keys",
		"/rush", "/stage", "/practice", "/practice/circles", "/gear/devices/new"} {
		code, body, header := v.Send("GET", path, nil)
		if code != http.StatusOK || !strings.Contains(body, "</html>") {
			t.Errorf("%s: status %d", path, code)
		}
		policy := header.Get("Content-Security-Policy")
		if !strings.Contains(policy, "script-src 'self';") || !strings.Contains(policy, "style-src 'self';") ||
			strings.Contains(policy, "unsafe") {
			t.Errorf("%s: policy %q", path, policy)
		}
		if m := regexp.MustCompile(`<[^>]+\s(style|on\w+)="|<script>|<style`).FindString(body); m != "" {
			t.Errorf("%s has something inline: %s", path, m)
		}
	}
}

func TestTwoWindowsOnOneBag(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	_, page := v.Get("/bags/slate-terrace")
	mine, theirs := webtest.Fields(page), webtest.Fields(page)
	theirs.Set("name", "Slate Terrace 2")
	if code, _, _ := v.Send("POST", "/bags/slate-terrace", theirs); code != http.StatusSeeOther {
		t.Fatalf("the first window: status %d", code)
	}
	mine.Set("roaster", "Somebody else")
	code, body, _ := v.Send("POST", "/bags/slate-terrace", mine)
	if code != http.StatusConflict || !strings.Contains(body, "Slate Terrace 2") || webtest.Fields(body).Get("roaster") != "Somebody else" {
		t.Errorf("the second window: status %d", code)
	}
	if code, _, _ := v.Send("POST", "/bags/slate-terrace", webtest.Fields(body)); code != http.StatusSeeOther {
		t.Errorf("saved again: status %d", code)
	}
}

// In two windows with one form, the second keeps its input and shows the saved values. Mutation caught:
// saving without a version check, which overwrites the first window's values.
func TestTwoWindowsOnOneForm(t *testing.T) {
	t.Parallel()
	for _, c := range []struct{ path, field, theirs, ours, shows string }{
		{"/brews/slate-terrace-4/cup", "tds", "1.50", "1.25", "TDS 1.50 %"},
		{"/gear/grinders/apron-mill", "name", "Their mill", "Our mill", "Their mill"},
		{"/gear/kettles/stove-kettle", "capacity", "1400", "1300", "1400"},
		{"/gear/brewers/window-cone", "holds", "500", "450", "500"},
		{"/bags/slate-terrace", "weight", "500", "340", "500"},
		{"/settings", "altitude", "500", "340", "500"},
	} {
		v := webtest.Visit(t)
		_, page := v.Get(c.path)
		mine, theirs := webtest.Fields(page), webtest.Fields(page)
		theirs.Set(c.field, c.theirs)
		if code, _, _ := v.Send("POST", c.path, theirs); code != http.StatusSeeOther {
			t.Fatalf("%s: the first window: status %d", c.path, code)
		}
		mine.Set(c.field, "nonsense\x01")
		_, body, _ := v.Send("POST", c.path, mine)
		if wrong := webtest.Fields(body); c.field != "name" { // an invalid entry does not update the version
			mine = wrong
		}
		mine.Set(c.field, c.ours)
		code, body, _ := v.Send("POST", c.path, mine)
		if code != http.StatusConflict || !strings.Contains(html.UnescapeString(body), c.shows) ||
			webtest.Fields(body).Get(c.field) != c.ours {
			t.Errorf("%s: the second window: status %d, %q", c.path, code, webtest.Fields(body).Get(c.field))
		}
		if code, _, _ := v.Send("POST", c.path, webtest.Fields(body)); code != http.StatusSeeOther {
			t.Errorf("%s: saved again: status %d", c.path, code)
		}
		if _, body := v.Get(c.path); webtest.Fields(body).Get(c.field) != c.ours {
			t.Errorf("%s: kept %q", c.path, webtest.Fields(body).Get(c.field))
		}
	}
}

func TestOneOfTwentyConcurrentSavesWins(t *testing.T) {
	t.Parallel()
	for _, path := range []string{"/brews/slate-terrace-4/cup", "/gear/grinders/apron-mill", "/bags/slate-terrace", "/settings"} {
		v := webtest.Visit(t)
		_, page := v.Get(path)
		form := webtest.Fields(page)
		var won atomic.Int32
		var all sync.WaitGroup
		for i := range 20 {
			mine := maps.Clone(form)
			mine.Set("notes", fmt.Sprint("window ", i))
			all.Go(func() {
				code := http.StatusServiceUnavailable
				for code == http.StatusServiceUnavailable { // a slow machine is too busy for twenty at once
					code, _, _ = v.Send("POST", path, mine)
				}
				if code == http.StatusSeeOther {
					won.Add(1)
				}
			})
		}
		if all.Wait(); won.Load() != 1 {
			t.Errorf("%s: %d of 20 saves won", path, won.Load())
		}
	}
}

func TestInvalidBagKeepsItsText(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	long := strings.Repeat("x", 10000)
	for _, c := range []struct{ name, typed, says string }{
		{"name", long, "can have up to 80 letters"}, {"name", "  ", "cannot be empty"}, {"weight", "10 stone", "is not a number"},
		{"weight", "900000", "can be 10 to 20000 g"}, {"roasted_on", "last week", "is a date"}, {"process", "magic", "Choose one"},
		{"roast", "9", "Choose a roast"}, {"window_from", "3:10", "both ends"}, {"price", "-4", "can be 0 to 9999"},
	} {
		form := url.Values{"name": {"Test"}, "process": {"washed"}, "roast": {"3"}, "weight": {"250"}}
		form.Set(c.name, c.typed)
		code, body, _ := v.Send("POST", "/bags", form)
		if code != http.StatusUnprocessableEntity || !strings.Contains(body, c.says) {
			t.Errorf("%s %q: status %d, %v; want %q", c.name, webtest.Short(c.typed), code, webtest.ErrorsIn(body), c.says)
		}
		if c.name == "name" && !strings.Contains(body, c.typed) {
			t.Error("the long name was lost")
		}
	}
	if bags, _ := v.Store.Shelf(context.Background(), "", "", 99); len(bags) != 6 {
		t.Errorf("%d bags; something was half saved", len(bags))
	}
}

// The recipes of a deleted bag cannot be opened; a first water on a device that did not know of it counts. Mutation caught: a start that is
// refused although the water has been poured.
func TestDeletedBagIsClosedButKeepsItsBrews(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	if code, _ := v.Post("/bags/evening-seed/delete"); code != http.StatusSeeOther {
		t.Fatalf("status %d", code)
	}
	for _, path := range []string{"/bags/evening-seed", "/brews/evening-seed-next/recipe", "/brews/evening-seed-next/setup",
		"/brews/evening-seed-next/brew"} {
		if code, body := v.Get(path); code != http.StatusGone || !strings.Contains(body, "was removed") {
			t.Errorf("%s: status %d", path, code)
		}
	}
	if code, _ := v.Post("/bags/evening-seed/brew"); code != http.StatusGone {
		t.Errorf("a recipe of a deleted bag: status %d", code)
	}
	if code, _ := v.Post("/brews/evening-seed-1/again", "choice", "first"); code != http.StatusGone {
		t.Error("a deleted bag can be brewed again")
	}
	if code, body := v.Get("/brews/evening-seed-1"); code != http.StatusOK || !strings.Contains(body, "Evening Seed") {
		t.Errorf("its brew left the log: status %d", code)
	}
	if code, _ := v.Post("/brews/evening-seed-next/start", "key", "k", "ago", "30"); code != http.StatusSeeOther {
		t.Errorf("a first water on another device: status %d", code)
	}
	if code, _ := v.Get("/brews/evening-seed-next/brew"); code != http.StatusOK {
		t.Errorf("the pour of a deleted bag: status %d", code)
	}
	if _, body := v.Get("/?removed=evening-seed"); !strings.Contains(body, `action="/bags/evening-seed/restore"`) {
		t.Error("nothing to undo it with")
	}
	v.Post("/bags/evening-seed/restore")
	if code, _ := v.Get("/brews/evening-seed-next/recipe"); code != http.StatusOK {
		t.Errorf("after the undo: status %d", code)
	}
}

func TestMissingPagesAreReported(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	for _, path := range []string{"/brews/999", "/brews/999/recipe", "/bags/0", "/bags/-1", "/bags/a%20b", "/brews/" +
		strings.Repeat("9", 99), "/log?after=x", "/?after=x~a%20b", "/recipes/none", "/nothing", "/gear/spoons/1",
		"/log?bag=a%20b", "/static/none.css"} {
		if code, _ := v.Get(path); code != http.StatusNotFound {
			t.Errorf("%s: status %d", path, code)
		}
	}
	if code, body := v.Get("/brews/evening-seed-next/cup"); code != http.StatusConflict ||
		!strings.Contains(body, "No cup yet") {
		t.Errorf("a cup before the pour: status %d", code)
	}
	if code, _, _ := v.Send("PUT", "/bags/slate-terrace", nil); code != http.StatusMethodNotAllowed {
		t.Errorf("PUT: status %d", code)
	}
	if code, _ := v.Post("/bags", "notes", strings.Repeat("y", web.MaxBody+10)); code != http.StatusRequestEntityTooLarge {
		t.Errorf("a huge form: status %d", code)
	}
}

func TestFormFromAnotherSiteIsRefused(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	code, _, _ := v.Send("POST", "/bags/slate-terrace/delete", url.Values{}, "Origin", "http://elsewhere.test", "Sec-Fetch-Site",
		"cross-site")
	if code != http.StatusForbidden {
		t.Errorf("status %d", code)
	}
	if code, _ := v.Get("/bags/slate-terrace"); code != http.StatusOK {
		t.Error("the bag is gone")
	}
	if code, _, header := v.Send("POST", "/theme", url.Values{"theme": {"night"},
		"back": {"//elsewhere.test/"}}); code != http.StatusSeeOther || header.Get("Location") != "/" {
		t.Errorf("the theme leads to %s", header.Get("Location"))
	}
}

// firstOfStream reads the first line of a stream and leaves it open.
func firstOfStream(t *testing.T, address, cookie string) string {
	t.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), time.Minute)
	defer cancel()
	r, err := http.NewRequestWithContext(ctx, "GET", address, nil)
	if err != nil {
		t.Fatal(err)
	}
	r.Header.Set("Cookie", cookie)
	resp, err := http.DefaultClient.Do(r)
	if err != nil {
		t.Fatal(err)
	}
	defer resp.Body.Close()
	line, err := bufio.NewReader(resp.Body).ReadString('\n')
	if err != nil {
		t.Fatal(err)
	}
	return line
}

func TestPublicAddressAsksForAPassword(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	if err := v.Store.SavePassword(context.Background(), web.HashPassword("under the flower pot")); err != nil {
		t.Fatal(err)
	}
	v.Reopen(func(_ *yard.Config, c *web.Config) { c.SignIn = true })
	for _, path := range []string{"/", "/log", "/brews/evening-seed-next/live", "/bags/slate-terrace"} {
		if code, _, h := v.Send("GET", path, nil); code != http.StatusSeeOther || h.Get("Location") != "/sign-in" {
			t.Errorf("%s: status %d", path, code)
		}
	}
	if code, _ := v.Post("/sign-in", "password", "guess"); code != http.StatusUnauthorized {
		t.Errorf("a wrong password: status %d", code)
	}
	code, _, header := v.Send("POST", "/sign-in", url.Values{"password": {"under the flower pot"}})
	cookie, _, _ := strings.Cut(header.Get("Set-Cookie"), ";")
	if code != http.StatusSeeOther || cookie == "" {
		t.Fatalf("the right password: status %d", code)
	}
	if code, _, _ := v.Send("GET", "/log", nil, "Cookie", cookie); code != http.StatusOK {
		t.Errorf("signed in: status %d", code)
	}
	// The stream of a running brew requires a session too.
	srv := httptest.NewServer(v.Server)
	t.Cleanup(srv.Close)
	t.Cleanup(v.Yard.Close)
	v.Send("POST", "/brews/evening-seed-next/start", url.Values{}, "Cookie", cookie)
	if first := firstOfStream(t, srv.URL+"/brews/evening-seed-next/live", cookie); !strings.HasPrefix(first, "data: ") {
		t.Errorf("the stream begins with %q", first)
	}
	// Without signing in, nothing about the running brew is visible, not even in an error.
	for _, path := range []string{"/sign-in", "/no/such/page", "/log", "/brews/evening-seed-next/brew"} {
		for _, method := range []string{"GET", "DELETE", "POST"} {
			if _, body, _ := v.Send(method, path, nil); strings.Contains(body, "Evening Seed") {
				t.Errorf("%s %s names the coffee", method, path)
			}
		}
	}
	tries := 0
	for range 20 {
		if code, body := v.Post("/sign-in", "password", "guess"); code == http.StatusTooManyRequests {
			if !strings.Contains(body, "Too many tries") || !strings.Contains(body, "</html>") {
				t.Error("the wait is not shown on the error page")
			}
			if strings.Contains(body, "Evening Seed") {
				t.Error("too many tries name the coffee")
			}
			break
		}
		tries++
	}
	if tries >= 20 {
		t.Error("a password can be guessed without end")
	}
	if err := v.Store.SavePassword(context.Background(), web.HashPassword("in the third shed")); err != nil {
		t.Fatal(err)
	}
	if code, _, _ := v.Send("GET", "/log", nil, "Cookie", cookie); code != http.StatusSeeOther {
		t.Errorf("signed in with an older password: status %d", code)
	}
}

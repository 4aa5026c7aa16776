package web

import (
	"bufio"
	"context"
	"fmt"
	"html"
	"io"
	"log/slog"
	"maps"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"yardbloom/demo"
	"yardbloom/store"
)

var morning = time.Date(2026, 5, 12, 9, 40, 0, 0, time.UTC)

// The demo brews that tests start from.
const (
	untasted = "long-meadow-3"     // poured
	planned  = "evening-seed-next" // a recipe in the making
)

// A visitor sends requests to a server over the demo data.
type visitor struct {
	t     *testing.T
	s     *Server
	store *store.Store
	now   time.Time
	log   *strings.Builder
}

// filled is the database of a demo yard, made once.
var filled = sync.OnceValues(func() ([]byte, error) { return demo.File(context.Background(), morning) })

func visit(t *testing.T) *visitor {
	t.Helper()
	dir := t.TempDir()
	yard, err := filled()
	if err == nil {
		err = os.WriteFile(filepath.Join(dir, store.FileName), yard, 0o600)
	}
	if err != nil {
		t.Fatal(err)
	}
	st, err := store.Open(context.Background(), dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { st.Close() })
	v := &visitor{t: t, store: st, now: morning, log: &strings.Builder{}}
	v.s, err = New(Config{Store: st, Log: slog.New(slog.NewTextHandler(v.log, nil)), Now: func() time.Time { return v.now }})
	if err != nil {
		t.Fatal(err)
	}
	return v
}

func (v *visitor) send(method, path string, form url.Values, header ...string) (int, string, http.Header) {
	v.t.Helper()
	var body io.Reader
	if form != nil {
		body = strings.NewReader(form.Encode())
	}
	r := httptest.NewRequest(method, "http://yard.test"+path, body)
	if form != nil {
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	}
	for i := 0; i+1 < len(header); i += 2 {
		r.Header.Set(header[i], header[i+1])
	}
	w := httptest.NewRecorder()
	v.s.ServeHTTP(w, r)
	if w.Code >= 500 {
		v.t.Errorf("%s %s: status %d\n%s", method, path, w.Code, v.log)
	}
	return w.Code, strings.ReplaceAll(w.Body.String(), "\u00a0", " "), w.Header()
}

// sendBody posts a body of another kind than a form.
func (v *visitor) sendBody(path, contentType, body string) (int, string, http.Header) {
	v.t.Helper()
	r := httptest.NewRequest("POST", "http://yard.test"+path, strings.NewReader(body))
	r.Header.Set("Content-Type", contentType)
	w := httptest.NewRecorder()
	v.s.ServeHTTP(w, r)
	if w.Code >= 500 {
		v.t.Errorf("POST %s: status %d\n%s", path, w.Code, v.log)
	}
	return w.Code, w.Body.String(), w.Header()
}

func (v *visitor) get(path string) (int, string) {
	v.t.Helper()
	code, body, _ := v.send("GET", path, nil)
	return code, body
}

func (v *visitor) post(path string, pairs ...string) (int, string) {
	v.t.Helper()
	form := url.Values{}
	for i := 0; i+1 < len(pairs); i += 2 {
		form.Add(pairs[i], pairs[i+1])
	}
	code, body, _ := v.send("POST", path, form)
	return code, body
}

var inputs = regexp.MustCompile(`<input[^>]*\bname="([^"]+)"[^>]*\bvalue="([^"]*)"`)

var selects = regexp.MustCompile(`(?s)<select[^>]*\bname="([^"]+)".*?<option value="([^"]*)" selected`)

// fields are the entries of a page as a browser would post them.
func fields(page string) url.Values {
	out := url.Values{}
	for _, m := range inputs.FindAllStringSubmatch(page, -1) {
		if !strings.Contains(m[0], `type="checkbox"`) && !strings.Contains(m[0], `type="radio"`) || strings.Contains(m[0], " checked") {
			out.Add(m[1], html.UnescapeString(m[2]))
		}
	}
	for _, m := range selects.FindAllStringSubmatch(page, -1) {
		out.Set(m[1], m[2])
	}
	return out
}

func TestEveryPageAnswersAndSetsAStrictPolicy(t *testing.T) {
	t.Parallel()
	v := visit(t)
	for _, path := range []string{"/", "/bags/new", "/bags/slate-terrace", "/bags/first-frost", "/brews/slate-terrace-4", "/brews/slate-terrace-4/recipe", "/brews/slate-terrace-4/setup", "/brews/slate-terrace-4/cup", "/brews/slate-terrace-4/next",
		"/brews/long-meadow-3", "/brews/evening-seed-next/recipe", "/brews/evening-seed-next/setup", "/brews/evening-seed-next/brew", "/log", "/log?bag=orchard-wall", "/gear", "/gear/grinders/bench-grinder", "/gear/kettles/new", "/learned", "/settings", "/keys", "/rush", "/stage", "/practice", "/practice/circles", "/gear/devices/new"} {
		code, body, header := v.send("GET", path, nil)
		if code != http.StatusOK || !strings.Contains(body, "</html>") {
			t.Errorf("%s: status %d", path, code)
		}
		policy := header.Get("Content-Security-Policy")
		if !strings.Contains(policy, "script-src 'self';") || !strings.Contains(policy, "style-src 'self';") || strings.Contains(policy, "unsafe") {
			t.Errorf("%s: policy %q", path, policy)
		}
		if m := regexp.MustCompile(`<[^>]+\s(style|on\w+)="|<script>|<style`).FindString(body); m != "" {
			t.Errorf("%s has something inline: %s", path, m)
		}
	}
}

func errorsIn(body string) []string {
	return regexp.MustCompile(`class="error"[^>]*>[^<]*`).FindAllString(body, -1)
}

func short(s string) string { // a long text would hide the message
	if len(s) > 30 {
		return s[:30] + "…"
	}
	return s
}

func TestTwoWindowsOnOneBag(t *testing.T) {
	t.Parallel()
	v := visit(t)
	_, page := v.get("/bags/slate-terrace")
	mine, theirs := fields(page), fields(page)
	theirs.Set("name", "Slate Terrace 2")
	if code, _, _ := v.send("POST", "/bags/slate-terrace", theirs); code != http.StatusSeeOther {
		t.Fatalf("the first window: status %d", code)
	}
	mine.Set("roaster", "Somebody else")
	code, body, _ := v.send("POST", "/bags/slate-terrace", mine)
	if code != http.StatusConflict || !strings.Contains(body, "Slate Terrace 2") || fields(body).Get("roaster") != "Somebody else" {
		t.Errorf("the second window: status %d", code)
	}
	if code, _, _ := v.send("POST", "/bags/slate-terrace", fields(body)); code != http.StatusSeeOther {
		t.Errorf("saved again: status %d", code)
	}
}

// Whoever is second keeps what was typed and sees what is there. Saving without
// looking at the version overwrites the first window's figures here.
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
		v := visit(t)
		_, page := v.get(c.path)
		mine, theirs := fields(page), fields(page)
		theirs.Set(c.field, c.theirs)
		if code, _, _ := v.send("POST", c.path, theirs); code != http.StatusSeeOther {
			t.Fatalf("%s: the first window: status %d", c.path, code)
		}
		mine.Set(c.field, "nonsense\x01")
		_, body, _ := v.send("POST", c.path, mine)
		if wrong := fields(body); c.field != "name" { // a wrong entry does not make the page newer
			mine = wrong
		}
		mine.Set(c.field, c.ours)
		code, body, _ := v.send("POST", c.path, mine)
		if code != http.StatusConflict || !strings.Contains(html.UnescapeString(body), c.shows) || fields(body).Get(c.field) != c.ours {
			t.Errorf("%s: the second window: status %d, %q", c.path, code, fields(body).Get(c.field))
		}
		if code, _, _ := v.send("POST", c.path, fields(body)); code != http.StatusSeeOther {
			t.Errorf("%s: saved again: status %d", c.path, code)
		}
		if _, body := v.get(c.path); fields(body).Get(c.field) != c.ours {
			t.Errorf("%s: kept %q", c.path, fields(body).Get(c.field))
		}
	}
}

func TestOfTwentySavesAtOneVersionOneWins(t *testing.T) {
	t.Parallel()
	for _, path := range []string{"/brews/slate-terrace-4/cup", "/gear/grinders/apron-mill", "/bags/slate-terrace", "/settings"} {
		v := visit(t)
		_, page := v.get(path)
		form := fields(page)
		var won atomic.Int32
		var all sync.WaitGroup
		for i := range 20 {
			mine := maps.Clone(form)
			mine.Set("notes", fmt.Sprint("window ", i))
			all.Go(func() {
				if code, _, _ := v.send("POST", path, mine); code == http.StatusSeeOther {
					won.Add(1)
				}
			})
		}
		if all.Wait(); won.Load() != 1 {
			t.Errorf("%s: %d of 20 saves won", path, won.Load())
		}
	}
}

func TestABagIsRefusedWithItsTextKept(t *testing.T) {
	t.Parallel()
	v := visit(t)
	long := strings.Repeat("x", 10000)
	for _, c := range []struct{ name, typed, says string }{
		{"name", long, "can have up to 80 letters"}, {"name", "  ", "cannot be empty"}, {"weight", "10 stone", "is not a number"},
		{"weight", "900000", "can be 10 to 20000 g"}, {"roasted_on", "last week", "is a date"}, {"process", "magic", "Choose one"},
		{"roast", "9", "Choose a roast"}, {"window_from", "3:10", "two ends"}, {"price", "-4", "can be 0 to 9999"},
	} {
		form := url.Values{"name": {"Test"}, "process": {"washed"}, "roast": {"3"}, "weight": {"250"}}
		form.Set(c.name, c.typed)
		code, body, _ := v.send("POST", "/bags", form)
		if code != http.StatusUnprocessableEntity || !strings.Contains(body, c.says) {
			t.Errorf("%s %q: status %d, %v; want %q", c.name, short(c.typed), code, errorsIn(body), c.says)
		}
		if c.name == "name" && !strings.Contains(body, c.typed) {
			t.Error("the long name was lost")
		}
	}
	if bags, _ := v.store.Shelf(context.Background(), "", "", 99); len(bags) != 6 {
		t.Errorf("%d bags; something was half saved", len(bags))
	}
}

func TestADeletedBagCanComeBackAndCannotBeBrewedMeanwhile(t *testing.T) {
	t.Parallel()
	v := visit(t)
	if code, _ := v.post("/bags/evening-seed/delete"); code != http.StatusSeeOther {
		t.Fatalf("status %d", code)
	}
	for _, path := range []string{"/bags/evening-seed", "/brews/evening-seed-next/recipe", "/brews/evening-seed-next/setup", "/brews/evening-seed-next/brew"} {
		if code, body := v.get(path); code != http.StatusGone || !strings.Contains(body, "off the shelf") {
			t.Errorf("%s: status %d", path, code)
		}
	}
	for _, path := range []string{"/bags/evening-seed/brew", "/brews/evening-seed-next/start"} {
		if code, _ := v.post(path); code != http.StatusGone {
			t.Errorf("%s: status %d", path, code)
		}
	}
	if code, _ := v.post("/brews/evening-seed-1/again", "choice", "first"); code != http.StatusGone {
		t.Error("a deleted bag can be brewed again")
	}
	if code, body := v.get("/brews/evening-seed-1"); code != http.StatusOK || !strings.Contains(body, "Evening Seed") {
		t.Errorf("its brew left the log: status %d", code)
	}
	if _, body := v.get("/?removed=evening-seed"); !strings.Contains(body, `action="/bags/evening-seed/restore"`) {
		t.Error("nothing to undo it with")
	}
	v.post("/bags/evening-seed/restore")
	if code, _ := v.get("/brews/evening-seed-next/recipe"); code != http.StatusOK {
		t.Errorf("after the undo: status %d", code)
	}
}

func TestWhatIsNotThereIsSaidSo(t *testing.T) {
	t.Parallel()
	v := visit(t)
	for _, path := range []string{"/brews/999", "/brews/999/recipe", "/bags/0", "/bags/-1", "/bags/a%20b", "/brews/" + strings.Repeat("9", 99), "/log?after=x", "/log?bag=none", "/?after=x~a%20b", "/recipes/none", "/nothing", "/gear/spoons/1", "/log?bag=a%20b", "/static/none.css"} {
		if code, _ := v.get(path); code != http.StatusNotFound {
			t.Errorf("%s: status %d", path, code)
		}
	}
	if code, body := v.get("/brews/evening-seed-next/cup"); code != http.StatusConflict || !strings.Contains(body, "Nothing is in the cup yet") {
		t.Errorf("a cup before the pour: status %d", code)
	}
	if code, _, _ := v.send("PUT", "/bags/slate-terrace", nil); code != http.StatusMethodNotAllowed {
		t.Errorf("PUT: status %d", code)
	}
	if code, _ := v.post("/bags", "notes", strings.Repeat("y", maxBody+10)); code != http.StatusRequestEntityTooLarge {
		t.Errorf("a huge form: status %d", code)
	}
}

func TestAFormFromAnotherSiteIsRefused(t *testing.T) {
	t.Parallel()
	v := visit(t)
	code, _, _ := v.send("POST", "/bags/slate-terrace/delete", url.Values{}, "Origin", "http://elsewhere.test", "Sec-Fetch-Site", "cross-site")
	if code != http.StatusForbidden {
		t.Errorf("status %d", code)
	}
	if code, _ := v.get("/bags/slate-terrace"); code != http.StatusOK {
		t.Error("the bag is gone")
	}
	if code, _, header := v.send("POST", "/theme", url.Values{"theme": {"night"}, "back": {"//elsewhere.test/"}}); code != http.StatusSeeOther || header.Get("Location") != "/" {
		t.Errorf("the theme leads to %s", header.Get("Location"))
	}
}

// firstOfStream reads the first line of a stream while it stays open.
func firstOfStream(t *testing.T, address, cookie string) string {
	t.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), 5*time.Second)
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

func TestOnOtherAddressesAPasswordIsAskedFor(t *testing.T) {
	t.Parallel()
	v := visit(t)
	if err := v.store.SavePassword(context.Background(), HashPassword("under the flower pot")); err != nil {
		t.Fatal(err)
	}
	var err error
	v.s, err = New(Config{Store: v.store, Log: v.s.Log, Now: v.s.Now, SignIn: true})
	if err != nil {
		t.Fatal(err)
	}
	for _, path := range []string{"/", "/log", "/brews/evening-seed-next/live", "/bags/slate-terrace"} {
		if code, _, h := v.send("GET", path, nil); code != http.StatusSeeOther || h.Get("Location") != "/sign-in" {
			t.Errorf("%s: status %d", path, code)
		}
	}
	if code, _ := v.post("/sign-in", "password", "guess"); code != http.StatusUnauthorized {
		t.Errorf("a wrong password: status %d", code)
	}
	code, _, header := v.send("POST", "/sign-in", url.Values{"password": {"under the flower pot"}})
	cookie, _, _ := strings.Cut(header.Get("Set-Cookie"), ";")
	if code != http.StatusSeeOther || cookie == "" {
		t.Fatalf("the right password: status %d", code)
	}
	if code, _, _ := v.send("GET", "/log", nil, "Cookie", cookie); code != http.StatusOK {
		t.Errorf("signed in: status %d", code)
	}
	// The stream to a running brew goes through the session too.
	srv := httptest.NewServer(v.s)
	t.Cleanup(srv.Close)
	t.Cleanup(v.s.Close)
	v.send("POST", "/brews/evening-seed-next/start", url.Values{}, "Cookie", cookie)
	if first := firstOfStream(t, srv.URL+"/brews/evening-seed-next/live", cookie); !strings.HasPrefix(first, "data: ") {
		t.Errorf("the stream begins with %q", first)
	}
	// Who is not signed in learns nothing of the brew that is being poured, not even from an error.
	for _, path := range []string{"/sign-in", "/no/such/page", "/log", "/brews/evening-seed-next/brew"} {
		for _, method := range []string{"GET", "DELETE", "POST"} {
			if _, body, _ := v.send(method, path, nil); strings.Contains(body, "Evening Seed") {
				t.Errorf("%s %s names the coffee", method, path)
			}
		}
	}
	tries := 0
	for range 20 {
		if code, body := v.post("/sign-in", "password", "guess"); code == http.StatusTooManyRequests {
			if !strings.Contains(body, "Too many tries") || !strings.Contains(body, "</html>") {
				t.Error("too many tries are not said on the error page")
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
	if err := v.store.SavePassword(context.Background(), HashPassword("in the third shed")); err != nil {
		t.Fatal(err)
	}
	if code, _, _ := v.send("GET", "/log", nil, "Cookie", cookie); code != http.StatusSeeOther {
		t.Errorf("signed in with an older password: status %d", code)
	}
}

package web_test

import (
	"bufio"
	"io"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"net/url"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/jmoiron/sqlx"

	"yardbloom/store"
	"yardbloom/web"
	"yardbloom/web/webtest"
	"yardbloom/yard"
)

const (
	password = "under the flower pot"
	proxy    = "127.0.0.1:9"
)

// guarded returns a visitor of a yard with sign-in and a password of low cost.
func guarded(t *testing.T, proxies ...netip.Addr) *webtest.Visitor {
	t.Helper()
	v := webtest.Visit(t)
	cheap, err := argon2id.CreateHash(password, &argon2id.Params{Memory: 1 << 10, Iterations: 1, Parallelism: 1, SaltLength: 16,
		KeyLength: 32})
	if err == nil {
		err = v.Store.SavePassword(t.Context(), cheap)
	}
	if err != nil {
		t.Fatal(err)
	}
	v.Reopen(func(_ *yard.Config, c *web.Config) {
		c.SignIn, c.Proxies, c.Heartbeat = true, proxies, time.Hour
	})
	return v
}

// guess tries a password over a connection from remote, optionally with a forwarded address.
func guess(v *webtest.Visitor, remote, forwarded, password string) *httptest.ResponseRecorder {
	r := httptest.NewRequest(http.MethodPost, "http://yard.test/sign-in", strings.NewReader(url.Values{"password": {password}}.Encode()))
	r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	r.Header.Set("X-Forwarded-For", forwarded)
	r.RemoteAddr = remote
	w := httptest.NewRecorder()
	v.Server.ServeHTTP(w, r)
	return w
}

// A client that guesses waits longer and longer, and others behind the same proxy do not. Mutation caught:
// a common limit, which lets a stranger lock everybody out.
func TestGuessesWaitLongerWithoutDelayingOthers(t *testing.T) {
	t.Parallel()
	v := guarded(t, netip.MustParseAddr("127.0.0.1"))
	const stranger, household = "192.0.2.7", "2001:db8:1:2::7"
	for range web.FreeTries {
		if w := guess(v, proxy, stranger, "guess"); w.Code != http.StatusUnauthorized {
			t.Fatalf("a first guess: status %d", w.Code)
		}
	}
	for _, seconds := range []string{"1", "2", "4", "8"} {
		w := guess(v, proxy, stranger, password) // the right password, but too soon
		if w.Code != http.StatusTooManyRequests || w.Header().Get("Retry-After") != seconds ||
			!strings.Contains(w.Body.String(), "Too many tries") {
			t.Fatalf("status %d, wait %s s, want %s s", w.Code, w.Header().Get("Retry-After"), seconds)
		}
		wait, err := time.ParseDuration(seconds + "s")
		if err != nil {
			t.Fatal(err)
		}
		if v.SetNow(v.Now().Add(wait)); seconds != "8" {
			guess(v, proxy, stranger, "guess")
		}
	}
	if w := guess(v, proxy, "192.0.2.8", password); w.Code != http.StatusSeeOther {
		t.Errorf("a neighbour: status %d", w.Code)
	}
	if w := guess(v, proxy, stranger, password); w.Code != http.StatusSeeOther {
		t.Errorf("after the wait: status %d", w.Code)
	}
	for range web.FreeTries {
		guess(v, proxy, household, "guess")
	}
	if w := guess(v, proxy, "2001:db8:1:2:3::8", password); w.Code != http.StatusTooManyRequests {
		t.Errorf("another address of the same household: status %d", w.Code)
	}
	if wait := web.WaitAfter(1000); wait != web.LongestWait {
		t.Errorf("the longest wait is %v", wait)
	}
}

// A password stored with another cost is accepted, and stored again with the current cost at sign-in.
func TestPasswordCostCanRise(t *testing.T) {
	t.Parallel()
	v := guarded(t)
	if w := guess(v, proxy, "", "not "+password); w.Code != http.StatusUnauthorized {
		t.Errorf("a wrong one: status %d", w.Code)
	}
	w := guess(v, proxy, "", password)
	set, err := v.Store.Settings(t.Context(), "")
	if w.Code != http.StatusSeeOther || err != nil || !strings.HasPrefix(set.Password, "$argon2id$v=19$m=65536,t=3,p=4$") {
		t.Errorf("status %d, stored as %.40q, %v", w.Code, set.Password, err)
	}
	if fits, dated, err := web.PasswordFits(t.Context(), password, set.Password); !fits || dated || err != nil {
		t.Errorf("stored again: fits %v, dated %v, %v", fits, dated, err)
	}
}

// Sessions cannot be taken over by reading the database.
func TestSessionTokensAreKeptHashed(t *testing.T) {
	t.Parallel()
	v := guarded(t)
	cookie, _, _ := strings.Cut(strings.TrimPrefix(guess(v, proxy, "", password).Header().Get("Set-Cookie"), "yard="), ";")
	copied := filepath.Join(t.TempDir(), "copy.db")
	if _, err := v.Store.Backup(t.Context(), copied); err != nil {
		t.Fatal(err)
	}
	db, err := sqlx.Open("sqlite", copied)
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	var tokens []string
	if err := db.Select(&tokens, `SELECT token FROM sessions`); err != nil || len(tokens) != 1 || cookie == "" || tokens[0] == cookie {
		t.Errorf("the cookie %q is stored as %q, %v", cookie, tokens, err)
	}
}

// A stream ends when its session is signed out or the password changes.
func TestStreamEndsWithItsSession(t *testing.T) {
	t.Parallel()
	for how, end := range map[string]func(v *webtest.Visitor, addr, cookie string) error{
		"signing out": func(_ *webtest.Visitor, addr, cookie string) error {
			r, err := http.NewRequest(http.MethodPost, "http://"+addr+"/sign-out", nil)
			if err != nil {
				return err
			}
			r.Header.Set("Cookie", cookie)
			answer, err := http.DefaultTransport.RoundTrip(r)
			if err == nil {
				err = answer.Body.Close()
			}
			return err
		},
		"a new password": func(v *webtest.Visitor, _, _ string) error {
			err := v.Store.SavePassword(t.Context(), web.HashPassword("behind the shed"))
			v.Yard.Hub.Notify(webtest.Planned) // a change in the brew
			return err
		},
	} {
		v := guarded(t)
		cookie, _, _ := strings.Cut(guess(v, proxy, "", password).Header().Get("Set-Cookie"), ";")
		addr := serve(v)
		r, err := http.NewRequest(http.MethodGet, "http://"+addr+"/brews/"+webtest.Planned+"/live", nil)
		if err != nil {
			t.Fatal(err)
		}
		r.Header.Set("Cookie", cookie)
		stream, err := http.DefaultTransport.RoundTrip(r)
		if err != nil {
			t.Fatal(err)
		}
		defer stream.Body.Close()
		lines := bufio.NewReader(stream.Body)
		if first, err := lines.ReadString('\n'); err != nil || first == "" {
			t.Fatalf("%s: the stream begins with %q, %v", how, first, err)
		}
		if err := end(v, addr, cookie); err != nil {
			t.Fatal(err)
		}
		rest, err := io.ReadAll(lines)
		if err != nil || strings.Count(string(rest), `id="brew"`) > 1 { // a stream that does not end blocks here
			t.Errorf("%s: the stream went on: %v", how, err)
		}
	}
}

// The log has what pages do not show: a panic with its stack, and the reason why a stream ended.
func TestLogHasTheCause(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	w := httptest.NewRecorder()
	v.Server.RecoverPanics(http.HandlerFunc(func(http.ResponseWriter, *http.Request) { panic("a shelf fell") })).ServeHTTP(w,
		httptest.NewRequest(http.MethodGet, "http://yard.test/log", nil))
	if said := v.Log.String(); w.Code != http.StatusInternalServerError || !strings.Contains(said, "a shelf fell") ||
		!strings.Contains(said, "TestLogHasTheCause") {
		t.Errorf("status %d, the log says %s", w.Code, said)
	}
	stream, err := http.Get("http://" + serve(v) + "/brews/" + webtest.Planned + "/live")
	if err != nil {
		t.Fatal(err)
	}
	defer stream.Body.Close()
	lines := bufio.NewReader(stream.Body)
	if _, err := lines.ReadString('\n'); err != nil {
		t.Fatal(err)
	}
	v.Store.Close()
	v.Yard.Hub.Notify(webtest.Planned)
	if _, err := io.ReadAll(lines); err != nil {
		t.Errorf("the stream ends with %v", err)
	}
	if said := v.Log.String(); !strings.Contains(said, "stream ended") || !strings.Contains(said, webtest.Planned) {
		t.Errorf("the log says %s", said)
	}
}

// Problems with the database are shown to a signed-in person; a stranger sees no paths.
func TestDatabaseTroubleIsShown(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		strangers bool
		says, not string
	}{{false, "/lost/yardbloom.db is full", "nothing"}, {true, "is unavailable", "/lost"}} {
		v := webtest.Visit(t)
		v.Server.SignIn = c.strangers
		w := httptest.NewRecorder()
		v.Server.Fail(w, httptest.NewRequest(http.MethodPost, "http://yard.test/settings", nil),
			&store.Trouble{Sentence: "The disk with the database /lost/yardbloom.db is full."})
		if body := w.Body.String(); w.Code != http.StatusServiceUnavailable || w.Header().Get("Retry-After") == "" ||
			!strings.Contains(body, c.says) || strings.Contains(body, c.not) {
			t.Errorf("strangers %v: status %d\n%s", c.strangers, w.Code, body)
		}
	}
}

package web

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
)

const (
	password = "under the flower pot"
	proxy    = "127.0.0.1:9"
)

// guarded is a visitor's yard that asks for its password, which was kept at a low cost.
func guarded(t *testing.T, proxies ...netip.Addr) *visitor {
	t.Helper()
	v := visit(t)
	cheap, err := argon2id.CreateHash(password, &argon2id.Params{Memory: 1 << 10, Iterations: 1, Parallelism: 1, SaltLength: 16, KeyLength: 32})
	if err == nil {
		err = v.store.SavePassword(t.Context(), cheap)
	}
	if err != nil {
		t.Fatal(err)
	}
	if v.s, err = New(Config{Store: v.store, Log: v.s.Log, Now: v.s.Now, SignIn: true, Proxies: proxies}); err != nil {
		t.Fatal(err)
	}
	return v
}

// guess tries a password over a connection from an address, for one that the other end
// names as a proxy does.
func (v *visitor) guess(remote, forwarded, password string) *httptest.ResponseRecorder {
	r := httptest.NewRequest(http.MethodPost, "http://yard.test/sign-in", strings.NewReader(url.Values{"password": {password}}.Encode()))
	r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	r.Header.Set("X-Forwarded-For", forwarded)
	r.RemoteAddr = remote
	w := httptest.NewRecorder()
	v.s.ServeHTTP(w, r)
	return w
}

// Who guesses waits longer and longer; who does not, behind the same proxy, never. A
// limit that all share lets one stranger lock everybody out.
func TestGuessesWaitLongerAndHoldUpNobodyElse(t *testing.T) {
	t.Parallel()
	v := guarded(t, netip.MustParseAddr("127.0.0.1"))
	const stranger, household = "192.0.2.7", "2001:db8:1:2::7"
	for range freeTries {
		if w := v.guess(proxy, stranger, "guess"); w.Code != http.StatusUnauthorized {
			t.Fatalf("a first guess: status %d", w.Code)
		}
	}
	for _, seconds := range []string{"1", "2", "4", "8"} {
		w := v.guess(proxy, stranger, password) // the right one, but too soon
		if w.Code != http.StatusTooManyRequests || w.Header().Get("Retry-After") != seconds || !strings.Contains(w.Body.String(), "Too many tries") {
			t.Fatalf("status %d, wait %s s, want %s s", w.Code, w.Header().Get("Retry-After"), seconds)
		}
		wait, err := time.ParseDuration(seconds + "s")
		if err != nil {
			t.Fatal(err)
		}
		if v.now = v.now.Add(wait); seconds != "8" {
			v.guess(proxy, stranger, "guess")
		}
	}
	if w := v.guess(proxy, "192.0.2.8", password); w.Code != http.StatusSeeOther {
		t.Errorf("a neighbour: status %d", w.Code)
	}
	if w := v.guess(proxy, stranger, password); w.Code != http.StatusSeeOther {
		t.Errorf("after the wait: status %d", w.Code)
	}
	for range freeTries {
		v.guess(proxy, household, "guess")
	}
	if w := v.guess(proxy, "2001:db8:1:2:3::8", password); w.Code != http.StatusTooManyRequests {
		t.Errorf("another address of the same household: status %d", w.Code)
	}
	if f := (failures{count: 1000}); f.wait() != longestWait {
		t.Errorf("the longest wait is %v", f.wait())
	}
}

// A password kept at another cost still fits, and is kept at today's by whoever signs in.
func TestThePasswordsCostCanRise(t *testing.T) {
	t.Parallel()
	v := guarded(t)
	if w := v.guess(proxy, "", "not "+password); w.Code != http.StatusUnauthorized {
		t.Errorf("a wrong one: status %d", w.Code)
	}
	w := v.guess(proxy, "", password)
	set, err := v.store.Settings(t.Context())
	if w.Code != http.StatusSeeOther || err != nil || !strings.HasPrefix(set.Password, "$argon2id$v=19$m=65536,t=3,p=4$") {
		t.Errorf("status %d, kept as %.40q, %v", w.Code, set.Password, err)
	}
	if fits, dated, err := passwordFits(password, set.Password); !fits || dated || err != nil {
		t.Errorf("kept anew: fits %v, dated %v, %v", fits, dated, err)
	}
}

// Whoever reads the database must not be able to take over a session.
func TestSessionTokensAreKeptHashed(t *testing.T) {
	t.Parallel()
	v := guarded(t)
	cookie, _, _ := strings.Cut(strings.TrimPrefix(v.guess(proxy, "", password).Header().Get("Set-Cookie"), "yard="), ";")
	copied := filepath.Join(t.TempDir(), "copy.db")
	if _, err := v.store.Backup(t.Context(), copied); err != nil {
		t.Fatal(err)
	}
	db, err := sqlx.Open("sqlite", copied)
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	var tokens []string
	if err := db.Select(&tokens, `SELECT token FROM sessions`); err != nil || len(tokens) != 1 || cookie == "" || tokens[0] == cookie {
		t.Errorf("the cookie %q is kept as %q, %v", cookie, tokens, err)
	}
}

// A screen that was signed out, or whose password was changed, hears no more of the brew.
func TestAStreamEndsWithItsSession(t *testing.T) {
	t.Parallel()
	for how, end := range map[string]func(v *visitor, addr, cookie string) error{
		"signing out": func(_ *visitor, addr, cookie string) error {
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
		"a new password": func(v *visitor, _, _ string) error {
			err := v.store.SavePassword(t.Context(), HashPassword("behind the shed"))
			v.s.live.Tell(planned) // something happens in the brew
			return err
		},
	} {
		v := guarded(t)
		cookie, _, _ := strings.Cut(v.guess(proxy, "", password).Header().Get("Set-Cookie"), ";")
		addr := v.serve()
		r, err := http.NewRequest(http.MethodGet, "http://"+addr+"/brews/"+planned+"/live", nil)
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
		began := time.Now()
		if err := end(v, addr, cookie); err != nil {
			t.Fatal(err)
		}
		rest, err := io.ReadAll(lines)
		if err != nil || strings.Count(string(rest), `id="brew"`) > 1 || time.Since(began) > heartbeat/2 {
			t.Errorf("%s: the stream went on for %v, %v", how, time.Since(began), err)
		}
	}
}

// What nobody sees on a page stands in the log: a panic with its stack, a stream with why it died.
func TestTheLogSaysWhy(t *testing.T) {
	t.Parallel()
	v := visit(t)
	w := httptest.NewRecorder()
	v.s.recoverPanics(http.HandlerFunc(func(http.ResponseWriter, *http.Request) { panic("a shelf fell") })).ServeHTTP(w, httptest.NewRequest(http.MethodGet, "http://yard.test/log", nil))
	if said := v.log.String(); w.Code != http.StatusInternalServerError || !strings.Contains(said, "a shelf fell") || !strings.Contains(said, "TestTheLogSaysWhy") {
		t.Errorf("status %d, the log says %s", w.Code, said)
	}
	stream, err := http.Get("http://" + v.serve() + "/brews/" + planned + "/live")
	if err != nil {
		t.Fatal(err)
	}
	defer stream.Body.Close()
	lines := bufio.NewReader(stream.Body)
	if _, err := lines.ReadString('\n'); err != nil {
		t.Fatal(err)
	}
	v.store.Close()
	v.s.live.Tell(planned)
	if _, err := io.ReadAll(lines); err != nil {
		t.Errorf("the stream ends with %v", err)
	}
	if said := v.log.String(); !strings.Contains(said, "stream ended") || !strings.Contains(said, planned) {
		t.Errorf("the log says %s", said)
	}
}

// What is wrong with the database is said to who has signed in; a stranger learns no path.
func TestTroubleIsSaidAsItIs(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		strangers bool
		says, not string
	}{{false, "/lost/yardbloom.db is full", "nothing"}, {true, "cannot be reached", "/lost"}} {
		v := visit(t)
		v.s.SignIn = c.strangers
		w := httptest.NewRecorder()
		v.s.fail(w, httptest.NewRequest(http.MethodPost, "http://yard.test/settings", nil), &store.Trouble{Sentence: "The disk with the database /lost/yardbloom.db is full."})
		if body := w.Body.String(); w.Code != http.StatusServiceUnavailable || w.Header().Get("Retry-After") == "" || !strings.Contains(body, c.says) || strings.Contains(body, c.not) {
			t.Errorf("strangers %v: status %d\n%s", c.strangers, w.Code, body)
		}
	}
}

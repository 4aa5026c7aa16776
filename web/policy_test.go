package web_test

import (
	"net/http"
	"net/http/httptest"
	"net/netip"
	"strings"
	"testing"

	"yardbloom/web"
	"yardbloom/web/webtest"
	"yardbloom/yard"
)

// A site elsewhere can point its own name at this machine. Mutation caught: any host name is accepted, so
// that the site can read the log and delete a bag.
func TestUnknownHostIsRefused(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	v.Reopen(func(_ *yard.Config, c *web.Config) { c.Hosts = []string{"localhost", "yard.test"} })
	for host, want := range map[string]int{
		"localhost": 200, "localhost:8417": 200, "127.0.0.1:8417": 200, "127.8.9.1": 200, "[::1]:8417": 200, "yard.test:80": 200,
		"[::ffff:127.0.0.1]": 200,
		"elsewhere.test":     421, "localhost.elsewhere.test": 421, "127.0.0.1.elsewhere.test": 421, "10.0.0.7": 421, "0.0.0.0": 421,
		"": 421,
	} {
		for _, method := range []string{http.MethodGet, http.MethodPost} {
			r := httptest.NewRequest(method, "/log", nil)
			r.Host = host
			w := httptest.NewRecorder()
			v.Server.ServeHTTP(w, r)
			if got := w.Code; (want == 421) != (got == 421) {
				t.Errorf("%s from %q: status %d, want %d", method, host, got, want)
			}
			if w.Code == 421 && (strings.Contains(w.Body.String(), "Slate") || !strings.Contains(w.Body.String(), "--host")) {
				t.Errorf("%q gets %.300s", host, w.Body)
			}
		}
	}
}

// Only a trusted proxy determines the client's address. Mutation caught: forwarding headers of strangers,
// who could use another address for each guess.
func TestForwardedAddressNeedsATrustedProxy(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		proxies []netip.Addr
		from    string
		limited bool
	}{
		{nil, "127.0.0.1:9", true},
		{[]netip.Addr{netip.MustParseAddr("127.0.0.1")}, "10.0.0.9:9", true},
		{[]netip.Addr{netip.MustParseAddr("127.0.0.1")}, "127.0.0.1:9", false},
	} {
		v := guarded(t, c.proxies...)
		try := func(i int, password string) *httptest.ResponseRecorder {
			return guess(v, c.from, netip.AddrFrom4([4]byte{192, 0, 2, byte(i)}).String(), password)
		}
		limited := false
		for i := range web.FreeTries + 2 {
			limited = limited || try(i+1, "guess").Code == http.StatusTooManyRequests
		}
		if limited != c.limited {
			t.Errorf("from %s with proxies %v: limited %v", c.from, c.proxies, limited)
		}
		v.SetNow(v.Now().Add(2 * web.Forgiven))
		cookie := try(0, password).Header().Get("Set-Cookie")
		if strings.Contains(cookie, "Secure") != (c.proxies != nil) {
			t.Errorf("with proxies %v the cookie is %q", c.proxies, cookie)
		}
	}
}

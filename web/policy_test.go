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

// A form of a page with another scheme at the same host and port is refused, unless the browser itself says that it is of this site or a
// trusted proxy says that the page came by TLS. Mutations caught: an origin whose scheme is not compared, a scheme that a stranger sets.
func TestFormsOfAnotherSchemeAreRefused(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	v.Server.Proxies = []netip.Addr{netip.MustParseAddr("192.0.2.9")}
	for _, c := range []struct {
		origin, site, proto, from string
		want                      int
	}{
		{"http://localhost:8417", "", "", "192.0.2.1:4000", http.StatusSeeOther},
		{"https://localhost:8417", "", "", "192.0.2.1:4000", http.StatusForbidden},
		{"https://localhost:8417", "", "https", "192.0.2.1:4000", http.StatusForbidden},
		{"https://localhost:8417", "", "https", "192.0.2.9:4000", http.StatusSeeOther},
		{"https://localhost:8417", "same-origin", "", "192.0.2.1:4000", http.StatusSeeOther},
		{"http://elsewhere:8417", "", "", "192.0.2.1:4000", http.StatusForbidden},
		{"", "", "", "192.0.2.1:4000", http.StatusSeeOther},
	} {
		r := httptest.NewRequest("POST", "http://localhost:8417/theme", strings.NewReader("theme=night"))
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		r.RemoteAddr = c.from
		for name, value := range map[string]string{"Origin": c.origin, "Sec-Fetch-Site": c.site, "X-Forwarded-Proto": c.proto} {
			if value != "" {
				r.Header.Set(name, value)
			}
		}
		w := httptest.NewRecorder()
		v.Server.ServeHTTP(w, r)
		if w.Code != c.want {
			t.Errorf("%+v: status %d", c, w.Code)
		}
	}
}

// Downloads are not kept by the browser, like pages. Mutation caught: a file without the header.
func TestDownloadsAreNotStored(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	for _, path := range []string{"/log.csv", "/log/readings.csv", "/book.json", "/settings/backup.db", "/data/yard.zip", "/data/bag/slate-terrace",
		"/brews/slate-terrace-3/recipe.json", "/brews/slate-terrace-3/trace.csv"} {
		r := httptest.NewRequest("GET", "http://localhost:8417"+path, nil)
		w := httptest.NewRecorder()
		v.Server.ServeHTTP(w, r)
		if w.Code == http.StatusOK && w.Header().Get("Cache-Control") != "no-store" || w.Code >= 500 {
			t.Errorf("%s: status %d, kept by %q", path, w.Code, w.Header().Get("Cache-Control"))
		}
	}
}

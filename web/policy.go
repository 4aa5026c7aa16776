package web

import (
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"slices"
	"strings"

	"yardbloom/api"
	"yardbloom/web/page"

	"github.com/go-chi/chi/v5/middleware"
)

// markAnswers echoes the key of an action.
func markAnswers(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if key := r.Header.Get(page.KeyHeader); key != "" && len(key) <= 64 {
			w.Header().Set(page.AnswerHeader, key)
		}
		next.ServeHTTP(w, r)
	})
}

// securityHeaders restricts scripts, styles, fonts and connections to the app, with nothing inline.
func securityHeaders(next http.Handler) http.Handler {
	const policy = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self'; font-src 'self'; connect-src 'self'; " +
		"worker-src 'self'; manifest-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set("Content-Security-Policy", policy)
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "same-origin")
		h.Set("Permissions-Policy", "camera=(self), microphone=(), geolocation=(), screen-wake-lock=(self)")
		next.ServeHTTP(w, r)
	})
}

// sameOrigin refuses forms from other sites.
func (s *Server) sameOrigin(next http.Handler) http.Handler {
	guard := http.NewCrossOriginProtection()
	guard.AddInsecureBypassPattern(api.Prefix + "/") // needs a token, which no other site has
	deny := http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		s.site.Fail(w, r, page.Problem{Status: http.StatusForbidden, Title: "Form from another site",
			Text: "Nothing was changed. Use the form on this site."})
	})
	guard.SetDenyHandler(deny)
	guarded := guard.Handler(next)
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if s.isOfOtherScheme(r) {
			deny.ServeHTTP(w, r)
			return
		}
		guarded.ServeHTTP(w, r)
	})
}

// isOfOtherScheme reports whether a form is from a page with another scheme, such as https://HOST at http://HOST, whose pages can be somebody
// else's. Browsers that say themselves where a form is from do not need it, and the guard compares host and port.
func (s *Server) isOfOtherScheme(r *http.Request) bool {
	origin, err := url.Parse(r.Header.Get("Origin"))
	if err != nil || origin.Scheme == "" || r.Header.Get("Sec-Fetch-Site") != "" || strings.HasPrefix(r.URL.Path, api.Prefix+"/") {
		return false
	}
	scheme := "http"
	if r.TLS != nil || r.Header.Get("X-Forwarded-Proto") == "https" && s.isFromProxy(r) {
		scheme = "https"
	}
	return origin.Scheme != scheme
}

// knownHost refuses a request for a host name that is not the yard's. Otherwise a site that points its own
// name at this machine could read the yard's pages (DNS rebinding).
func (s *Server) knownHost(next http.Handler) http.Handler {
	if s.Hosts == nil {
		return next
	}
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		host, _, err := net.SplitHostPort(r.Host)
		if err != nil {
			host = r.Host
		}
		if !page.IsLoopback(host) && !slices.Contains(s.Hosts, host) {
			s.site.Fail(w, r, page.Problem{Status: http.StatusMisdirectedRequest, Title: "This is not the yard's address",
				Text: "This server answers under localhost only. To use another name, start it with --host NAME."})
			return
		}
		next.ServeHTTP(w, r)
	})
}

// clientIP determines the address of the client: from a trusted proxy, or of the connection.
func (s *Server) clientIP(next http.Handler) http.Handler {
	direct := middleware.ClientIPFromRemoteAddr(next)
	if len(s.Proxies) == 0 {
		return direct
	}
	var trusted []string
	for _, p := range s.Proxies {
		trusted = append(trusted, netip.PrefixFrom(p, p.BitLen()).String())
	}
	forwarded := middleware.ClientIPFromXFF(trusted...)(next)
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if s.isFromProxy(r) {
			forwarded.ServeHTTP(w, r)
			return
		}
		direct.ServeHTTP(w, r)
	})
}

// isFromProxy reports whether a trusted proxy sent a request.
func (s *Server) isFromProxy(r *http.Request) bool {
	from, err := netip.ParseAddrPort(r.RemoteAddr)
	return err == nil && slices.Contains(s.Proxies, from.Addr().Unmap())
}

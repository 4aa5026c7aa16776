package web

import (
	"net"
	"net/http"
	"net/netip"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5/middleware"
)

// securityHeaders allow scripts, styles, fonts and connections of the app alone,
// and nothing inline.
func securityHeaders(next http.Handler) http.Handler {
	const policy = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self'; font-src 'self'; connect-src 'self'; " +
		"worker-src 'self'; manifest-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set("Content-Security-Policy", policy)
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "same-origin")
		h.Set("Permissions-Policy", "camera=(), microphone=(), geolocation=(), screen-wake-lock=(self)")
		next.ServeHTTP(w, r)
	})
}

// sameOrigin refuses a form that another site posts.
func (s *Server) sameOrigin(next http.Handler) http.Handler {
	guard := http.NewCrossOriginProtection()
	guard.SetDenyHandler(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		s.fail(w, r, problem{http.StatusForbidden, "This form came from another site", "It was not accepted, and nothing was changed. Use the form on the page itself."})
	}))
	return guard.Handler(next)
}

// knownHost refuses a request under a name that is not the yard's own: a site
// elsewhere that points its name at this machine would else be read as if it were ours.
func (s *Server) knownHost(next http.Handler) http.Handler {
	if s.Hosts == nil {
		return next
	}
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		host, _, err := net.SplitHostPort(r.Host)
		if err != nil {
			host = r.Host
		}
		if !IsLoopback(host) && !slices.Contains(s.Hosts, host) {
			s.fail(w, r, problem{http.StatusMisdirectedRequest, "This is not the yard's address", "It is answered under localhost only. If it has a name of its own, start it with --host and that name."})
			return
		}
		next.ServeHTTP(w, r)
	})
}

// IsLoopback says whether a host is this machine's own: localhost or a loopback address.
func IsLoopback(host string) bool {
	ip, err := netip.ParseAddr(strings.Trim(host, "[]"))
	return host == "localhost" || err == nil && ip.Unmap().IsLoopback()
}

// clientIP finds where a request comes from: what a known proxy says, or who is connected.
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
		from, err := netip.ParseAddrPort(r.RemoteAddr)
		if err == nil && slices.Contains(s.Proxies, from.Addr().Unmap()) {
			forwarded.ServeHTTP(w, r)
			return
		}
		direct.ServeHTTP(w, r)
	})
}

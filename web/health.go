package web

import (
	"net/http"

	"yardbloom/web/page"
)

// health answers probes: /healthz while the process runs, /readyz while it can read the yard. Both need no sign-in
// and say nothing else.
func (s *Server) health(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		var err error
		switch r.URL.Path {
		case "/healthz":
		case "/readyz":
			err = s.Yard.Store.Ready(r.Context())
		default:
			next.ServeHTTP(w, r)
			return
		}
		w.Header().Set("Content-Type", "text/plain; charset=utf-8")
		w.Header().Set("Cache-Control", "no-store")
		switch {
		case r.Method != http.MethodGet && r.Method != http.MethodHead:
			w.Header().Set("Allow", "GET, HEAD")
			http.Error(w, "Use GET.", http.StatusMethodNotAllowed)
		case err != nil:
			s.Yard.Log.Error("not ready", "err", err)
			http.Error(w, "The yard is not ready. See the log.", http.StatusServiceUnavailable)
		default:
			_, _ = w.Write([]byte("ok\n")) // an error means that the prober has gone
		}
	})
}

// trust serves the page that explains how a tablet trusts the certificate of this server.
func (s *Server) trust(w http.ResponseWriter, r *http.Request) error {
	s.trusts.Render(w, r, http.StatusOK, "trust", page.Page{Title: "Connect a tablet", Side: "settings", Body: struct{ Authority bool }{s.Authority != nil}})
	return nil
}

// authority serves the certificate of the local authority.
func (s *Server) authority(w http.ResponseWriter, _ *http.Request) error {
	if s.Authority == nil {
		return page.Problem{Status: http.StatusNotFound, Title: "There is no local authority",
			Text: "Make one with: yardbloom cert --data DIR, then serve with the certificate that it names."}
	}
	page.Attach(w, "application/x-x509-ca-cert", "yardbloom-authority.crt")
	_, _ = w.Write(s.Authority) // an error means that the browser has gone
	return nil
}

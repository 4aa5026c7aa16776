package api

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"net/http"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"

	"yardbloom/store"
	"yardbloom/yard"
)

type ctx = context.Context

// A call is a request in progress.
type call struct {
	ctx
	*yard.Yard
}

// allowOrigins lets pages of other sites use the API with a token. Cookies are not used, so that no page can act for a person without one.
func allowOrigins(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set("Access-Control-Allow-Origin", "*")
		h.Set("Access-Control-Expose-Headers", "ETag")
		if r.Method == http.MethodOptions {
			h.Set("Access-Control-Allow-Methods", "GET, POST")
			h.Set("Access-Control-Allow-Headers", "Authorization, Content-Type, If-None-Match, Last-Event-ID")
			h.Set("Access-Control-Max-Age", "600")
			w.WriteHeader(http.StatusNoContent)
			return
		}
		next.ServeHTTP(w, r)
	})
}

// open lists the paths that need no token.
var open = []string{"/openapi.json", "/openapi.yaml"}

// Bearer returns the token of a request; empty without one.
func Bearer(r *http.Request) string {
	scheme, token, _ := strings.Cut(r.Header.Get("Authorization"), " ")
	if !strings.EqualFold(scheme, "Bearer") {
		return ""
	}
	return strings.TrimSpace(token)
}

// authorize refuses requests without a valid token.
func (s *Server) authorize(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if slices.Contains(open, r.URL.Path) {
			next.ServeHTTP(w, r)
			return
		}
		token, err := s.yard.Store.TokenOf(r.Context(), Bearer(r))
		valid := err == nil
		switch {
		case !valid && !errors.Is(err, store.ErrNotFound):
			s.yard.Log.Error("API token not checked", "err", err)
			Refuse(w, http.StatusServiceUnavailable, "The database is unavailable. Try again in a moment.")
		case !valid:
			w.Header().Set("WWW-Authenticate", `Bearer realm="Yard Bloom"`)
			Refuse(w, http.StatusUnauthorized, "Send a valid token: Authorization: Bearer TOKEN. Tokens are made in Settings, under Programs.")
		case r.URL.Path == ImportPath && !token.Imports:
			Refuse(w, http.StatusForbidden, "This token only reads. Make one that may import in Settings, under Programs.")
		default:
			next.ServeHTTP(w, r)
		}
	})
}

// Refuse writes problem details.
func Refuse(w http.ResponseWriter, status int, detail string) {
	w.Header().Set("Content-Type", "application/problem+json")
	w.WriteHeader(status)
	_ = json.NewEncoder(w).Encode(huma.ErrorModel{Status: status, Title: http.StatusText(status), Detail: detail}) // else the client has gone
}

// csvByAccept serves a list as CSV to a client that prefers it.
func csvByAccept(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/brews" && strings.HasPrefix(r.Header.Get("Accept"), "text/csv") {
			r = r.Clone(r.Context())
			r.URL.Path += ".csv"
			if route := chi.RouteContext(r.Context()); route != nil {
				route.RoutePath = r.URL.Path
			}
		}
		next.ServeHTTP(w, r)
	})
}

// tag adds an ETag to answers and leaves out the body of one that the client has. Streams have none.
func tag(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method != http.MethodGet || r.URL.Path == eventsPath || strings.HasSuffix(r.URL.Path, ".csv") ||
			strings.HasPrefix(r.Header.Get("Accept"), "text/csv") {
			next.ServeHTTP(w, r)
			return
		}
		kept := &keptAnswer{ResponseWriter: w, status: http.StatusOK}
		next.ServeHTTP(kept, r)
		if kept.status != http.StatusOK {
			w.WriteHeader(kept.status)
			_, _ = w.Write(kept.body.Bytes())
			return
		}
		sum := sha256.Sum256(kept.body.Bytes())
		etag := `W/"` + hex.EncodeToString(sum[:12]) + `"` // weak: the answer may be compressed
		w.Header().Set("ETag", etag)
		w.Header().Set("Cache-Control", "private, no-cache")
		if slices.Contains(splitTags(r.Header.Get("If-None-Match")), etag) {
			w.Header().Del("Content-Type")
			w.WriteHeader(http.StatusNotModified)
			return
		}
		w.WriteHeader(http.StatusOK)
		_, _ = w.Write(kept.body.Bytes())
	})
}

// splitTags returns the entity tags of a header.
func splitTags(header string) []string {
	var out []string
	for _, t := range strings.Split(header, ",") {
		out = append(out, strings.TrimSpace(t))
	}
	return out
}

// keptAnswer keeps an answer in memory. Answers of the API are bounded by the limits of its lists.
type keptAnswer struct {
	http.ResponseWriter
	status int
	body   bytes.Buffer
}

func (k *keptAnswer) WriteHeader(status int)      { k.status = status }
func (k *keptAnswer) Write(b []byte) (int, error) { return k.body.Write(b) }

package web

import (
	"context"
	"log/slog"
	"net/http"
	"time"

	"github.com/go-chi/chi/v5/middleware"
)

// logRequests logs every request if the log is verbose.
func (s *Server) logRequests(next http.Handler) http.Handler {
	if !s.Yard.Log.Enabled(context.Background(), slog.LevelDebug) {
		return next
	}
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		ww, began := middleware.NewWrapResponseWriter(w, r.ProtoMajor), time.Now()
		next.ServeHTTP(ww, r)
		s.Yard.Log.Debug("request", "method", r.Method, "path", r.URL.Path, "status", ww.Status(), "took", time.Since(began))
	})
}

package web

import (
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"

	"yardbloom/store"
)

// A handler answers a request or says why not. The error decides the page.
type handler func(w http.ResponseWriter, r *http.Request) error

// A problem is an error with its status and the words for the person.
type problem struct {
	status      int
	title, text string
}

func (p problem) Error() string { return fmt.Sprintf("%d %s: %s", p.status, p.title, p.text) }

func (s *Server) handle(h handler) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		if err := h(w, r); err != nil {
			s.fail(w, r, err)
		}
	}
}

// fail shows the one error page. What a person can mend is said in words; the
// rest is an id that stands in the log.
func (s *Server) fail(w http.ResponseWriter, r *http.Request, err error) {
	var p problem
	var tooLarge *http.MaxBytesError
	switch {
	case errors.As(err, &p):
	case errors.Is(err, store.ErrNotFound):
		p = problem{http.StatusNotFound, "There is nothing here", "What this address names does not exist, or is no longer on the shelf."}
	case errors.Is(err, store.ErrStatus):
		p = problem{http.StatusConflict, "This brew is not at that point", "It was begun, finished or stopped meanwhile, perhaps on another screen. Nothing was changed."}
	case errors.Is(err, store.ErrConflict):
		p = problem{http.StatusConflict, "Somebody was quicker", "It was changed meanwhile, perhaps in another window. Nothing of yours was kept: open it again and repeat the change."}
	case errors.As(err, &tooLarge):
		p = problem{http.StatusRequestEntityTooLarge, "That is too much text", "A form takes up to 256 kB. Go back and shorten it."}
	default:
		id := middleware.GetReqID(r.Context())
		s.Log.Error("request failed", "id", id, "method", r.Method, "path", r.URL.Path, "err", err)
		p = problem{http.StatusInternalServerError, "Something broke on our side",
			"Nothing that you had kept is lost. Go back and try again; if it stays, the log has this under " + id + "."}
	}
	s.render(w, r, p.status, "error", page{Title: p.title, Body: p})
}

// Title and Text are read by the template.
func (p problem) Title() string { return p.title }

// Text is what to do about it.
func (p problem) Text() string { return p.text }

// sameOrigin refuses a form that another site posts.
func (s *Server) sameOrigin(next http.Handler) http.Handler {
	guard := http.NewCrossOriginProtection()
	guard.SetDenyHandler(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		s.fail(w, r, problem{http.StatusForbidden, "This form came from another site", "It was not accepted, and nothing was changed. Use the form on the page itself."})
	}))
	return guard.Handler(next)
}

func (s *Server) recoverPanics(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		defer func() {
			if v := recover(); v != nil {
				if v == http.ErrAbortHandler {
					panic(v)
				}
				s.fail(w, r, fmt.Errorf("panic: %v", v))
			}
		}()
		next.ServeHTTP(w, r)
	})
}

func (s *Server) logRequests(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		ww, began := middleware.NewWrapResponseWriter(w, r.ProtoMajor), time.Now()
		next.ServeHTTP(ww, r)
		s.Log.Debug("request", "method", r.Method, "path", r.URL.Path, "status", ww.Status(), "took", time.Since(began))
	})
}

// securityHeaders allow scripts, styles, fonts and connections of the app alone,
// and nothing inline.
func securityHeaders(next http.Handler) http.Handler {
	const policy = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self'; font-src 'self'; connect-src 'self'; " +
		"manifest-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set("Content-Security-Policy", policy)
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "same-origin")
		h.Set("Permissions-Policy", "camera=(), microphone=(), geolocation=(), screen-wake-lock=(self)")
		next.ServeHTTP(w, r)
	})
}

// id reads the id in the path. One that is not a number names nothing.
func id(r *http.Request) (int64, error) {
	n, err := strconv.ParseInt(chi.URLParam(r, "id"), 10, 64)
	if err != nil || n <= 0 {
		return 0, store.ErrNotFound
	}
	return n, nil
}

// seeOther sends the browser on after a form was kept.
func seeOther(w http.ResponseWriter, r *http.Request, format string, args ...any) error {
	http.Redirect(w, r, fmt.Sprintf(format, args...), http.StatusSeeOther)
	return nil
}

package page

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/url"

	"github.com/go-chi/chi/v5"
)

// A Problem is an error with its HTTP status and the words for the person.
type Problem struct {
	Status      int
	Title, Text string
}

func (p Problem) Error() string { return fmt.Sprintf("%d %s: %s", p.Status, p.Title, p.Text) }

// Handle adapts a handler that returns an error.
func (s *Site) Handle(h Handler) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		if err := h(w, r); err != nil {
			s.Fail(w, r, err)
		}
	}
}

// Fail shows the error page. If the client has gone, it does nothing.
func (s *Site) Fail(w http.ResponseWriter, r *http.Request, err error) {
	if errors.Is(err, context.Canceled) && r.Context().Err() != nil {
		return
	}
	var p Problem
	if !errors.As(err, &p) {
		p = s.Explain(r, err)
	}
	w.Header().Set(ReasonHeader, url.PathEscape(p.Title+". "+p.Text)) // a script shows it on its page
	if p.Status == http.StatusServiceUnavailable {
		w.Header().Set("Retry-After", "2")
	}
	s.errors.Render(w, r, p.Status, "error", Page{Title: p.Title, Body: p})
}

// A Router registers handlers that return errors.
type Router struct {
	chi.Router
	Site *Site
}

// Page registers a GET handler.
func (r Router) Page(path string, h Handler) { r.Get(path, r.Site.Handle(h)) }

// Form registers a POST handler.
func (r Router) Form(path string, h Handler) { r.Post(path, r.Site.Handle(h)) }

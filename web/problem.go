package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"runtime/debug"

	"github.com/go-chi/chi/v5/middleware"

	"yardbloom/core/brew"
	"yardbloom/store"
	"yardbloom/web/form"
)

// A handler answers a request or says why not. The error decides the page.
type handler func(w http.ResponseWriter, r *http.Request) error

// A problem is an error with its status and the words for the person.
type problem struct {
	status      int
	Title, Text string
}

func (p problem) Error() string { return fmt.Sprintf("%d %s: %s", p.status, p.Title, p.Text) }

func (s *Server) handle(h handler) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		if err := h(w, r); err != nil {
			s.fail(w, r, err)
		}
	}
}

// known are the errors that a person can do something about.
var known = []struct {
	err error
	problem
}{
	{store.ErrNotFound, problem{http.StatusNotFound, "There is nothing here", "What this address names does not exist, or is no longer on the shelf."}},
	{brew.ErrStatus, problem{http.StatusConflict, "This brew is not at that point", "It was begun, finished or stopped meanwhile, perhaps on another screen. Nothing was changed."}},
	{brew.ErrUnfinished, problem{http.StatusUnprocessableEntity, "The recipe is not finished", "Something on it cannot be brewed yet. Go back to the recipe and mend the marked field."}},
	{form.ErrMedia, problem{http.StatusUnsupportedMediaType, "That is not a form", "Nothing was changed. Use the form on the page itself."}},
	{form.ErrMalformed, problem{http.StatusBadRequest, "The form cannot be read", "It came empty or damaged, and nothing was changed. Go back and send it again."}},
	{store.ErrConflict, problem{http.StatusConflict, "Somebody was quicker", "It was changed meanwhile, perhaps in another window. Nothing of yours was kept: open it again and repeat the change."}},
}

// fail shows the one error page. What a person can mend is said in words; the
// rest is an id that stands in the log.
func (s *Server) fail(w http.ResponseWriter, r *http.Request, err error) {
	if errors.Is(err, context.Canceled) && r.Context().Err() != nil {
		return // whoever asked has gone: there is nobody to answer, and nothing is wrong
	}
	p := s.problemOf(r, err)
	if p.status == http.StatusServiceUnavailable {
		w.Header().Set("Retry-After", "2")
	}
	s.render(w, r, p.status, "error", page{Title: p.Title, Body: p})
}

func (s *Server) problemOf(r *http.Request, err error) problem {
	var p problem
	if errors.As(err, &p) {
		return p
	}
	var tooLarge *http.MaxBytesError
	if errors.As(err, &tooLarge) {
		return problem{http.StatusRequestEntityTooLarge, "That is too much text", fmt.Sprintf("A form takes up to %d MB. Go back and shorten it.", maxBody>>20)}
	}
	var trouble *store.Trouble
	if errors.As(err, &trouble) {
		s.Log.Error("the database cannot be used", "method", r.Method, "path", r.URL.Path, "err", trouble, "behind", trouble.Err)
		p := problem{http.StatusServiceUnavailable, "The yard cannot be reached", "Try again in a moment."}
		if s.mayRead(r) { // to a stranger a path would say something of the machine
			p.Text = trouble.Sentence
		}
		if r.Method == http.MethodPost {
			p.Text = "Nothing of this was kept. " + p.Text
		}
		return p
	}
	for _, k := range known {
		if errors.Is(err, k.err) {
			return k.problem
		}
	}
	id := middleware.GetReqID(r.Context())
	s.Log.Error("request failed", "id", id, "method", r.Method, "path", r.URL.Path, "err", err)
	return problem{http.StatusInternalServerError, "Something broke on our side",
		"Nothing that you had kept is lost. Go back and try again; if it stays, the log has this under " + id + "."}
}

// recoverPanics shows the error page where a handler panics.
func (s *Server) recoverPanics(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		defer func() {
			if v := recover(); v != nil {
				if v == http.ErrAbortHandler {
					panic(v)
				}
				s.fail(w, r, fmt.Errorf("panic: %v\n%s", v, debug.Stack()))
			}
		}()
		next.ServeHTTP(w, r)
	})
}

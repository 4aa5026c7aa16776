package web

import (
	"errors"
	"fmt"
	"net/http"
	"runtime/debug"

	"github.com/go-chi/chi/v5/middleware"

	"yardbloom/core/brew"
	"yardbloom/store"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/yard"
)

// problems maps errors that a person can act on to their pages.
var problems = []struct {
	err error
	page.Problem
}{
	{store.ErrNotFound, page.Problem{Status: http.StatusNotFound, Title: "Not found",
		Text: "This page does not exist or was removed."}},
	{brew.ErrStatus, page.Problem{Status: http.StatusConflict, Title: "The brew has moved on",
		Text: "It was started, finished or stopped on another screen. Nothing was changed."}},
	{brew.ErrUnfinished, page.Problem{Status: http.StatusUnprocessableEntity, Title: "The recipe is incomplete",
		Text: "It has an invalid value. Go back to the recipe and correct the marked field."}},
	{yard.ErrNoGear, page.Problem{Status: http.StatusConflict, Title: "A recipe needs gear",
		Text: "Add a brewer, a grinder and a kettle under Gear first; then come back to the bag."}},
	{form.ErrMedia, page.Problem{Status: http.StatusUnsupportedMediaType, Title: "Not a form",
		Text: "Nothing was changed. Use the form on the page."}},
	{form.ErrMalformed, page.Problem{Status: http.StatusBadRequest, Title: "The form cannot be read",
		Text: "It is empty or damaged. Nothing was changed. Go back and send it again."}},
	{store.ErrConflict, page.Problem{Status: http.StatusConflict, Title: "Changed by someone else",
		Text: "It was changed in another window. Your change was not saved: open it again and repeat the change."}},
}

// explain returns the problem to show for an error. It logs errors that a person cannot fix under the ID of
// the request.
func (s *Server) explain(r *http.Request, err error) page.Problem {
	var tooLarge *http.MaxBytesError
	if errors.As(err, &tooLarge) {
		return page.Problem{Status: http.StatusRequestEntityTooLarge, Title: "The text is too long",
			Text: fmt.Sprintf("A form can have up to %d MB. Go back and shorten it.", maxBody>>20)}
	}
	var trouble *store.Trouble
	if errors.As(err, &trouble) {
		s.Yard.Log.Error("the database cannot be used", "method", r.Method, "path", r.URL.Path, "err", trouble, "behind", trouble.Err)
		p := page.Problem{Status: http.StatusServiceUnavailable, Title: "The database is unavailable", Text: "Try again in a moment."}
		if s.mayRead(r) { // file paths are not for strangers
			p.Text = trouble.Sentence
		}
		if r.Method == http.MethodPost {
			p.Text = "Nothing was saved. " + p.Text
		}
		return p
	}
	for _, known := range problems {
		if errors.Is(err, known.err) {
			return known.Problem
		}
	}
	id := middleware.GetReqID(r.Context())
	s.Yard.Log.Error("request failed", "id", id, "method", r.Method, "path", r.URL.Path, "err", err)
	return page.Problem{Status: http.StatusInternalServerError, Title: "Internal error",
		Text: "Saved data are not affected. Go back and try again. If it happens again, look for this ID in the log: " + id + "."}
}

// recoverPanics shows the error page if a handler panics.
func (s *Server) recoverPanics(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		defer func() {
			if v := recover(); v != nil {
				if v == http.ErrAbortHandler {
					panic(v)
				}
				s.site.Fail(w, r, fmt.Errorf("panic: %v\n%s", v, debug.Stack()))
			}
		}()
		next.ServeHTTP(w, r)
	})
}

package web

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"math"
	"net/http"
	"strconv"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"

	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/words"
)

// newSessions returns the session manager. The store has only the hash of a token. With TLS, also behind a proxy, the cookie requires it.
func (s *Server) newSessions() *scs.SessionManager {
	m := scs.New()
	m.Store, m.HashTokenInStore = s.Yard.Store.Sessions(), true
	m.Lifetime = 30 * 24 * time.Hour
	m.Cookie.Name, m.Cookie.SameSite, m.Cookie.HttpOnly = "yard", http.SameSiteLaxMode, true
	m.Cookie.Secure = len(s.Proxies) > 0 || s.TLS
	m.ErrorFunc = s.site.Fail
	return m
}

//go:embed signin.html
var signInFiles embed.FS

const signedIn = "signed-in"

// signInHeader marks the sign-in page.
const signInHeader = "Yard-Sign-In"

func (s *Server) signInRoutes(r chi.Router) {
	r.Use(s.sessions.LoadAndSave, s.needSignIn)
	r.Get("/sign-in", s.site.Handle(s.signIn))
	r.With(s.clientIP).Post("/sign-in", s.site.Handle(s.checkSignIn))
	r.Post("/sign-out", s.site.Handle(s.signOut))
}

// signOut ends a session, and the streams that were opened with it.
func (s *Server) signOut(w http.ResponseWriter, r *http.Request) error {
	token := s.sessions.Token(r.Context())
	if err := s.sessions.Destroy(r.Context()); err != nil {
		return err
	}
	s.Yard.Hub.Notify(topicOf(token))
	return page.SeeOther(w, r, "/sign-in")
}

// sessionTopic returns the topic of the hub under which the session of a request may end; empty
// without sign-in.
func (s *Server) sessionTopic(r *http.Request) string {
	if !s.SignIn {
		return ""
	}
	return topicOf(s.sessions.Token(r.Context()))
}

func topicOf(token string) string { return "session " + token }

// sessionValid reports whether the session of an earlier request is still valid: it may have been signed
// out, or ended by a new password.
func (s *Server) sessionValid(r *http.Request) bool {
	if !s.SignIn {
		return true
	}
	fresh, err := s.sessions.Load(context.Background(), s.sessions.Token(r.Context())) // the request's own context has an old copy of the session
	return err == nil && s.sessions.GetBool(fresh, signedIn)
}

func (s *Server) needSignIn(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		in := s.sessions.GetBool(r.Context(), signedIn)
		if r.URL.Path != "/sign-in" && !in {
			http.Redirect(w, r, "/sign-in", http.StatusSeeOther)
			return
		}
		next.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), readerKey{}, in)))
	})
}

type readerKey struct{}

// mayRead reports whether a request may see anything of the yard: it is signed in, or no sign-in is
// required.
func (s *Server) mayRead(r *http.Request) bool {
	in, _ := r.Context().Value(readerKey{}).(bool)
	return in || !s.SignIn
}

type signInBody struct{ Password form.Field }

func (s *Server) signIn(w http.ResponseWriter, r *http.Request) error {
	s.showSignIn(w, r, http.StatusOK, form.New())
	return nil
}

func (s *Server) showSignIn(w http.ResponseWriter, r *http.Request, status int, f *form.Form) {
	w.Header().Set(signInHeader, "asked") // the service worker then drops the pages that it holds
	e := f.Entry("password", "The yard’s password")
	e.Kind, e.Value, e.Autofocus = "password", "", true
	s.signIns.Render(w, r, status, "signin", page.Page{Title: "Sign in", Side: "signin", Body: signInBody{e}})
}

func (s *Server) checkSignIn(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	from := network(middleware.GetClientIPAddr(r.Context()))
	if wait := s.limiter.begin(from, s.Yard.Now()); wait > 0 {
		w.Header().Set("Retry-After", strconv.Itoa(int(math.Ceil(wait.Seconds()))))
		return page.Problem{Status: http.StatusTooManyRequests, Title: "Too many tries",
			Text: fmt.Sprintf("Wait %s, then type the password again. Each wrong one makes the wait longer.", words.Wait(wait))}
	}
	kept := page.Settings(r).Password
	page.LeaveQueue(r) // a check takes long, and other requests need not wait for it
	fits, dated, err := passwordFits(r.Context(), f.Values["password"], kept)
	switch {
	case errors.Is(err, errCheckBusy):
		s.limiter.forgive(from)
		w.Header().Set("Retry-After", "5")
		return page.Problem{Status: http.StatusServiceUnavailable, Title: "Too many people sign in at once",
			Text: "Try again in a few seconds."}
	case err != nil && r.Context().Err() != nil: // the browser has gone
		s.limiter.forgive(from)
		return nil
	case err != nil:
		return err
	}
	if !fits {
		f.Fail("password", "That is not the yard’s password.")
		s.showSignIn(w, r, http.StatusUnauthorized, f)
		return nil
	}
	s.limiter.succeeded(from)
	if dated {
		if err := s.Yard.Store.RenewPassword(r.Context(), kept, HashPassword(f.Values["password"])); err != nil {
			return err
		}
	}
	if err := s.sessions.RenewToken(r.Context()); err != nil {
		return err
	}
	s.sessions.Put(r.Context(), signedIn, true)
	return page.SeeOther(w, r, "/")
}

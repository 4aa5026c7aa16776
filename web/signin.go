package web

import (
	"context"
	"fmt"
	"math"
	"net/http"
	"strconv"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"

	"yardbloom/web/form"
	"yardbloom/web/words"
)

// newSessions keeps who has signed in: of a token the store has the hash alone. Behind
// a proxy with TLS the cookie goes over TLS only.
func (s *Server) newSessions() *scs.SessionManager {
	m := scs.New()
	m.Store, m.HashTokenInStore = s.Store.Sessions(), true
	m.Lifetime = 30 * 24 * time.Hour
	m.Cookie.Name, m.Cookie.SameSite, m.Cookie.HttpOnly = "yard", http.SameSiteLaxMode, true
	m.Cookie.Secure = len(s.Proxies) > 0
	m.ErrorFunc = s.fail
	return m
}

const signedIn = "signed-in"

func (s *Server) signInRoutes(r chi.Router) {
	r.Use(s.sessions.LoadAndSave, s.needSignIn)
	r.Get("/sign-in", s.handle(s.signIn))
	r.With(s.clientIP).Post("/sign-in", s.handle(s.checkSignIn))
	r.Post("/sign-out", s.handle(s.signOut))
}

// signOut ends a session, and the streams that were opened with it.
func (s *Server) signOut(w http.ResponseWriter, r *http.Request) error {
	token := s.sessions.Token(r.Context())
	if err := s.sessions.Destroy(r.Context()); err != nil {
		return err
	}
	s.live.Tell(ofSession(token))
	return seeOther(w, r, "/sign-in")
}

// ofSession is the topic under which the streams of a session hear that it may have ended.
func ofSession(token string) string { return "session " + token }

// stillIn says whether the session of a request that began earlier still stands: it
// may have been signed out, or ended by a new password.
func (s *Server) stillIn(r *http.Request) bool {
	if !s.SignIn {
		return true
	}
	fresh, err := s.sessions.Load(context.Background(), s.sessions.Token(r.Context())) // the request's own context has the session as it was
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

// mayRead says whether a page may say anything of the yard: to everybody where no
// sign-in is asked for, else to who has signed in.
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
	e := f.Entry("password", "The yard’s password")
	e.Kind, e.Value, e.Autofocus = "password", "", true
	s.render(w, r, status, "signin", page{Title: "Sign in", Side: "signin", Body: signInBody{e}})
}

func (s *Server) checkSignIn(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	from := network(middleware.GetClientIPAddr(r.Context()))
	if wait := s.tries.begin(from, s.Now()); wait > 0 {
		w.Header().Set("Retry-After", strconv.Itoa(int(math.Ceil(wait.Seconds()))))
		return problem{http.StatusTooManyRequests, "Too many tries", fmt.Sprintf("Wait %s, then type the password again. Each wrong one makes the wait longer.", words.Wait(wait))}
	}
	kept := settingsOf(r).Password
	fits, dated, err := passwordFits(f.Values["password"], kept)
	if err != nil {
		return err
	}
	if !fits {
		f.Fail("password", "That is not the yard’s password.")
		s.showSignIn(w, r, http.StatusUnauthorized, f)
		return nil
	}
	s.tries.succeeded(from)
	if dated {
		if err := s.Store.RenewPassword(r.Context(), kept, HashPassword(f.Values["password"])); err != nil {
			return err
		}
	}
	if err := s.sessions.RenewToken(r.Context()); err != nil {
		return err
	}
	s.sessions.Put(r.Context(), signedIn, true)
	return seeOther(w, r, "/")
}

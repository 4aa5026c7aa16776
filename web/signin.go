package web

import (
	"context"
	"net/http"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/go-chi/httprate"

	"yardbloom/store"
	"yardbloom/web/form"
)

// newSessions keeps who has signed in. Behind a proxy with TLS the cookie goes over TLS only.
func newSessions(st *store.Store, secure bool) *scs.SessionManager {
	m := scs.New()
	m.Store = st.Sessions()
	m.Lifetime = 30 * 24 * time.Hour
	m.Cookie.Name, m.Cookie.SameSite, m.Cookie.HttpOnly = "yard", http.SameSiteLaxMode, true
	m.Cookie.Secure = secure
	return m
}

const signedIn = "signed-in"

func (s *Server) signInRoutes(r chi.Router) {
	r.Use(s.sessions.LoadAndSave, s.needSignIn)
	const tries = 10
	r.Get("/sign-in", s.handle(s.signIn))
	limit := httprate.LimitBy(tries, time.Minute, func(r *http.Request) (string, error) {
		return httprate.CanonicalizeIP(middleware.GetClientIP(r.Context())), nil
	}, httprate.WithLimitHandler(s.handle(func(http.ResponseWriter, *http.Request) error {
		return problem{http.StatusTooManyRequests, "Too many tries", "Wait a minute, then type the password again."}
	})))
	r.With(s.clientIP, limit).Post("/sign-in", s.handle(s.checkSignIn))
	r.Post("/sign-out", s.handle(func(w http.ResponseWriter, r *http.Request) error {
		if err := s.sessions.Destroy(r.Context()); err != nil {
			return err
		}
		return seeOther(w, r, "/sign-in")
	}))
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
	fits, err := passwordFits(f.Values["password"], settingsOf(r).Password)
	if err != nil {
		return err
	}
	if !fits {
		f.Fail("password", "That is not the yard’s password.")
		s.showSignIn(w, r, http.StatusUnauthorized, f)
		return nil
	}
	if err := s.sessions.RenewToken(r.Context()); err != nil {
		return err
	}
	s.sessions.Put(r.Context(), signedIn, true)
	return seeOther(w, r, "/")
}

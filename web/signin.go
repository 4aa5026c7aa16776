package web

import (
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/go-chi/httprate"
	"golang.org/x/crypto/argon2"

	"yardbloom/store"
)

// The cost of a password: the second recommended option of RFC 9106.
const (
	argonTime    = 3
	argonMemory  = 64 << 10 // KiB
	argonThreads = 4
	argonKey     = 32
)

// HashPassword encodes a password with argon2id and a salt of its own.
func HashPassword(password string) string {
	salt := make([]byte, 16)
	rand.Read(salt) // never fails
	b64 := base64.RawStdEncoding.EncodeToString
	return b64(salt) + "." + b64(argon2.IDKey([]byte(password), salt, argonTime, argonMemory, argonThreads, argonKey))
}

func passwordFits(password, encoded string) (bool, error) {
	saltText, keyText, found := strings.Cut(encoded, ".")
	salt, err1 := base64.RawStdEncoding.DecodeString(saltText)
	key, err2 := base64.RawStdEncoding.DecodeString(keyText)
	if err := errors.Join(err1, err2); err != nil || !found {
		return false, fmt.Errorf("the kept password cannot be read: %v", err)
	}
	got := argon2.IDKey([]byte(password), salt, argonTime, argonMemory, argonThreads, argonKey)
	return subtle.ConstantTimeCompare(got, key) == 1, nil
}

func newSessions(st *store.Store) *scs.SessionManager {
	m := scs.New()
	m.Store = st.Sessions()
	m.Lifetime = 30 * 24 * time.Hour
	m.Cookie.Name, m.Cookie.SameSite, m.Cookie.HttpOnly = "yard", http.SameSiteLaxMode, true
	return m
}

const signedIn = "signed-in"

func (s *Server) signInRoutes(r chi.Router) {
	r.Use(s.sessions.LoadAndSave, s.needSignIn)
	const tries = 10
	r.Get("/sign-in", s.handle(s.signIn))
	r.With(middleware.ClientIPFromRemoteAddr, httprate.LimitBy(tries, time.Minute, func(r *http.Request) (string, error) {
		return httprate.CanonicalizeIP(middleware.GetClientIP(r.Context())), nil
	})).Post("/sign-in", s.handle(s.checkSignIn))
	r.Post("/sign-out", s.handle(func(w http.ResponseWriter, r *http.Request) error {
		if err := s.sessions.Destroy(r.Context()); err != nil {
			return err
		}
		return seeOther(w, r, "/sign-in")
	}))
}

func (s *Server) needSignIn(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path != "/sign-in" && !s.sessions.GetBool(r.Context(), signedIn) {
			http.Redirect(w, r, "/sign-in", http.StatusSeeOther)
			return
		}
		next.ServeHTTP(w, r)
	})
}

type signInBody struct{ Password field }

func (s *Server) signIn(w http.ResponseWriter, r *http.Request) error {
	s.showSignIn(w, r, http.StatusOK, newForm())
	return nil
}

func (s *Server) showSignIn(w http.ResponseWriter, r *http.Request, status int, f *form) {
	e := f.entry("password", "The yard’s password")
	e.Kind, e.Value, e.Autofocus = "password", "", true
	s.render(w, r, status, "signin", page{Title: "Sign in", Side: "signin", Body: signInBody{e}})
}

func (s *Server) checkSignIn(w http.ResponseWriter, r *http.Request) error {
	f, err := readForm(r)
	if err != nil {
		return err
	}
	set, err := s.Store.Settings(r.Context())
	if err != nil {
		return err
	}
	fits, err := passwordFits(f.Values["password"], set.Password)
	if err != nil {
		return err
	}
	if !fits {
		f.fail("password", "That is not the yard’s password.")
		s.showSignIn(w, r, http.StatusUnauthorized, f)
		return nil
	}
	if err := s.sessions.RenewToken(r.Context()); err != nil {
		return err
	}
	s.sessions.Put(r.Context(), signedIn, true)
	return seeOther(w, r, "/")
}

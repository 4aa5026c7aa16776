// Package web serves the product in a browser: it wires routes, middleware and sign-in. The
// screens are in its subpackages, one for each feature.
package web

import (
	"cmp"
	"embed"
	"fmt"
	"io/fs"
	"net/http"
	"net/netip"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"

	"yardbloom/api"
	"yardbloom/store"
	"yardbloom/web/book"
	"yardbloom/web/brew"
	"yardbloom/web/cup"
	"yardbloom/web/data"
	"yardbloom/web/first"
	"yardbloom/web/flight"
	"yardbloom/web/gear"
	"yardbloom/web/help"
	"yardbloom/web/learned"
	"yardbloom/web/log"
	"yardbloom/web/next"
	"yardbloom/web/offline"
	"yardbloom/web/page"
	"yardbloom/web/people"
	"yardbloom/web/practice"
	"yardbloom/web/recipe"
	"yardbloom/web/rush"
	"yardbloom/web/settings"
	"yardbloom/web/setup"
	"yardbloom/web/shelf"
	"yardbloom/web/stage"
	"yardbloom/web/station"
	"yardbloom/web/stream"
	"yardbloom/web/trial"
	"yardbloom/yard"
)

//go:embed trust.html
var trustFiles embed.FS

//go:embed all:static
var staticFiles embed.FS

// Config describes a Server. Yard is required.
type Config struct {
	Yard *yard.Yard
	// SignIn asks for the yard's password before anything is shown.
	SignIn bool
	// Hosts are the names, besides loopback addresses, under which requests are answered; nil for
	// any. It protects against DNS rebinding.
	Hosts []string
	// Proxies are the trusted reverse proxies, whose forwarding headers count.
	Proxies []netip.Addr
	// TLS is true if the server itself serves HTTPS.
	TLS bool
	// Authority is the certificate of the local authority, PEM, for tablets that shall trust it; nil for none.
	Authority []byte
	// FormTimeout is the time in which a form must arrive; 0: 10 s.
	FormTimeout time.Duration
	// DiskFree returns the room on the disk with the yard, bytes; nil: as the machine says.
	DiskFree func() (uint64, error)
	// Walk shows the walk through the demo yard.
	Walk bool
	// Heartbeat is the interval of events on an idle stream; 0: 10 s.
	Heartbeat time.Duration
}

// A Server serves the interface. It is safe for concurrent use.
type Server struct {
	Config
	site        *page.Site
	static      *static
	sessions    *scs.SessionManager // nil without sign-in
	signIns     *page.Views
	trusts      *page.Views
	limiter     signInLimiter
	submissions submissions
	uploads     chan struct{} // as many as there are uploads
	router      chi.Router
	programs    *api.Server
}

// New returns a server of a yard. The caller closes the yard.
func New(c Config) (*Server, error) {
	files, err := fs.Sub(staticFiles, "static")
	if err != nil {
		return nil, err
	}
	s := &Server{Config: c, uploads: make(chan struct{}, maxUploads)}
	if s.DiskFree = c.DiskFree; s.DiskFree == nil {
		s.DiskFree = c.Yard.Store.Free
	}
	s.FormTimeout, s.Heartbeat = cmp.Or(c.FormTimeout, 10*time.Second), cmp.Or(c.Heartbeat, 10*time.Second)
	if s.static, err = newStatic(files); err != nil {
		return nil, fmt.Errorf("static files: %w", err)
	}
	s.site = page.New(page.Config{Log: c.Yard.Log, Asset: s.static.url, Explain: s.explain, MayRead: s.mayRead, Now: c.Yard.Now, Demo: c.Yard.Demo,
		SignIn: c.SignIn, Walk: c.Walk})
	s.trusts = s.site.Views(trustFiles)
	if c.SignIn {
		s.sessions, s.signIns = s.newSessions(), s.site.Views(signInFiles)
	}
	s.programs = api.New(c.Yard, page.LeaveQueue, s.Heartbeat)
	s.router = s.routes()
	return s, nil
}

// ServeHTTP handles a request.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.router.ServeHTTP(w, r) }

// Routes returns the routes, for tests that visit all of them.
func (s *Server) Routes() chi.Routes { return s.router }

func (s *Server) routes() chi.Router {
	r := chi.NewRouter()
	r.Use(s.health, middleware.RequestID, s.logRequests, s.recoverPanics, securityHeaders, markAnswers, s.knownHost, s.sameOrigin, s.limitBody,
		middleware.Compress(5), middleware.GetHead, s.limitDownloads(maxDownloads, queueTime))
	notFound := s.site.Handle(func(http.ResponseWriter, *http.Request) error { return store.ErrNotFound })
	r.NotFound(notFound)
	r.MethodNotAllowed(s.site.Handle(func(w http.ResponseWriter, req *http.Request) error {
		for _, method := range []string{http.MethodGet, http.MethodHead, http.MethodPost} {
			if r.Match(chi.NewRouteContext(), strings.Replace(method, http.MethodHead, http.MethodGet, 1), req.URL.Path) {
				w.Header().Add("Allow", method)
			}
		}
		return page.Problem{Status: http.StatusMethodNotAllowed, Title: "Not allowed",
			Text: "Go back and use the buttons on the page."}
	}))
	r.Get("/static/*", func(w http.ResponseWriter, r *http.Request) {
		if !s.static.serve(w, r) {
			notFound(w, r)
		}
	})
	r.Get("/sw.js", s.static.serveWorker)
	r.Get("/manifest.webmanifest", s.static.serveManifest)
	limited := s.limitConcurrency(maxConcurrent, queueTime)
	r.With(limited).Mount(api.Prefix, http.StripPrefix(api.Prefix, s.programs))
	r.Group(func(r chi.Router) {
		r.Use(limited, s.once, s.withSettings)
		if s.SignIn {
			s.signInRoutes(r)
		}
		s.screens(page.Router{Router: r, Site: s.site})
	})
	return r
}

// screens registers the screens of all features.
func (s *Server) screens(r page.Router) {
	site, y := s.site, s.Yard
	streams := stream.New(stream.Config{Site: site, Hub: y.Hub, Heartbeat: s.Heartbeat, Opened: page.LeaveQueue, SessionTopic: s.sessionTopic,
		SessionValid: s.sessionValid})
	recipes, brews, records, persons := recipe.New(site, y, len(s.Proxies) > 0), brew.New(site, y, streams), log.New(site, y), people.New(site, y)
	r.Route("/brews/{id}", func(sub chi.Router) {
		sub.Use(station.WithScene(site, y))
		of := page.Router{Router: sub, Site: site}
		records.BrewRoutes(of)
		recipes.BrewRoutes(of)
		setup.New(site, y).BrewRoutes(of)
		brews.BrewRoutes(of)
		cup.New(site, y).BrewRoutes(of)
		next.New(site, y).BrewRoutes(of)
		persons.BrewRoutes(of)
	})
	brews.Routes(r)
	first.New(site, y).Routes(r)
	shelf.New(site, y).Routes(r)
	offline.New(site, y, s.static.urls()).Routes(r)
	recipes.Routes(r)
	records.Routes(r)
	book.New(site, y).Routes(r)
	gear.New(site, y).Routes(r)
	rush.New(site, y, streams).Routes(r)
	flight.New(site, y).Routes(r)
	trial.New(site, y).Routes(r)
	stage.New(site, y, streams).Routes(r)
	practice.New(site, y, streams).Routes(r)
	learned.New(site, y).Routes(r)
	settings.New(site, y).Routes(r)
	data.New(site, y).Routes(r)
	persons.Routes(r)
	help.New(site, y).Routes(r)
	r.Page("/trust", s.trust)
	r.Page("/trust/authority.crt", s.authority)
}

// withSettings loads the settings of the yard into the request.
func (s *Server) withSettings(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		set, err := s.Yard.Store.Settings(r.Context(), page.Here(r))
		if err != nil {
			s.site.Fail(w, r, fmt.Errorf("settings: %w", err))
			return
		}
		next.ServeHTTP(w, page.WithSettings(r, set))
	})
}

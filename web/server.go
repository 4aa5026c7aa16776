// Package web is the product's interface: routes and handlers, one file per
// screen. A handler reads the request, asks the store and the core, fills one
// view model and renders one template.
package web

import (
	"embed"
	"io/fs"
	"log/slog"
	"net/http"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"

	"yardbloom/store"
)

//go:embed templates/*.html
var templateFiles embed.FS

//go:embed all:static
var staticFiles embed.FS

// Config is what a server is made of.
type Config struct {
	Store *store.Store
	Log   *slog.Logger
	// Now is the one place where time enters.
	Now func() time.Time
	// SignIn asks for the yard's password before anything else is shown.
	SignIn bool
	// Demo says on every page that the data is made up.
	Demo bool
}

// A Server serves the interface.
type Server struct {
	Config
	pages    *pages
	static   *static
	live     *hub
	sessions *scs.SessionManager
	handler  http.Handler
}

// New builds the server and its routes.
func New(c Config) (*Server, error) {
	files, err := fs.Sub(staticFiles, "static")
	if err != nil {
		return nil, err
	}
	s := &Server{Config: c, live: newHub()}
	if s.static, err = newStatic(files); err != nil {
		return nil, err
	}
	if s.pages, err = newPages(s.static); err != nil {
		return nil, err
	}
	if c.SignIn {
		s.sessions = newSessions(c.Store)
	}
	s.handler = s.routes()
	return s, nil
}

// ServeHTTP answers a request.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.handler.ServeHTTP(w, r) }

// Close ends the streams to open screens, so that a shutdown need not wait for them.
func (s *Server) Close() { s.live.close() }

func (s *Server) routes() http.Handler {
	r := chi.NewRouter()
	r.Use(middleware.RequestID, s.logRequests, s.recoverPanics, securityHeaders, middleware.RequestSize(maxBody))
	r.Use(s.sameOrigin)
	r.NotFound(s.handle(func(http.ResponseWriter, *http.Request) error { return store.ErrNotFound }))
	r.MethodNotAllowed(func(w http.ResponseWriter, r *http.Request) {
		s.fail(w, r, problem{http.StatusMethodNotAllowed, "That cannot be done here", "Go back and use the buttons of the page."})
	})
	r.Handle("/static/*", s.static)

	r.Group(func(r chi.Router) {
		if s.SignIn {
			s.signInRoutes(r)
		}
		get := func(path string, h handler) { r.Get(path, s.handle(h)) }
		post := func(path string, h handler) { r.Post(path, s.handle(h)) }

		get("/", s.shelf)
		get("/bags/new", s.newBag)
		post("/bags", s.addBag)
		get("/bags/{id}", s.bag)
		post("/bags/{id}", s.saveBag)
		post("/bags/{id}/delete", s.deleteBag)
		post("/bags/{id}/restore", s.restoreBag)
		post("/bags/{id}/brew", s.planBrew)

		get("/brews/{id}", s.report)
		get("/brews/{id}/recipe", s.recipe)
		get("/brews/{id}/recipe.json", s.recipeFile)
		post("/brews/{id}/recipe", s.saveRecipe)
		post("/brews/{id}/solve", s.solve)
		get("/brews/{id}/setup", s.setup)
		post("/brews/{id}/setup", s.saveSetup)
		get("/brews/{id}/brew", s.pour)
		post("/brews/{id}/start", s.start)
		post("/brews/{id}/touch", s.touch)
		get("/brews/{id}/live", s.stream)
		post("/brews/{id}/abandon", s.abandon)
		post("/brews/{id}/resume", s.resume)
		get("/brews/{id}/cup", s.cup)
		post("/brews/{id}/cup", s.saveCup)
		get("/brews/{id}/next", s.next)
		post("/brews/{id}/again", s.again)

		get("/log", s.brewLog)
		get("/gear", s.gear)
		get("/gear/{kind}/{id}", s.gearForm)
		post("/gear/{kind}/{id}", s.saveGear)
		post("/gear/{kind}/{id}/{what:retire|restore}", s.retireGear)
		get("/settings", s.settings)
		post("/settings", s.saveSettings)
		post("/theme", s.theme)
		get("/keys", s.keys)
	})
	return r
}

// maxBody is the largest form that is read, bytes.
const maxBody = 256 << 10

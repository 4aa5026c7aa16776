// Package web is the product's interface: routes and handlers, one file per
// screen. A handler reads the request, asks the store and the core, fills one
// view model and renders one template.
package web

import (
	"context"
	"embed"
	"errors"
	"io/fs"
	"log/slog"
	"net/http"
	"net/netip"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"

	"yardbloom/device"
	"yardbloom/live"
	"yardbloom/store"
	"yardbloom/teach"
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
	// Uptime runs evenly while the wall clock may be set; nil where there is only that one.
	Uptime func() time.Duration
	// SignIn asks for the yard's password before anything else is shown.
	SignIn bool
	// Hosts are the names, beside loopback addresses, under which requests are
	// answered; nil for any. A site that points its own name here is answered no page.
	Hosts []string
	// Proxies are in front: what they say of where a request comes from counts.
	Proxies []netip.Addr
	// Demo says on every page that the data is made up.
	Demo bool
}

// A Server serves the interface.
type Server struct {
	Config
	pages       *pages
	static      *static
	live        *live.Hub
	owners      *live.Owners
	bench       *device.Bench
	under       *under
	watch       *stopwatch
	sessions    *scs.SessionManager
	tries       tries
	advising    sync.Mutex // held while an advice is thought out
	teacher     *teach.Teacher
	cupsPlans   cupsPlans
	submissions submissions
	streamSlots chan struct{} // one for each open stream
	bodyTime    time.Duration // how long a form may take to arrive
	worker      http.HandlerFunc
	router      chi.Router
}

// New builds the server and its routes.
func New(c Config) (*Server, error) {
	files, err := fs.Sub(staticFiles, "static")
	if err != nil {
		return nil, err
	}
	s := &Server{Config: c, live: live.NewHub(), watch: &stopwatch{uptime: c.Uptime, seen: map[string]reading{}, speeds: map[string]hurried{}}, bench: &device.Bench{}, under: &under{brews: map[string]string{}}, streamSlots: make(chan struct{}, mostStreams), bodyTime: bodyTime}
	if s.static, err = newStatic(files); err != nil {
		return nil, err
	}
	s.worker = s.static.worker(files)
	if s.pages, err = newPages(s.static); err != nil {
		return nil, err
	}
	if s.teacher, err = teach.New(c.Store, c.Log, c.Now, c.Demo); err != nil {
		return nil, err
	}
	if c.SignIn {
		s.sessions = s.newSessions()
	}
	s.owners = s.newOwners()
	if err := errors.Join(s.connect(context.Background()), s.resumeScales(context.Background())); err != nil {
		return nil, err
	}
	s.router = s.routes()
	return s, nil
}

// ServeHTTP answers a request.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.router.ServeHTTP(w, r) }

// Routes are the routes of the interface, to be walked.
func (s *Server) Routes() chi.Routes { return s.router }

// Close ends the streams to open screens and what goes on in the background, so that a
// shutdown need not wait for them.
func (s *Server) Close() {
	s.live.Close()
	s.bench.Close()
	s.owners.Close()
	s.teacher.Close()
}

func (s *Server) routes() chi.Router {
	r := chi.NewRouter()
	r.Use(middleware.RequestID, s.logRequests, s.recoverPanics, securityHeaders, s.knownHost, s.sameOrigin, s.wholeBody, middleware.Compress(5), middleware.GetHead)
	nothing := s.handle(func(http.ResponseWriter, *http.Request) error { return store.ErrNotFound })
	r.NotFound(nothing)
	r.MethodNotAllowed(s.handle(func(w http.ResponseWriter, req *http.Request) error {
		for _, method := range []string{http.MethodGet, http.MethodHead, http.MethodPost} {
			if r.Match(chi.NewRouteContext(), strings.Replace(method, http.MethodHead, http.MethodGet, 1), req.URL.Path) {
				w.Header().Add("Allow", method)
			}
		}
		return problem{http.StatusMethodNotAllowed, "That cannot be done here", "Go back and use the buttons of the page."}
	}))
	r.Get("/static/*", func(w http.ResponseWriter, r *http.Request) {
		if !s.static.serve(w, r) {
			nothing(w, r)
		}
	})
	r.Get("/sw.js", s.worker)
	r.Group(func(r chi.Router) {
		r.Use(s.atOnce(mostAtOnce, queueTime), s.once, s.withSettings)
		if s.SignIn {
			s.signInRoutes(r)
		}
		s.shelfRoutes(routing{s, r})
		r.Route("/brews/{id}", func(r chi.Router) {
			r.Use(s.withScene)
			s.brewRoutes(routing{s, r})
		})
		s.sideRoutes(routing{s, r})
	})
	return r
}

// routing registers handlers that return errors.
type routing struct {
	s *Server
	chi.Router
}

func (r routing) get(path string, h handler)  { r.Get(path, r.s.handle(h)) }
func (r routing) post(path string, h handler) { r.Post(path, r.s.handle(h)) }

func (s *Server) shelfRoutes(r routing) {
	r.get("/", s.shelf)
	r.get("/bags/new", s.newBag)
	r.post("/bags", s.addBag)
	r.get("/bags/{id}", s.bag)
	r.post("/bags/{id}", s.saveBag)
	r.post("/bags/{id}/delete", s.deleteBag)
	r.post("/bags/{id}/count", s.countBag)
	r.get("/bags/{id}/wish", s.wish)
	r.post("/bags/{id}/wish", s.wishFor)
	r.post("/bags/{id}/freeze", s.freezePortion)
	r.post("/bags/{id}/thaw", s.thawBag)
	r.post("/bags/{id}/restore", s.restoreBag)
	r.post("/bags/{id}/brew", s.goOn)
	r.post("/bags/{id}/recipes", s.addRecipeFile)
	r.post("/recipes/{id}/restore", s.takeBack)
}

func (s *Server) brewRoutes(r routing) {
	r.get("/", s.report)
	r.get("/recipe", s.recipe)
	r.get("/recipe.json", s.recipeFile)
	r.get("/trace.csv", s.traceFile)
	r.get("/card", s.card)
	r.get("/card.html", s.cardFile)
	r.post("/recipe", s.saveRecipe)
	r.post("/solve", s.solve)
	r.post("/scale", s.scale)
	r.post("/keep", s.keepRecipe)
	r.post("/copy", s.copyRecipe)
	r.post("/discard", s.discardRecipe)
	r.get("/setup", s.setup)
	r.post("/setup", s.saveSetup)
	r.post("/gave", s.gave)
	r.get("/brew", s.pour)
	r.post("/start", s.start)
	r.post("/touch", s.touch)
	r.get("/live", s.stream)
	r.post("/weigh", s.weigh)
	r.post("/heat", s.heat)
	r.post("/watch", s.watchPoured)
	r.post("/undo", s.undoEnd)
	r.post("/abandon", s.abandon)
	r.post("/resume", s.resume)
	r.get("/cup", s.cup)
	r.post("/cup", s.saveCup)
	r.get("/next", s.next)
	r.post("/again", s.brewAgain)
	r.post("/answer", s.answer)
}

func (s *Server) sideRoutes(r routing) {
	r.get("/log", s.brewLog)
	r.get("/book", s.book)
	r.get("/book.json", s.bookFile)
	r.post("/book", s.importBook)
	r.post("/book/{id}/{what:favour|unfavour}", s.favour)
	r.post("/book/{id}/{what:archive|restore}", s.archive)
	r.get("/r/{code}", s.short)
	r.get("/side", s.side)
	r.post("/side", s.addFlight)
	r.get("/side/{id}", s.flight)
	r.get("/side/{id}/pourer", s.pourer)
	r.post("/side/{id}/taste", s.tasteFlight)
	r.post("/side/{id}/{step:round|pick|reveal}", s.stepFlight)
	r.get("/trials", s.trials)
	r.post("/trials", s.addTrial)
	r.get("/trials/{id}", s.trial)
	r.post("/trials/{id}/found", s.foundInTrial)
	r.post("/trials/{id}/brew", s.brewTrial)
	r.post("/trials/{id}/end", s.endTrial)
	r.get("/rush", s.rushes)
	r.post("/rush", s.addRush)
	r.get("/rush/{id}", s.rush)
	r.get("/rush/{id}/live", s.rushStream)
	r.post("/rush/{id}/start", s.startRush)
	r.post("/rush/{id}/go/{n}", s.goRush)
	r.post("/rush/{id}/end", s.endRush)
	r.post("/rush/{id}/filled", s.fillRush)
	r.post("/rush/{id}/more", s.moreRush)
	r.post("/rush/{id}/{what:aside|back}", s.putAside(store.RushAside, "/rush"))
	r.get("/stage", s.stages)
	r.post("/stage", s.addScript)
	r.get("/stage/{id}", s.script)
	r.post("/stage/{id}", s.saveScript)
	r.get("/stage/{id}/show", s.show)
	r.get("/stage/{id}/prompt", s.show)
	r.get("/stage/{id}/live", s.showStream)
	r.post("/stage/{id}/{step:begin|said|end}", s.showStep)
	r.post("/stage/{id}/{what:aside|back}", s.putAside(store.ScriptAside, "/stage"))
	r.get("/practice", s.practice)
	r.post("/practice/tries/{id}/{what:aside|back}", s.putAside(store.TryAside, "/practice"))
	r.get("/practice/{lesson}", s.lesson)
	r.post("/practice/{lesson}", s.keepTry)
	r.get("/practice/{lesson}/live", s.practiceStream)
	r.get("/gear", s.gear)
	r.get("/gear/{kind}/{id}", s.gearForm)
	r.post("/gear/{kind}/{id}", s.saveGear)
	r.post("/gear/{kind}/{id}/{what:retire|restore}", s.retireGear)
	r.post("/gear/grinders/{id}/zero", s.zeroGrinder)
	r.get("/water", s.mixWater)
	r.get("/learned", s.learned)
	r.post("/learned/{id}/{what:out|in}", s.judge)
	r.get("/schools", s.schools)
	r.post("/schools", s.saveHabits)
	r.get("/settings", s.settings)
	r.post("/settings", s.saveSettings)
	r.post("/theme", s.theme)
	r.get("/keys", s.keys)
	r.get("/glossary", s.glossary)
}

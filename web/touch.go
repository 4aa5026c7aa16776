package web

import (
	"cmp"
	"context"
	"crypto/rand"
	"errors"
	"net/http"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/form"
)

// start begins the pouring: from this second the brew is kept. Beginning it again leads
// to the brew as it is. A screen that had no server says how long ago the first water was.
func (s *Server) start(w http.ResponseWriter, r *http.Request) error {
	sc := sceneOf(r)
	if err := sc.onLine(); err != nil {
		return err
	}
	if sc.draft != nil && !sc.editable() {
		return brew.ErrStatus
	}
	key, ago := rand.Text(), time.Duration(0)
	if r.ContentLength != 0 {
		f, err := form.Read(r)
		if err != nil && !errors.Is(err, form.ErrMalformed) {
			return err
		}
		if err == nil {
			key = cmp.Or(f.Text("key", "The key", 64, false), key)
			if ago, err = agoOf(f.Values["ago"]); err != nil {
				return err
			}
		}
	}
	if _, err := s.begin(r.Context(), sc.ID, key, ago); err != nil {
		return err
	}
	if isPartial(r) {
		next, err := s.loadScene(r, sc.ID)
		if err != nil {
			return err
		}
		s.showPour(w, r, next)
		return nil
	}
	return seeOther(w, r, "/brews/%s/brew", sc.ID)
}

// longestAgo is how long ago a brew can have begun that a screen says it began without the server.
const longestAgo = 12 * time.Hour

// agoOf reads how long ago the first water was, in seconds.
func agoOf(said string) (time.Duration, error) {
	if said == "" {
		return 0, nil
	}
	ago, err := units.ParseNumber(said, "")
	if err != nil || !(ago >= 0 && ago <= longestAgo.Seconds()) {
		return 0, problem{http.StatusBadRequest, "That start was not understood", "Load the page again."}
	}
	return time.Duration(ago * float64(time.Second)), nil
}

// begin begins a recipe in the making, with its first water so long ago.
func (s *Server) begin(ctx context.Context, id, key string, ago time.Duration) (brew.Brew, error) {
	b, err := s.Store.Begin(ctx, id, brew.Event{Key: key, Kind: brew.Start, Instant: s.Now().Add(-ago)}, s.teacher.Believe)
	if err != nil {
		return b, err
	}
	s.watch.now(&b, s.Now())
	s.owners.Begun(ctx, id)
	s.live.Tell(id)
	return b, nil
}

// apply adds an event to the brew of the request and tells its screens.
func (s *Server) apply(r *http.Request, e brew.Event) (*scene, error) {
	sc := sceneOf(r)
	b, err := s.owners.Apply(r.Context(), sc.ID, e)
	if errors.Is(err, store.ErrNotFound) { // not begun yet
		err = brew.ErrStatus
	}
	if err != nil {
		return sc, err
	}
	next := *sc
	s.attend(r, &b.Sheet)
	next.brew, next.Sheet = &b, &b.Sheet
	return &next, nil
}

// touch keeps one touch of the running brew. A script sends it with its own
// key and time and gets the changed part back; a plain form goes on to the page.
func (s *Server) touch(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	sc := sceneOf(r)
	e := brew.Event{Key: f.Text("key", "The key", 64, true), Kind: brew.EventKind(f.Values["kind"]), Mark: cup.Mark(f.Values["mark"])}
	if sc.brew != nil {
		e.At = sc.brew.Elapsed(s.watch.now(sc.brew, s.Now()))
	}
	if said := f.Values["at"]; said != "" {
		at, err := units.ParseNumber(said, "")
		if err != nil {
			f.Fail("at", "%v", err)
		}
		e.At = units.Seconds(at)
	}
	if !f.OK() || !e.Valid() || !e.Kind.Touch() && e.Kind != brew.Undo {
		return problem{http.StatusBadRequest, "That touch was not understood", "Load the page again. The brew goes on, nothing is lost."}
	}
	sc, err = s.apply(r, e)
	if err != nil {
		return err
	}
	if !isPartial(r) {
		return seeOther(w, r, "/brews/%s/brew", sc.ID)
	}
	s.write(w, http.StatusOK, "pour", "live", s.pourBody(sc))
	return nil
}

// undoEnd takes the tap back that ended a brew.
func (s *Server) undoEnd(w http.ResponseWriter, r *http.Request) error {
	return s.turnTo(w, r, brew.Event{Kind: brew.Undo}, "/brews/%s/brew")
}

// abandon gives a running brew up. It stays in the log as stopped, with the reason where
// one was given.
func (s *Server) abandon(w http.ResponseWriter, r *http.Request) error {
	reason := r.FormValue("reason")
	if len(reason) > 200 {
		return problem{http.StatusUnprocessableEntity, "That reason is too long", "Up to 200 letters. The brew goes on."}
	}
	return s.turnTo(w, r, brew.Event{Kind: brew.Abandon, Note: reason}, "/brews/%s")
}

// resume takes a stop back: the clock has gone on, as the water has.
func (s *Server) resume(w http.ResponseWriter, r *http.Request) error {
	return s.turnTo(w, r, brew.Event{Kind: brew.Resume}, "/brews/%s/brew")
}

func (s *Server) turnTo(w http.ResponseWriter, r *http.Request, e brew.Event, to string) error {
	e.Key = rand.Text()
	if b := sceneOf(r).brew; b != nil {
		e.At = b.Elapsed(s.watch.now(b, s.Now()))
	}
	sc, err := s.apply(r, e)
	if err != nil {
		return err
	}
	return seeOther(w, r, to, sc.ID)
}

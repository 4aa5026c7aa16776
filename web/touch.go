package web

import (
	"crypto/rand"
	"errors"
	"net/http"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/form"
)

// start begins the pouring: from this second the brew is kept. Beginning it again leads
// to the brew as it is.
func (s *Server) start(w http.ResponseWriter, r *http.Request) error {
	sc := sceneOf(r)
	if err := sc.onLine(); err != nil {
		return err
	}
	if sc.draft != nil && !sc.editable() {
		return brew.ErrStatus
	}
	b, err := s.Store.Begin(r.Context(), sc.ID, brew.Event{Key: rand.Text(), Kind: brew.Start, Instant: s.Now()}, s.teacher.Believe)
	if err != nil {
		return err
	}
	s.watch.now(&b, s.Now())
	s.live.Tell(sc.ID)
	return seeOther(w, r, "/brews/%s/brew", sc.ID)
}

// apply adds an event to the brew of the request and tells its screens.
func (s *Server) apply(r *http.Request, e brew.Event) (*scene, error) {
	sc, wall := sceneOf(r), s.Now()
	b, err := s.Store.Change(r.Context(), sc.ID, func(b brew.Brew) (brew.Brew, error) { return b.Apply(e, s.watch.now(&b, wall)) })
	if errors.Is(err, store.ErrNotFound) { // not begun yet
		err = brew.ErrStatus
	}
	if err != nil {
		return sc, err
	}
	s.live.Tell(sc.ID)
	next := *sc
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
	return s.turnTo(w, r, brew.Undo, "/brews/%s/brew")
}

// abandon gives a running brew up. It stays in the log as stopped.
func (s *Server) abandon(w http.ResponseWriter, r *http.Request) error {
	return s.turnTo(w, r, brew.Abandon, "/brews/%s")
}

// resume takes a stop back: the clock has gone on, as the water has.
func (s *Server) resume(w http.ResponseWriter, r *http.Request) error {
	return s.turnTo(w, r, brew.Resume, "/brews/%s/brew")
}

func (s *Server) turnTo(w http.ResponseWriter, r *http.Request, kind brew.EventKind, to string) error {
	e := brew.Event{Key: rand.Text(), Kind: kind}
	if b := sceneOf(r).brew; b != nil {
		e.At = b.Elapsed(s.watch.now(b, s.Now()))
	}
	sc, err := s.apply(r, e)
	if err != nil {
		return err
	}
	return seeOther(w, r, to, sc.ID)
}

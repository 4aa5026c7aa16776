package brew

import (
	"cmp"
	"crypto/rand"
	"errors"
	"net/http"
	"strconv"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
	"yardbloom/core/units"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/station"
)

// start begins a brew. Beginning it again redirects to the running brew. A screen that was offline reports
// the time since the first water.
func (s *Screens) start(w http.ResponseWriter, r *http.Request) error {
	id, err := page.ID(r)
	if err != nil {
		return err
	}
	key, ago, by := rand.Text(), time.Duration(0), page.PersonID(r)
	if r.ContentLength != 0 {
		f, err := form.Read(r)
		if err != nil && !errors.Is(err, form.ErrMalformed) {
			return err
		}
		if err == nil {
			key, by = cmp.Or(f.Text("key", "The key", 64, false), key), form.By(f, by)
			if ago, err = agoOf(f.Values["ago"]); err != nil {
				return err
			}
		}
	}
	if _, err := s.yard.Start(r.Context(), id, by, key, ago); err != nil {
		return err
	}
	return s.showBegun(w, r, id)
}

// showBegun shows the pour of a brew that has begun.
func (s *Screens) showBegun(w http.ResponseWriter, r *http.Request, id string) error {
	if !page.IsPartial(r) {
		return page.SeeOther(w, r, "/brews/%s/brew", id)
	}
	sc, err := station.Load(s.yard, r, id)
	if err != nil {
		return err
	}
	s.showPour(w, r, sc)
	return nil
}

// agoOf parses the time since the first water, in seconds.
func agoOf(said string) (time.Duration, error) {
	if said == "" {
		return 0, nil
	}
	ago, ok := form.ParseAgo(said)
	if !ok {
		return 0, page.Problem{Status: http.StatusBadRequest, Title: "Invalid start time",
			Text: "A brew can be added for up to 30 days after its first water."}
	}
	return ago, nil
}

// apply applies an event to the brew of the request and returns the changed scene.
func (s *Screens) apply(r *http.Request, e brew.Event) (*station.Scene, error) {
	sc := station.Of(r)
	b, err := s.yard.Tap(r.Context(), sc.ID, e)
	if err != nil {
		return sc, err
	}
	return sc.WithBrew(s.yard, r, b), nil
}

// tap stores a tap of the running brew. A script sends it with its own key and time and gets the changed
// part of the page; a plain form is redirected.
func (s *Screens) tap(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	sc := station.Of(r)
	e := brew.Event{Key: f.Text("key", "The key", 64, true), Kind: brew.EventKind(f.Values["kind"]), Mark: cup.Mark(f.Values["mark"]),
		Undoes: f.Text("undoes", "The key", 64, false), By: form.By(f, page.PersonID(r))}
	e.Stage, _ = strconv.Atoi(f.Values["stage"]) // 0, without one, is the present stage
	if sc.Brew != nil {
		e.At = max(0, sc.Brew.Elapsed(s.yard.Moment(sc.Brew))-units.Seconds(form.Ago(r).Seconds()))
		e.Start = cmp.Or(f.Text("start", "The key", 64, false), sc.Brew.StartKey())
		if e.Kind == brew.Undo {
			e.Undoes = cmp.Or(e.Undoes, sc.Brew.LastTap())
		}
	}
	if said := f.Values["at"]; said != "" {
		at, err := units.ParseNumber(said, "")
		if err != nil {
			f.Fail("at", "%v", err)
		}
		e.At = units.Seconds(at)
	}
	if !f.OK() || !e.Valid() || !e.Kind.IsTap() && e.Kind != brew.Undo {
		return page.Problem{Status: http.StatusBadRequest, Title: "Unknown action",
			Text: "Reload the page. The brew continues and nothing is lost."}
	}
	sc, err = s.apply(r, e)
	if err != nil {
		return err
	}
	if !page.IsPartial(r) {
		return page.SeeOther(w, r, "/brews/%s/brew", sc.ID)
	}
	s.Write(w, http.StatusOK, "pour", "live", s.pourBody(r, sc))
	return nil
}

// undoEnd undoes the tap that ended a brew.
func (s *Screens) undoEnd(w http.ResponseWriter, r *http.Request) error {
	return s.turnTo(w, r, brew.Event{Kind: brew.Undo}, "/brews/%s/brew")
}

// settle answers whether a second first water was the same brew.
func (s *Screens) settle(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	sc, start := station.Of(r), f.Text("start", "The key", 64, true)
	if sc.Brew == nil || !f.OK() {
		return brew.ErrStatus
	}
	switch f.Values["say"] {
	case "two":
		_, err = s.yard.SplitBrew(r.Context(), sc.ID, start)
	case "same", "later":
		_, err = s.yard.SameBrew(r.Context(), sc.ID, start, page.PersonID(r), f.Values["say"] == "later")
	default:
		err = form.ErrMalformed
	}
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, "/brews/%s/brew", sc.ID)
}

// abandon stops a running brew. It stays in the log as stopped, with its reason.
func (s *Screens) abandon(w http.ResponseWriter, r *http.Request) error {
	reason := r.FormValue("reason")
	if len(reason) > 200 {
		return page.Problem{Status: http.StatusUnprocessableEntity, Title: "That reason is too long",
			Text: "Up to 200 characters. The brew continues."}
	}
	return s.turnTo(w, r, brew.Event{Kind: brew.Abandon, Note: reason}, "/brews/%s")
}

// resume undoes a stop. The clock has continued meanwhile, like the water.
func (s *Screens) resume(w http.ResponseWriter, r *http.Request) error {
	return s.turnTo(w, r, brew.Event{Kind: brew.Resume}, "/brews/%s/brew")
}

func (s *Screens) turnTo(w http.ResponseWriter, r *http.Request, e brew.Event, to string) error {
	e.Key, e.By = rand.Text(), page.PersonID(r)
	if b := station.Of(r).Brew; b != nil {
		e.At, e.Start = b.Elapsed(s.yard.Moment(b)), b.StartKey()
		if e.Kind == brew.Undo {
			e.Undoes = b.LastTap()
		}
	}
	sc, err := s.apply(r, e)
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, to, sc.ID)
}

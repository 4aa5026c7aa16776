package web

import (
	"context"
	"crypto/rand"
	"errors"
	"net/http"
	"strconv"

	"github.com/go-chi/chi/v5"

	"yardbloom/core/rush"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/form"
)

// startRush begins a rush: from now on its clock runs.
func (s *Server) startRush(w http.ResponseWriter, r *http.Request) error {
	_, err := s.started(r.Context(), rushID(r))
	return s.toldRush(w, r, err)
}

// started starts the clock of a rush, unless it runs already.
func (s *Server) started(ctx context.Context, id string) (started rush.Rush, err error) {
	err = s.Store.ChangeRush(ctx, id, func(rs rush.Rush) (rush.Rush, error) {
		if rs.Started.IsZero() {
			rs.Started = s.Now()
		}
		started = rs
		return rs, nil
	})
	return started, err
}

// fillRush says that so much water was filled into the kettle, and is hot.
func (s *Server) fillRush(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	const most = 5000 // g
	water := f.Quantity("water", "The water", units.Unit{Scale: 1}, units.Range{Lo: 0, Hi: most}, true)
	if !f.OK() {
		return problem{http.StatusUnprocessableEntity, "That is no amount of water", f.Errors["water"]}
	}
	err = s.Store.ChangeRush(r.Context(), rushID(r), func(rs rush.Rush) (rush.Rush, error) {
		rs.Filled += units.Grams(water)
		return rs, nil
	})
	return s.toldRush(w, r, err)
}

// endRush puts a rush aside, with what was not brewed. Its brews stay.
func (s *Server) endRush(w http.ResponseWriter, r *http.Request) error {
	var waiting []string
	err := s.Store.ChangeRush(r.Context(), rushID(r), func(rs rush.Rush) (rush.Rush, error) {
		rs.Ended = true
		for _, o := range rs.Orders {
			waiting = append(waiting, o.Brew)
		}
		return rs, nil
	})
	for _, id := range waiting { // what was not brewed is no recipe in the making
		if err := s.Store.DiscardDraft(r.Context(), id, true, s.Now()); err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
	}
	return s.toldRush(w, r, err)
}

func (s *Server) toldRush(w http.ResponseWriter, r *http.Request, err error) error {
	if err != nil {
		return err
	}
	s.live.Tell("rush " + rushID(r))
	if isPartial(r) {
		w.WriteHeader(http.StatusNoContent)
		return nil
	}
	return seeOther(w, r, "/rush/%s", rushID(r))
}

// goRush begins one of the orders of a rush now, with its waits stretched so that they stay
// clear of what the hands do for the others.
func (s *Server) goRush(w http.ResponseWriter, r *http.Request) error {
	rs, err := s.Store.Rush(r.Context(), rushID(r))
	if err != nil {
		return err
	}
	n, err := strconv.Atoi(chi.URLParam(r, "n"))
	if err != nil || n < 1 || n > len(rs.Orders) {
		return store.ErrNotFound
	}
	if rs.Started.IsZero() {
		if rs, err = s.started(r.Context(), rs.ID); err != nil {
			return err
		}
	}
	o := rs.Orders[n-1]
	now := units.Seconds(s.Now().Sub(rs.Started).Seconds())
	_, busy, err := s.inRush(r.Context(), rs, now)
	if err != nil {
		return err
	}
	if plan, err := rush.Make([]rush.Order{o.Order}, busy, rush.Kettle{}); err == nil && len(plan.Slots) == 1 {
		if err := s.stretch(r.Context(), o, plan.Slots[0]); err != nil {
			return err
		}
	}
	if _, err := s.begin(r.Context(), o.Brew, rand.Text(), 0); err != nil {
		return err
	}
	return s.toldRush(w, r, nil)
}

// stretch moves the pours of an order's recipe as its slot has them.
func (s *Server) stretch(ctx context.Context, o rush.Ordered, slot rush.Slot) error {
	d, _, err := s.Store.Draft(ctx, o.Brew)
	if errors.Is(err, store.ErrNotFound) { // it has begun
		return nil
	}
	if err != nil {
		return err
	}
	steps := d.Recipe.Plan().Steps
	moved := units.Seconds(0)
	for i, by := range slot.Stretched(o.Order) {
		if i < len(steps) && by != moved {
			steps, moved = rush.Later(steps, i, by-moved), by
		}
	}
	if moved == 0 {
		return nil
	}
	aim := d.Recipe.Aim
	d.Recipe = d.Recipe.Along(steps)
	if aim > 0 {
		d.Recipe.Aim = aim + moved
	}
	_, err = s.Store.SaveDraft(ctx, d, s.Now())
	return err
}

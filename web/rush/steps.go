package rush

import (
	"cmp"
	"crypto/rand"
	"errors"
	"net/http"
	"strconv"

	"github.com/go-chi/chi/v5"

	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/stream"
	"yardbloom/yard"
)

// startRush starts the clock of a rush.
func (s *Screens) startRush(w http.ResponseWriter, r *http.Request) error {
	_, err := s.yard.StartRush(r.Context(), rushID(r), form.Ago(r))
	return s.toldRush(w, r, err)
}

// fillRush records that the kettle was refilled and is hot.
func (s *Screens) fillRush(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	const most = 5000 // g
	grams := units.Unit{Scale: 1}
	water := f.Quantity("water", "The water", grams, units.Range{Lo: 0, Hi: most}, true)
	before := f.Quantity("before", "The water", grams, units.Range{Lo: 0, Hi: 100 * most}, false)
	if !f.OK() {
		return page.Problem{Status: http.StatusUnprocessableEntity, Title: "Invalid amount of water", Text: cmp.Or(f.Errors["water"], f.Errors["before"])}
	}
	return s.toldRush(w, r, s.yard.FillKettle(r.Context(), rushID(r), units.Grams(before), units.Grams(water)))
}

func (s *Screens) toldRush(w http.ResponseWriter, r *http.Request, err error) error {
	if err != nil {
		return err
	}
	s.yard.Hub.Notify(yard.RushTopic(rushID(r)))
	if page.IsPartial(r) {
		w.WriteHeader(http.StatusNoContent)
		return nil
	}
	return page.SeeOther(w, r, "/rush/%s", rushID(r))
}

// endRush ends a rush. Its brews stay; unbrewed drafts are archived.
func (s *Screens) endRush(w http.ResponseWriter, r *http.Request) error {
	return s.toldRush(w, r, s.yard.EndRush(r.Context(), rushID(r)))
}

// resumeRush continues a rush that was ended.
func (s *Screens) resumeRush(w http.ResponseWriter, r *http.Request) error {
	return s.toldRush(w, r, s.yard.ResumeRush(r.Context(), rushID(r)))
}

// goRush starts one of the orders of a rush.
func (s *Screens) goRush(w http.ResponseWriter, r *http.Request) error {
	n, err := strconv.Atoi(chi.URLParam(r, "n"))
	if err != nil {
		return store.ErrNotFound
	}
	key := cmp.Or(r.Header.Get(page.KeyHeader), rand.Text())
	return s.toldRush(w, r, orderError(s.yard.StartOrder(r.Context(), rushID(r), n, page.PersonID(r), key, form.Ago(r))))
}

// undoGo makes an order wait again that was started by mistake.
func (s *Screens) undoGo(w http.ResponseWriter, r *http.Request) error {
	n, err := strconv.Atoi(chi.URLParam(r, "n"))
	if err != nil {
		return store.ErrNotFound
	}
	return s.toldRush(w, r, orderError(s.yard.UndoOrder(r.Context(), rushID(r), n)))
}

func orderError(err error) error {
	if errors.Is(err, yard.ErrNoOrder) {
		return store.ErrNotFound
	}
	return err
}

// stream sends the board of a rush at once, and after each change of one of its brews.
func (s *Screens) stream(w http.ResponseWriter, r *http.Request) error {
	rs, err := s.yard.Store.Rush(r.Context(), rushID(r))
	if err != nil {
		return err
	}
	topics := []string{yard.RushTopic(rs.ID)}
	for _, o := range rs.Orders {
		topics = append(topics, o.Brew)
	}
	event := func() (string, error) {
		set, err := s.yard.Store.Settings(r.Context(), page.PersonID(r)) // the units may have changed meanwhile
		if err != nil {
			return "", err
		}
		body, err := s.board(r.Context(), rs.ID, set.Prefs())
		if err != nil {
			return "", err
		}
		html, err := s.Block("board", "board", body)
		return stream.HTML(html), err
	}
	return s.streams.Serve(w, r, stream.Source{Topics: topics, First: event, Changed: event})
}

package web

import (
	"fmt"
	"io"
	"net/http"
	"strings"
	"time"

	"yardbloom/core/units"
	"yardbloom/live"
)

// heartbeat keeps the stream open through proxies, and tells a screen that the server still runs.
const heartbeat = 10 * time.Second

// stream sends the brew to a screen at once and after each change, as
// server-sent events that carry the inside of the page, and what its scale shows in small
// ones between them.
func (s *Server) stream(w http.ResponseWriter, r *http.Request) error {
	sc := sceneOf(r)
	numbers, leave := s.owners.Follow(sc.ID)
	defer leave()
	event := func() (string, error) {
		html, err := s.liveHTML(r, sc.ID)
		return inside(html), err
	}
	first := event
	if sc.brew == nil { // before the first water there is nothing to swap in, only the scale
		first = stillHere
	}
	return s.streams(w, r, []string{sc.ID}, numbers, first, event)
}

// openStream takes one of the places for open screens and begins a stream to it. Where none
// is free it answers with what to do about it.
func (s *Server) openStream(w http.ResponseWriter, r *http.Request, full string) (send func(string) error, end func(), err error) {
	select {
	case s.streamSlots <- struct{}{}:
	default:
		return nil, nil, problem{http.StatusServiceUnavailable, "Too many screens at once", full}
	}
	leaveQueue(r)
	w.Header().Set("Content-Type", "text/event-stream")
	w.Header().Set("Cache-Control", "no-store")
	return sender(w), func() { <-s.streamSlots }, nil
}

// streams sends a first event, and another one whenever one of its topics changes, until the
// screen, its session or the server has gone. numbers may be nil.
func (s *Server) streams(w http.ResponseWriter, r *http.Request, topics []string, numbers <-chan live.Numbers, event, changes func() (string, error)) error {
	send, end, err := s.openStream(w, r, "The brew goes on. Close a screen that nobody looks at, then load this one again.")
	if err != nil {
		return err
	}
	defer end()
	changed, leave := s.live.Join(topics...)
	defer leave()
	var signedOut <-chan struct{}
	if s.SignIn {
		topic := ofSession(s.sessions.Token(r.Context()))
		out, leave := s.live.Join(topic)
		defer leave()
		signedOut = out
	}
	beat := time.NewTicker(heartbeat)
	defer beat.Stop()
	prefs := prefsOf(r)
	for {
		text, err := event()
		if err != nil { // the stream has begun, so there is no page to answer with; the screen will ask again
			if r.Context().Err() == nil {
				s.Log.Error("stream ended", "topics", topics, "err", err)
			}
			return nil
		}
		if send(text) != nil {
			return nil
		}
		select {
		case <-r.Context().Done():
			return nil
		case <-s.live.Closed():
			return nil
		case n := <-numbers: // ten times a second: nothing is loaded for it
			event = func() (string, error) { return numbersEvent(prefs, n), nil }
			continue
		case <-signedOut:
			event = stillHere
		case <-changed:
			event = changes
		case <-beat.C:
			event = stillHere
		}
		if !s.stillIn(r) {
			return nil
		}
	}
}

// numbersEvent is what the scale under a brew shows, as a small event of its own.
func numbersEvent(prefs units.Prefs, n live.Numbers) string {
	u := prefs.Unit(units.Water)
	return fmt.Sprintf("event: scale\ndata: {\"t\":%.2f,\"g\":%.*f,\"r\":%.2f,\"pours\":%t,\"away\":%t}\n\n", float64(n.At), max(1, u.Decimals), u.Shown(float64(n.Grams)), u.Shown(n.Rate), n.Pouring, n.Away)
}

// sender writes to a stream, and gives up on a screen that takes nothing.
func sender(w http.ResponseWriter) func(text string) error {
	conn := http.NewResponseController(w)
	return func(text string) error {
		_ = conn.SetWriteDeadline(time.Now().Add(answerTime)) // not known to a recorder in a test
		if _, err := io.WriteString(w, text); err != nil {
			return err
		}
		return conn.Flush()
	}
}

// stillHere is an event that changes nothing on the screen, and tells it that the stream lives.
func stillHere() (string, error) { return "event: here\ndata:\n\n", nil }

// inside is a part of a page as an event, for the screen to swap in.
func inside(html string) string {
	return "data: " + strings.ReplaceAll(html, "\n", "\ndata: ") + "\n\n"
}

// liveHTML is the part of the Brew station that changes, as a screen swaps it in.
func (s *Server) liveHTML(r *http.Request, brewID string) (string, error) {
	sc, err := s.loadScene(r, brewID)
	if err != nil {
		return "", err
	}
	body := s.pourBody(sc)
	if sc.brew == nil { // it had begun, and was none: the page for the first water again
		body.Done = fmt.Sprintf("/brews/%s/brew", brewID)
	}
	return s.part("pour", "live", body)
}

// part renders a block of a page's template.
func (s *Server) part(name, block string, body any) (string, error) {
	var out strings.Builder
	err := s.pages.sets[name].ExecuteTemplate(&out, block, body)
	return out.String(), err
}

// rushStream sends the board of a rush at once, and after each change of one of its brews.
func (s *Server) rushStream(w http.ResponseWriter, r *http.Request) error {
	rs, err := s.Store.Rush(r.Context(), rushID(r))
	if err != nil {
		return err
	}
	topics := []string{"rush " + rs.ID}
	for _, o := range rs.Orders {
		topics = append(topics, o.Brew)
	}
	event := func() (string, error) {
		r, err := s.reread(r) // the units may have changed meanwhile
		if err != nil {
			return "", err
		}
		body, err := s.board(r.Context(), rs.ID, prefsOf(r))
		if err != nil {
			return "", err
		}
		html, err := s.part("board", "board", body)
		return inside(html), err
	}
	return s.streams(w, r, topics, nil, event, event)
}

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
// server-sent events that carry the inside of the page.
func (s *Server) stream(w http.ResponseWriter, r *http.Request) error {
	select {
	case s.streams <- struct{}{}:
		defer func() { <-s.streams }()
	default:
		return problem{http.StatusServiceUnavailable, "Too many screens at once", "The brew goes on. Close a screen that nobody looks at, then load this one again."}
	}
	leaveQueue(r)
	brewID := sceneOf(r).ID
	changed, leave := s.live.Join(brewID)
	defer leave()
	numbers, leaveNumbers := s.owners.Follow(brewID)
	defer leaveNumbers()
	var signedOut <-chan struct{}
	if s.SignIn {
		topic := ofSession(s.sessions.Token(r.Context()))
		out, leave := s.live.Join(topic)
		defer leave()
		signedOut = out
	}
	w.Header().Set("Content-Type", "text/event-stream")
	w.Header().Set("Cache-Control", "no-store")
	send := sender(w)
	beat := time.NewTicker(heartbeat)
	defer beat.Stop()
	event := s.brewEvent
	if sceneOf(r).brew == nil { // before the first water there is nothing to swap in, only the scale
		event = stillHere
	}
	for {
		text, err := event(r, brewID)
		if err != nil { // the stream has begun, so there is no page to answer with; the screen will ask again
			if r.Context().Err() == nil {
				s.Log.Error("stream ended", "brew", brewID, "err", err)
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
			event = s.numbersEvent(prefsOf(r), n)
			continue
		case <-signedOut:
			event = stillHere
		case <-changed:
			event = s.brewEvent
		case <-beat.C:
			event = stillHere
		}
		if !s.stillIn(r) {
			return nil
		}
	}
}

// numbersEvent is what the scale under a brew shows, as a small event of its own.
func (s *Server) numbersEvent(prefs units.Prefs, n live.Numbers) func(*http.Request, string) (string, error) {
	return func(*http.Request, string) (string, error) {
		u := prefs.Unit(units.Water)
		return fmt.Sprintf("event: scale\ndata: {\"t\":%.2f,\"g\":%.*f,\"r\":%.2f,\"pours\":%t,\"away\":%t}\n\n", float64(n.At), max(1, u.Decimals), u.Shown(float64(n.Grams)), u.Shown(n.Rate), n.Pouring, n.Away), nil
	}
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

// stillHere is an event that changes nothing on the screen.
func stillHere(*http.Request, string) (string, error) { return ": still here\n\n", nil }

// brewEvent is the brew as it stands, for the screen to swap in.
func (s *Server) brewEvent(r *http.Request, brewID string) (string, error) {
	html, err := s.liveHTML(r, brewID)
	return "data: " + strings.ReplaceAll(html, "\n", "\ndata: ") + "\n\n", err
}

// liveHTML is the part of the Brew station that changes, as a screen swaps it in.
func (s *Server) liveHTML(r *http.Request, brewID string) (string, error) {
	sc, err := s.loadScene(r, brewID)
	if err != nil {
		return "", err
	}
	var out strings.Builder
	err = s.pages.sets["pour"].ExecuteTemplate(&out, "live", s.pourBody(sc))
	return out.String(), err
}

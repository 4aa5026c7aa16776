package web

import (
	"io"
	"net/http"
	"strings"
	"time"
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
	for s.stillIn(r) {
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
		case <-signedOut:
			event = stillHere
		case <-changed:
			event = s.brewEvent
		case <-beat.C:
			event = stillHere
		}
	}
	return nil
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

// Package stream sends changes to open screens as server-sent events.
package stream

import (
	"fmt"
	"io"
	"net/http"
	"strings"
	"time"

	"yardbloom/core/units"
	"yardbloom/live"
	"yardbloom/web/page"
)

const (
	// writeTimeout is the time in which a screen must receive an event.
	writeTimeout = 20 * time.Second
	// MaxStreams bounds the number of open streams.
	MaxStreams = 500
)

// Config describes a Server.
type Config struct {
	Site *page.Site
	Hub  *live.Hub
	// Heartbeat is how often an idle stream is written to. It keeps the stream open through
	// proxies and tells the screen that the server runs.
	Heartbeat time.Duration
	// Opened is called when a stream opens, before its first event.
	Opened func(r *http.Request)
	// SessionTopic returns the topic under which the session of a request may end; empty for none.
	SessionTopic func(r *http.Request) string
	// SessionValid reports whether the session of a request is still valid.
	SessionValid func(r *http.Request) bool
}

// A Server opens streams. It is safe for concurrent use.
type Server struct {
	Config
	slots chan struct{} // one for each open stream
	views views
}

// New returns a server without streams.
func New(c Config) *Server { return &Server{Config: c, slots: make(chan struct{}, MaxStreams)} }

// Open opens a stream and returns a function that sends an event, and one that ends it. If too
// many are open, the error is a problem with the text full.
func (s *Server) Open(w http.ResponseWriter, r *http.Request, full string) (send func(event string) error, end func(), err error) {
	select {
	case s.slots <- struct{}{}:
	default:
		return nil, nil, page.Problem{Status: http.StatusServiceUnavailable, Title: "Too many screens at once", Text: full}
	}
	s.Opened(r)
	w.Header().Set("Content-Type", "text/event-stream")
	w.Header().Set("Cache-Control", "no-store")
	return sender(w), func() { <-s.slots }, nil
}

// sender returns a function that writes to a stream, within a deadline for each event.
func sender(w http.ResponseWriter) func(event string) error {
	conn := http.NewResponseController(w)
	return func(event string) error {
		_ = conn.SetWriteDeadline(time.Now().Add(writeTimeout)) // a test recorder has no deadlines
		if _, err := io.WriteString(w, event); err != nil {
			return err
		}
		return conn.Flush()
	}
}

// A Source provides the events of a stream.
type Source struct {
	Topics  []string
	Numbers <-chan live.Numbers // of a scale; may be nil
	// First returns the first event, Changed the event after each change of a topic.
	First, Changed func() (string, error)
	// View names an event that is the same for all screens with the same units, and so rendered once for them after
	// each change; empty: not shared.
	View string
}

// Serve sends the events of a source until the screen, its session or the server has gone.
func (s *Server) Serve(w http.ResponseWriter, r *http.Request, src Source) error {
	send, end, err := s.Open(w, r, "The brew continues. Close another screen, then reload this one.")
	if err != nil {
		return err
	}
	defer end()
	changed, cancel := s.Hub.Subscribe(src.Topics...)
	defer cancel()
	var signedOut <-chan struct{}
	if topic := s.SessionTopic(r); topic != "" {
		out, cancel := s.Hub.Subscribe(topic)
		defer cancel()
		signedOut = out
	}
	beat := time.NewTicker(s.Heartbeat)
	defer beat.Stop()
	prefs, renderChange := page.Prefs(r), src.Changed
	if src.View != "" {
		view, leave := s.views.open(viewKey{src.View, prefs})
		defer leave()
		renderChange = func() (string, error) { return view.event(s.Hub.Generation(src.Topics...), src.Changed) }
	}
	event := src.First
	for {
		text, err := event()
		if err != nil { // too late for an error page; the screen reconnects
			if r.Context().Err() == nil {
				s.Site.Log.Error("stream ended", "topics", src.Topics, "err", err)
			}
			return nil
		}
		if send(text) != nil {
			return nil
		}
		select {
		case <-r.Context().Done():
			return nil
		case <-s.Hub.Closed():
			return nil
		case n := <-src.Numbers: // ten a second: nothing is loaded for it
			event = func() (string, error) { return Numbers(prefs, n), nil }
			continue
		case <-signedOut:
			event = StillHere
		case <-changed:
			event = renderChange
		case <-beat.C:
			event = StillHere
		}
		if !s.SessionValid(r) {
			return nil
		}
	}
}

// Numbers returns the event for a new reading of a scale.
func Numbers(prefs units.Prefs, n live.Numbers) string {
	u := prefs.Unit(units.Water)
	return fmt.Sprintf("event: scale\ndata: {\"t\":%.2f,\"g\":%.*f,\"r\":%.2f,\"pours\":%t,\"away\":%t}\n\n", float64(n.At),
		max(1, u.Decimals), u.Shown(float64(n.Grams)), u.Shown(n.Rate), n.Pouring, n.Away)
}

// StillHere returns an event that changes nothing on the screen.
func StillHere() (string, error) { return "event: here\ndata:\n\n", nil }

// HTML returns the event that replaces the live part of a page.
func HTML(html string) string {
	return "data: " + strings.ReplaceAll(html, "\n", "\ndata: ") + "\n\n"
}

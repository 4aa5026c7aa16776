package web

import (
	"fmt"
	"net/http"
	"strings"
	"time"
)

// heartbeat keeps the stream open through proxies, and tells a screen that the server still runs.
const heartbeat = 10 * time.Second

// stream sends the brew to a screen at once and after each change, as
// server-sent events that carry the inside of the page.
func (s *Server) stream(w http.ResponseWriter, r *http.Request) error {
	brewID := sceneOf(r).ID
	rc := http.NewResponseController(w)
	changed, leave := s.live.Join(brewID)
	defer leave()
	w.Header().Set("Content-Type", "text/event-stream")
	w.Header().Set("Cache-Control", "no-store")
	beat := time.NewTicker(heartbeat)
	defer beat.Stop()
	for {
		html, err := s.liveHTML(r, brewID)
		if err != nil { // the stream has begun, so there is no page to answer with; the screen will ask again
			if r.Context().Err() == nil {
				s.Log.Error("stream ended", "brew", brewID, "err", err)
			}
			return nil
		}
		if _, err := fmt.Fprintf(w, "data: %s\n\n", strings.ReplaceAll(html, "\n", "\ndata: ")); err != nil {
			return nil
		}
		if rc.Flush() != nil {
			return nil
		}
		for waiting := true; waiting; {
			select {
			case <-r.Context().Done():
				return nil
			case <-s.live.Closed():
				return nil
			case <-changed:
				waiting = false
			case <-beat.C:
				if _, err := fmt.Fprint(w, ": still here\n\n"); err != nil || rc.Flush() != nil {
					return nil
				}
			}
		}
	}
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

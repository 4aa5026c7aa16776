package web

import (
	"fmt"
	"net/http"
	"strings"
	"sync"
	"time"
)

// hub tells the open screens of a brew that something happened to it.
type hub struct {
	mu     sync.Mutex
	open   map[int64]map[chan struct{}]bool
	closed chan struct{}
	once   sync.Once
}

func newHub() *hub {
	return &hub{open: map[int64]map[chan struct{}]bool{}, closed: make(chan struct{})}
}

func (h *hub) close() { h.once.Do(func() { close(h.closed) }) }

// join returns a channel that is signalled at each change of a brew, and how to leave.
func (h *hub) join(brewID int64) (changed chan struct{}, leave func()) {
	changed = make(chan struct{}, 1)
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.open[brewID] == nil {
		h.open[brewID] = map[chan struct{}]bool{}
	}
	h.open[brewID][changed] = true
	return changed, func() {
		h.mu.Lock()
		defer h.mu.Unlock()
		delete(h.open[brewID], changed)
		if len(h.open[brewID]) == 0 {
			delete(h.open, brewID)
		}
	}
}

// tell signals a change. A screen that has not yet seen the last one needs no second signal.
func (h *hub) tell(brewID int64) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for c := range h.open[brewID] {
		select {
		case c <- struct{}{}:
		default:
		}
	}
}

// heartbeat keeps the stream open through proxies, and says to a screen that the server lives.
const heartbeat = 10 * time.Second

// stream sends the brew to a screen at once and after each change, as
// server-sent events that carry the inside of the page.
func (s *Server) stream(w http.ResponseWriter, r *http.Request) error {
	b, _, _, err := s.load(r)
	if err != nil {
		return err
	}
	rc := http.NewResponseController(w)
	changed, leave := s.live.join(b.ID)
	defer leave()
	w.Header().Set("Content-Type", "text/event-stream")
	w.Header().Set("Cache-Control", "no-store")
	beat := time.NewTicker(heartbeat)
	defer beat.Stop()
	for {
		html, err := s.liveHTML(r, b.ID)
		if err != nil {
			return nil // the stream has begun: the screen will ask again
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
			case <-s.live.closed:
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
func (s *Server) liveHTML(r *http.Request, brewID int64) (string, error) {
	b, err := s.Store.Brew(r.Context(), brewID)
	if err != nil {
		return "", err
	}
	set, err := s.Store.Settings(r.Context())
	if err != nil {
		return "", err
	}
	var out strings.Builder
	err = s.pages.sets["pour"].ExecuteTemplate(&out, "live", s.pourBody(b, set.Prefs()))
	return out.String(), err
}

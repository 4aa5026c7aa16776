package web

import (
	"crypto/sha256"
	"fmt"
	"net/http"
	"sync"
)

// A onceBook remembers what came of forms with a key, so that a form that is sent twice takes
// effect once. It is safe for concurrent use and forgets with the program.
type onceBook struct {
	mu   sync.Mutex
	sent map[string]*sending
}

// A sending is one form on its way, or where it led.
type sending struct {
	done     chan struct{} // closed once it is answered
	location string        // where it led; empty where it was refused or failed
}

// mostSent is how many keys are remembered before those that are answered are forgotten.
const mostSent = 4096

// begin returns the sending of a key, and whether the caller is the one to do it.
func (b *onceBook) begin(key string) (*sending, bool) {
	b.mu.Lock()
	defer b.mu.Unlock()
	if s, known := b.sent[key]; known {
		return s, false
	}
	if b.sent == nil || len(b.sent) >= mostSent {
		b.sent = map[string]*sending{}
	}
	s := &sending{done: make(chan struct{})}
	b.sent[key] = s
	return s, true
}

// end notes where a sending led. One that led nowhere is forgotten: the form was shown again,
// and may be sent again.
func (b *onceBook) end(key string, s *sending, location string) {
	b.mu.Lock()
	defer b.mu.Unlock()
	if s.location = location; location == "" {
		delete(b.sent, key)
	}
	close(s.done)
}

// once lets a form that creates something take effect one time: the second of two that carry
// the same key in "once" is led to where the first one led.
func (s *Server) once(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		key := ""
		if r.Method == http.MethodPost {
			key = r.PostFormValue("once")
		}
		if key == "" || len(key) > 64 {
			next.ServeHTTP(w, r)
			return
		}
		key = sentKey(r, key)
		for {
			sent, mine := s.sent.begin(key)
			if mine {
				watched := &locator{ResponseWriter: w}
				defer func() { s.sent.end(key, sent, watched.led) }()
				next.ServeHTTP(watched, r)
				return
			}
			select {
			case <-sent.done:
			case <-r.Context().Done():
				return
			}
			if sent.location != "" {
				http.Redirect(w, r, sent.location, http.StatusSeeOther)
				return
			}
		}
	})
}

// sentKey is the key of what a form says: one that was edited and sent again is another.
func sentKey(r *http.Request, once string) string {
	sum := sha256.New()
	fmt.Fprintln(sum, r.URL.Path, once, r.PostForm.Encode())
	if r.MultipartForm != nil {
		for _, files := range r.MultipartForm.File {
			for _, f := range files {
				fmt.Fprintln(sum, f.Filename, f.Size)
			}
		}
	}
	return string(sum.Sum(nil))
}

// A locator notes where an answer leads.
type locator struct {
	http.ResponseWriter
	led string
}

func (l *locator) WriteHeader(status int) {
	if status == http.StatusSeeOther {
		l.led = l.Header().Get("Location")
	}
	l.ResponseWriter.WriteHeader(status)
}

// Unwrap lets http.ResponseController reach the connection.
func (l *locator) Unwrap() http.ResponseWriter { return l.ResponseWriter }

package web

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"time"

	"yardbloom/web/form"
)

const (
	// maxBody is the largest form that is read, bytes.
	maxBody = 1<<20 + 64<<10
	// bodyTime is how long a form may take to arrive.
	bodyTime = 10 * time.Second
	// answerTime is how long a screen may take to take an answer, or one event of a stream.
	answerTime = 20 * time.Second
	// mostAtOnce bounds the requests that are worked on at once, and queueTime how
	// long another one waits for its turn.
	mostAtOnce = 64
	queueTime  = 3 * time.Second
	// mostStreams bounds the screens that follow a brew.
	mostStreams = 500
)

// wholeBody reads the body of a request before anything is done for it, so that
// whoever sends slowly holds up nobody else.
func (s *Server) wholeBody(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		// A recorder in a test has no connection and no deadlines.
		conn, now := http.NewResponseController(w), time.Now()
		_ = conn.SetWriteDeadline(now.Add(s.bodyTime + answerTime))
		if r.Body != nil && r.Body != http.NoBody {
			_ = conn.SetReadDeadline(now.Add(s.bodyTime))
			body, err := io.ReadAll(http.MaxBytesReader(w, r.Body, maxBody))
			var tooLarge *http.MaxBytesError
			switch {
			case errors.Is(err, os.ErrDeadlineExceeded):
				w.Header().Set("Connection", "close")
				err = problem{http.StatusRequestTimeout, "The form did not arrive in time", "Nothing was changed. Go back and send it again."}
			case err != nil && !errors.As(err, &tooLarge):
				err = fmt.Errorf("%w: %v", form.ErrMalformed, err)
			}
			if err != nil {
				s.fail(w, r, err)
				return
			}
			_ = conn.SetReadDeadline(time.Time{})
			r.Body = io.NopCloser(bytes.NewReader(body))
		}
		next.ServeHTTP(w, r)
	})
}

type leaveKey struct{}

// atOnce lets so many requests in at once. The others wait for their turn, but not long.
func (s *Server) atOnce(most int, patience time.Duration) func(http.Handler) http.Handler {
	slots := make(chan struct{}, most)
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			waiting, stop := context.WithTimeout(r.Context(), patience)
			defer stop()
			select {
			case slots <- struct{}{}:
			case <-waiting.Done():
				s.fail(w, r, problem{http.StatusServiceUnavailable, "Too many at once", "The yard is busy, and nothing was changed. Try again in a moment."})
				return
			}
			inside := true
			leave := func() {
				if inside {
					inside = false
					<-slots
				}
			}
			defer leave()
			next.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), leaveKey{}, leave)))
		})
	}
}

// leaveQueue frees the place of a request that stays open: a stream.
func leaveQueue(r *http.Request) {
	if leave, ok := r.Context().Value(leaveKey{}).(func()); ok {
		leave()
	}
}

package web

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net/http"
	"os"
	"strings"
	"time"

	"yardbloom/api"
	"yardbloom/web/form"
	"yardbloom/web/page"
)

const (
	// maxBody is the maximum size of a form, bytes.
	maxBody = 1<<20 + 64<<10
	// maxStrangerBody is that of a request without a session, bytes.
	maxStrangerBody = 4 << 10
	// answerTime is the time a client has to receive a response, or one event of a stream.
	answerTime = 20 * time.Second
	// maxConcurrent limits concurrent requests, and queueTime the wait of further ones.
	maxConcurrent = 64
	queueTime     = 3 * time.Second
)

// limitBody reads the body of a request before anything else, so that a slow client does not occupy a slot.
func (s *Server) limitBody(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		// A recorder in a test has no connection and no deadlines.
		conn, now := http.NewResponseController(w), time.Now()
		_ = conn.SetWriteDeadline(now.Add(s.FormTimeout + answerTime))
		if r.Body != nil && r.Body != http.NoBody {
			_ = conn.SetReadDeadline(now.Add(s.FormTimeout))
			body, err := s.readBody(w, r, conn)
			var tooLarge *http.MaxBytesError
			var disk *fs.PathError // of an upload
			switch {
			case errors.Is(err, os.ErrDeadlineExceeded):
				w.Header().Set("Connection", "close")
				err = page.Problem{Status: http.StatusRequestTimeout, Title: "The form took too long to arrive",
					Text: "Nothing was changed. Go back and send it again."}
			case err != nil && !errors.As(err, &tooLarge) && !errors.As(err, &disk) && !errors.Is(err, errNoRoom):
				err = fmt.Errorf("%w: %v", form.ErrMalformed, err)
			}
			if err != nil {
				s.refuseBody(w, r, err)
				return
			}
			defer body.Close()
			_ = conn.SetReadDeadline(time.Time{})
			r.Body = body
		}
		next.ServeHTTP(w, r)
	})
}

// refuseBody answers a request whose body was not read.
func (s *Server) refuseBody(w http.ResponseWriter, r *http.Request, err error) {
	var tooLarge *http.MaxBytesError
	switch isProgram := strings.HasPrefix(r.URL.Path, api.Prefix+"/"); {
	case isProgram && errors.As(err, &tooLarge):
		api.Refuse(w, http.StatusRequestEntityTooLarge, fmt.Sprintf("The body has more than %d bytes.", tooLarge.Limit))
	case isProgram && errors.Is(err, errNoRoom):
		api.Refuse(w, errNoRoom.Status, errNoRoom.Text)
	default:
		s.site.Fail(w, r, err)
	}
}

// readBody reads a body into memory, or that of an upload into a file.
func (s *Server) readBody(w http.ResponseWriter, r *http.Request, conn *http.ResponseController) (io.ReadCloser, error) {
	limit := s.bodyLimit(r)
	kind := uploadOf(r)
	if limit < maxBody || kind == nil {
		body, err := io.ReadAll(http.MaxBytesReader(w, r.Body, limit))
		return io.NopCloser(bytes.NewReader(body)), err
	}
	select {
	case s.uploads <- struct{}{}:
		defer func() { <-s.uploads }()
	case <-r.Context().Done():
		return nil, r.Context().Err()
	}
	now := time.Now()
	_ = conn.SetReadDeadline(now.Add(s.uploadTime(kind)))
	_ = conn.SetWriteDeadline(now.Add(s.uploadTime(kind) + answerTime))
	folder, err := s.Yard.Store.TempDir()
	if err == nil {
		err = s.checkRoom(r.ContentLength)
	}
	if err != nil {
		return nil, err
	}
	u, err := readUpload(r.Body, kind.most, folder)
	if err != nil {
		return nil, err
	}
	return u, nil
}

// bodyLimit returns the maximum size of the body of a request, which is small before the sign-in.
func (s *Server) bodyLimit(r *http.Request) int64 {
	if strings.HasPrefix(r.URL.Path, api.Prefix+"/") { // never with a session
		if _, err := s.Yard.Store.TokenOf(r.Context(), api.Bearer(r)); err == nil {
			return maxBody
		}
		return maxStrangerBody
	}
	if !s.SignIn {
		return maxBody
	}
	cookie, err := r.Cookie(s.sessions.Cookie.Name)
	if err != nil {
		return maxStrangerBody
	}
	if ctx, err := s.sessions.Load(r.Context(), cookie.Value); err != nil || !s.sessions.GetBool(ctx, signedIn) {
		return maxStrangerBody
	}
	return maxBody
}

// limitConcurrency limits concurrent requests. Further ones wait for a short time.
func (s *Server) limitConcurrency(most int, patience time.Duration) func(http.Handler) http.Handler {
	slots := make(chan struct{}, most)
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			waiting, stop := context.WithTimeout(r.Context(), patience)
			defer stop()
			select {
			case slots <- struct{}{}:
			case <-waiting.Done():
				s.site.Fail(w, r, page.Problem{Status: http.StatusServiceUnavailable, Title: "The server is busy",
					Text: "Nothing was changed. Try again in a moment."})
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
			next.ServeHTTP(w, page.WithLeave(r, leave))
		})
	}
}

package web

import (
	"bytes"
	"crypto/sha256"
	"fmt"
	"io"
	"net/http"
	"sync"
)

// submissions makes forms with an idempotency key take effect once. It is kept in memory and is
// safe for concurrent use.
type submissions struct {
	mu    sync.Mutex
	byKey map[string]*submission
}

// A submission is a pending or answered form.
type submission struct {
	done     chan struct{} // closed when answered
	location string        // target of the redirect; empty if refused
}

// maxSubmissions is the number of keys at which all are dropped.
const maxSubmissions = 4096

// begin returns the submission of a key and reports whether the caller must process it.
func (b *submissions) begin(key string) (*submission, bool) {
	b.mu.Lock()
	defer b.mu.Unlock()
	if s, known := b.byKey[key]; known {
		return s, false
	}
	if b.byKey == nil || len(b.byKey) >= maxSubmissions {
		b.byKey = map[string]*submission{}
	}
	s := &submission{done: make(chan struct{})}
	b.byKey[key] = s
	return s, true
}

// end records the redirect of a submission. A refused submission is dropped, so that the form can
// be sent again.
func (b *submissions) end(key string, s *submission, location string) {
	b.mu.Lock()
	defer b.mu.Unlock()
	if s.location = location; location == "" {
		delete(b.byKey, key)
	}
	close(s.done)
}

// once processes forms with the same key in the field "once" only one time. A duplicate waits for
// the first submission and is redirected to the same place.
func (s *Server) once(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		key, err := submissionKey(r)
		if err != nil {
			s.site.Fail(w, r, err)
			return
		}
		if key == "" {
			next.ServeHTTP(w, r)
			return
		}
		for {
			sub, mine := s.submissions.begin(key)
			if mine {
				recorder := &redirectRecorder{ResponseWriter: w}
				defer func() { s.submissions.end(key, sub, recorder.location) }()
				next.ServeHTTP(recorder, r)
				return
			}
			select {
			case <-sub.done:
			case <-r.Context().Done():
				return
			}
			if sub.location != "" {
				http.Redirect(w, r, sub.location, http.StatusSeeOther)
				return
			}
		}
	})
}

// submissionKey combines the key of a form with its content: an edited form is a new submission.
// It is empty for a form without a key. The body can be read again afterwards.
func submissionKey(r *http.Request) (string, error) {
	if r.Method != http.MethodPost || r.Body == nil {
		return "", nil
	}
	body, err := io.ReadAll(r.Body)
	if err != nil {
		return "", err
	}
	r.Body = io.NopCloser(bytes.NewReader(body))
	if !bytes.Contains(body, []byte("once")) { // most forms: do not parse them twice
		return "", nil
	}
	copied := r.Clone(r.Context()) // the handler reports a body that cannot be parsed
	copied.Body = io.NopCloser(bytes.NewReader(body))
	once := copied.PostFormValue("once")
	if once == "" || len(once) > 64 {
		return "", nil
	}
	sum := sha256.New()
	fmt.Fprintln(sum, r.URL.Path, once, copied.PostForm.Encode())
	if copied.MultipartForm != nil {
		for _, files := range copied.MultipartForm.File {
			for _, f := range files {
				fmt.Fprintln(sum, f.Filename, f.Size)
			}
		}
	}
	return string(sum.Sum(nil)), nil
}

// A redirectRecorder records the target of a redirect.
type redirectRecorder struct {
	http.ResponseWriter
	location string
}

func (l *redirectRecorder) WriteHeader(status int) {
	if status == http.StatusSeeOther {
		l.location = l.Header().Get("Location")
	}
	l.ResponseWriter.WriteHeader(status)
}

// Unwrap supports http.ResponseController.
func (l *redirectRecorder) Unwrap() http.ResponseWriter { return l.ResponseWriter }

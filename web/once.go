package web

import (
	"bytes"
	"crypto/sha256"
	"fmt"
	"io"
	"net/http"
	"sync"

	"yardbloom/web/page"
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
	answered bool          // false if refused
	location string        // target of the redirect; empty for an answer without content
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

// end records the answer to a submission. A refused submission is dropped, so that the form can
// be sent again.
func (b *submissions) end(key string, s *submission, r *answerRecorder) {
	b.mu.Lock()
	defer b.mu.Unlock()
	s.location = r.location
	if s.answered = r.location != "" || r.status == http.StatusNoContent; !s.answered {
		delete(b.byKey, key)
	}
	close(s.done)
}

// once processes forms with the same key in the field "once", or in the header of a script, only one time if the
// answer is a redirect or has no content. A duplicate waits for the first submission and gets the same answer.
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
				recorder := &answerRecorder{ResponseWriter: w}
				defer func() { s.submissions.end(key, sub, recorder) }()
				next.ServeHTTP(recorder, r)
				return
			}
			select {
			case <-sub.done:
			case <-r.Context().Done():
				return
			}
			switch {
			case sub.location != "":
				http.Redirect(w, r, sub.location, http.StatusSeeOther)
				return
			case sub.answered:
				w.WriteHeader(http.StatusNoContent)
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
	if key := r.Header.Get(page.KeyHeader); key != "" && len(key) <= 64 {
		return r.URL.Path + " " + key, nil
	}
	if _, large := r.Body.(*upload); large { // the key of an upload is in its address
		if key := r.URL.Query().Get("once"); key != "" && len(key) <= 64 {
			return r.URL.Path + " " + key, nil
		}
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

// An answerRecorder records the status of an answer and the target of a redirect.
type answerRecorder struct {
	http.ResponseWriter
	status   int
	location string
}

func (l *answerRecorder) WriteHeader(status int) {
	if l.status = status; status == http.StatusSeeOther {
		l.location = l.Header().Get("Location")
	}
	l.ResponseWriter.WriteHeader(status)
}

// Unwrap supports http.ResponseController.
func (l *answerRecorder) Unwrap() http.ResponseWriter { return l.ResponseWriter }

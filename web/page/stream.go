package page

import (
	"io"
	"net/http"
	"time"
)

// patience is the time for a client to take what was sent of a long download.
const patience = 20 * time.Second

// Stream returns a writer for a long download. The request no longer takes a slot of the server, and its deadline moves as the client takes
// what is sent.
func Stream(w http.ResponseWriter, r *http.Request) io.Writer {
	LeaveQueue(r)
	return &stream{w: w, conn: http.NewResponseController(w)}
}

type stream struct {
	w    io.Writer
	conn *http.ResponseController
	last time.Time
}

func (s *stream) Write(p []byte) (int, error) {
	if now := time.Now(); now.Sub(s.last) > patience/10 {
		_ = s.conn.SetWriteDeadline(now.Add(patience)) // a recorder in a test has no deadlines
		s.last = now
	}
	return s.w.Write(p)
}

// longWork is the time for a response that takes long to compute, such as staging a large file.
const longWork = time.Hour

// TakeLong releases the concurrency slot of a request and extends its write deadline.
func TakeLong(w http.ResponseWriter, r *http.Request) {
	LeaveQueue(r)
	_ = http.NewResponseController(w).SetWriteDeadline(time.Now().Add(longWork)) // a recorder in a test has no deadlines
}

// CutOff ends a download that cannot be completed with a broken connection, so that half of a file is not taken for the whole.
func CutOff() { panic(http.ErrAbortHandler) }

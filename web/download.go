package web

import (
	"context"
	"errors"
	"net/http"
	"strings"
	"time"

	"yardbloom/api"
	"yardbloom/web/page"
)

const (
	// maxDownloads is the number of downloads at the same time. Each reads the database while its client takes what is sent.
	maxDownloads = 6
	// chunkTime is the time for a client to take one write of a download.
	chunkTime = 20 * time.Second
	// slowTime is the time for which the server waits for a client before minSpeed counts.
	slowTime = 30 * time.Second
	// minSpeed is the speed below which a download is cut off, bytes per second of waiting for the client.
	minSpeed = 4 << 10
)

// isDownload reports whether a request asks for a file that can be long.
func isDownload(r *http.Request) bool {
	path := r.URL.Path
	return r.Method == http.MethodGet && (strings.HasSuffix(path, ".csv") || strings.HasSuffix(path, ".zip") || strings.HasSuffix(path, ".db") ||
		strings.HasPrefix(path, "/people/") && strings.HasSuffix(path, "/file") ||
		path == api.Prefix+"/brews" && strings.HasPrefix(r.Header.Get("Accept"), "text/csv"))
}

// limitDownloads limits concurrent downloads, and cuts off those whose client hardly reads.
func (s *Server) limitDownloads(most int, patience time.Duration) func(http.Handler) http.Handler {
	slots := make(chan struct{}, most)
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if !isDownload(r) {
				next.ServeHTTP(w, r)
				return
			}
			waiting, stop := context.WithTimeout(r.Context(), patience)
			defer stop()
			select {
			case slots <- struct{}{}:
				defer func() { <-slots }()
			case <-waiting.Done():
				s.site.Fail(w, r, page.Problem{Status: http.StatusServiceUnavailable, Title: "Too many downloads at once",
					Text: "Try again when one of the others has finished."})
				return
			}
			next.ServeHTTP(&download{ResponseWriter: w, now: time.Now}, r)
		})
	}
}

// errSlow ends a download whose client hardly reads.
var errSlow = errors.New("the client reads too slowly")

// A download is a response that may take long. Its deadline moves as the client takes what is sent.
type download struct {
	http.ResponseWriter
	now    func() time.Time
	bytes  int64
	waited time.Duration // for the client
}

// Unwrap is for http.ResponseController.
func (d *download) Unwrap() http.ResponseWriter { return d.ResponseWriter }

// Write writes a part of the response. It returns errSlow for a client below minSpeed.
func (d *download) Write(p []byte) (int, error) {
	if d.waited > slowTime && float64(d.bytes) < minSpeed*d.waited.Seconds() {
		return 0, errSlow
	}
	began := d.now()
	_ = http.NewResponseController(d.ResponseWriter).SetWriteDeadline(began.Add(chunkTime)) // a recorder in a test has no deadlines
	n, err := d.ResponseWriter.Write(p)
	d.bytes, d.waited = d.bytes+int64(n), d.waited+d.now().Sub(began)
	return n, err
}

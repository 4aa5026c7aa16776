package web

import (
	"io"
	"net/http"
	"os"
	"strings"
	"time"

	"yardbloom/exchange/photo"
)

// Photos are the only large bodies. They go to a temporary file before they are handled.

const (
	// maxUpload is the maximum size of an upload with its form, bytes.
	maxUpload = photo.MaxBytes + 64<<10
	// maxDrained is the number of bytes of a larger one that are read and dropped, so that the browser gets to read the answer.
	maxDrained = 64 << 20
	// maxUploads is the number of uploads at the same time; others wait.
	maxUploads = 4
	// uploadTimes is the time for an upload, relative to a form.
	uploadTimes = 12
)

// isUpload reports whether a request may have a large body.
func isUpload(r *http.Request) bool {
	return r.Method == http.MethodPost && strings.HasPrefix(r.URL.Path, "/brews/") && strings.HasSuffix(r.URL.Path, "/photos")
}

// An upload is a body in a temporary file. Reading one that was too large fails with an *http.MaxBytesError.
type upload struct {
	file *os.File
	over bool
}

func (u *upload) Read(p []byte) (int, error) {
	if u.over {
		return 0, &http.MaxBytesError{Limit: maxUpload}
	}
	return u.file.Read(p)
}

// Close removes the file.
func (u *upload) Close() error {
	err := u.file.Close()
	_ = os.Remove(u.file.Name())
	return err
}

// readUpload copies a body to a temporary file.
func readUpload(body io.Reader) (*upload, error) {
	f, err := os.CreateTemp("", "yardbloom-upload-*")
	if err != nil {
		return nil, err
	}
	u := &upload{file: f}
	n, err := io.Copy(f, io.LimitReader(body, maxUpload+1))
	if err == nil && n > maxUpload {
		u.over = true
		_, err = io.Copy(io.Discard, io.LimitReader(body, maxDrained))
	}
	if err == nil {
		_, err = f.Seek(0, io.SeekStart)
	}
	if err != nil {
		u.Close()
		return nil, err
	}
	return u, nil
}

// uploadTime returns the time for an upload.
func (s *Server) uploadTime() time.Duration { return uploadTimes * s.FormTimeout }

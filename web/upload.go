package web

import (
	"io"
	"net/http"
	"os"
	"strings"
	"time"

	"yardbloom/api"
	"yardbloom/exchange/photo"
	"yardbloom/web/data"
	"yardbloom/web/page"
)

// Photos and files of data are the only large bodies. They go to a temporary file before they are handled.

const (
	// maxForm is the size of the form around an uploaded file, bytes.
	maxForm = 64 << 10
	// maxDrained is the number of bytes of a larger one that are read and dropped, so that the browser gets to read the answer.
	maxDrained = 64 << 20
	// maxUploads is the number of uploads at the same time; others wait.
	maxUploads = 4
)

// An uploadKind is a kind of large body.
type uploadKind struct {
	most  int64 // bytes
	times int   // the time for it, relative to a form
}

// uploadOf returns the kind of a request's large body; nil for any other request.
func uploadOf(r *http.Request) *uploadKind {
	switch {
	case r.Method != http.MethodPost:
		return nil
	case strings.HasPrefix(r.URL.Path, "/brews/") && strings.HasSuffix(r.URL.Path, "/photos"):
		return &uploadKind{photo.MaxBytes + maxForm, 12}
	case r.URL.Path == "/data":
		return &uploadKind{data.MaxBytes + maxForm, 120}
	case r.URL.Path == api.Prefix+api.ImportPath:
		return &uploadKind{data.MaxBytes, 120}
	}
	return nil
}

// An upload is a body in a temporary file. Reading one that was too large fails with an *http.MaxBytesError.
type upload struct {
	file *os.File
	most int64
	size int64
	over bool
}

// ReadAt reads at a place of the body.
func (u *upload) ReadAt(p []byte, at int64) (int, error) {
	if u.over {
		return 0, &http.MaxBytesError{Limit: u.most}
	}
	return u.file.ReadAt(p, at)
}

// Size returns the number of bytes of the body.
func (u *upload) Size() int64 { return u.size }

func (u *upload) Read(p []byte) (int, error) {
	if u.over {
		return 0, &http.MaxBytesError{Limit: u.most}
	}
	return u.file.Read(p)
}

// Close removes the file.
func (u *upload) Close() error {
	err := u.file.Close()
	_ = os.Remove(u.file.Name())
	return err
}

// errNoRoom is the answer to an upload that the disk has no room for.
var errNoRoom = page.Problem{Status: http.StatusInsufficientStorage, Title: "The disk is nearly full",
	Text: "There is no room for this file on the disk with the yard. Nothing was changed. Make room, then send it again."}

// checkRoom returns errNoRoom if an upload of a size, and what is made of it, may fill the disk with the yard. A size of −1 is unknown.
func (s *Server) checkRoom(size int64) error {
	const (
		copies = 3         // the body, the file in it, and the staging of an import
		spare  = 256 << 20 // for the yard itself, bytes
	)
	free, err := s.DiskFree()
	if err != nil {
		return err
	}
	if free < uint64(copies*max(0, size)+spare) {
		return errNoRoom
	}
	return nil
}

// readUpload copies a body to a file in a folder.
func readUpload(body io.Reader, most int64, folder string) (*upload, error) {
	f, err := os.CreateTemp(folder, "upload-*")
	if err != nil {
		return nil, err
	}
	u := &upload{file: f, most: most}
	n, err := io.Copy(f, io.LimitReader(body, most+1))
	if err == nil && n > most {
		u.over = true
		_, err = io.Copy(io.Discard, io.LimitReader(body, maxDrained))
	}
	u.size = n
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
func (s *Server) uploadTime(k *uploadKind) time.Duration {
	return time.Duration(k.times) * s.FormTimeout
}

package web

import (
	"crypto/sha256"
	"encoding/hex"
	"io/fs"
	"net/http"
	"strings"
)

// static serves the built files under a folder that is named by a hash of all of
// them, so that a browser may keep each for good and still gets a new version.
// Addresses inside the style sheet are relative, so they carry the hash too.
type static struct {
	files  http.Handler
	folder string // /static/HASH/
	names  map[string]bool
}

func newStatic(files fs.FS) (*static, error) {
	sum := sha256.New()
	s := &static{names: map[string]bool{}}
	err := fs.WalkDir(files, ".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := fs.ReadFile(files, name)
		sum.Write([]byte(name))
		sum.Write(b)
		s.names[name] = true
		return err
	})
	s.folder = "/static/" + hex.EncodeToString(sum.Sum(nil)[:6]) + "/"
	s.files = http.StripPrefix(s.folder, http.FileServerFS(files))
	return s, err
}

func (s *static) url(name string) string { return s.folder + name }

// serve answers requests for the files of this version only.
func (s *static) serve(w http.ResponseWriter, r *http.Request) bool {
	name, ours := strings.CutPrefix(r.URL.Path, s.folder)
	if !ours || !s.names[name] {
		return false
	}
	w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
	s.files.ServeHTTP(w, r)
	return true
}

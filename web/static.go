package web

import (
	"crypto/sha256"
	"encoding/hex"
	"io/fs"
	"net/http"
	"strings"
)

// static serves the built files. Their addresses carry a hash of their content,
// so that a browser may keep them for ever and still gets each new version.
type static struct {
	files  http.Handler
	hashes map[string]string
}

func newStatic(files fs.FS) (*static, error) {
	s := &static{files: http.StripPrefix("/static/", http.FileServerFS(files)), hashes: map[string]string{}}
	err := fs.WalkDir(files, ".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := fs.ReadFile(files, name)
		sum := sha256.Sum256(b)
		s.hashes[name] = hex.EncodeToString(sum[:6])
		return err
	})
	return s, err
}

func (s *static) url(name string) string { return "/static/" + name + "?v=" + s.hashes[name] }

func (s *static) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	name := strings.TrimPrefix(r.URL.Path, "/static/")
	if _, known := s.hashes[name]; !known {
		http.NotFound(w, r)
		return
	}
	if r.URL.Query().Get("v") == s.hashes[name] {
		w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
	}
	s.files.ServeHTTP(w, r)
}

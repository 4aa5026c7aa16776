package web

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io/fs"
	"net/http"
	"strings"
)

// static serves the built files in a folder named by a hash of all of them, so that browsers can cache each
// file forever and still get a new version. Addresses inside the style sheet are relative, so they contain
// the hash too.
type static struct {
	source fs.FS
	files  http.Handler
	folder string // /static/HASH/
	names  map[string]bool
}

func newStatic(files fs.FS) (*static, error) {
	sum := sha256.New()
	s := &static{source: files, names: map[string]bool{}}
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

// serveWorker serves the service worker, with the folder of this version's files in front. It is
// at the root so that it controls all pages.
func (s *static) serveWorker(w http.ResponseWriter, r *http.Request) {
	script, err := fs.ReadFile(s.source, "sw.js")
	if err != nil {
		http.NotFound(w, r)
		return
	}
	w.Header().Set("Content-Type", "text/javascript; charset=utf-8")
	w.Header().Set("Cache-Control", "no-cache")
	fmt.Fprintf(w, "const STATIC = %q;\n%s", s.folder, script)
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

package web

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io/fs"
	"net/http"
	"slices"
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

// serveManifest serves the description with which a device installs the app.
func (s *static) serveManifest(w http.ResponseWriter, r *http.Request) {
	icon := func(name, sizes, purpose string) map[string]string {
		return map[string]string{"src": s.url(name), "sizes": sizes, "type": "image/png", "purpose": purpose}
	}
	w.Header().Set("Content-Type", "application/manifest+json")
	w.Header().Set("Cache-Control", "no-cache")
	_ = json.NewEncoder(w).Encode(map[string]any{"name": "Yard Bloom", "short_name": "Yard Bloom", "id": "/", "start_url": "/", "scope": "/",
		"display": "standalone", "background_color": paper, "theme_color": paper, "description": "A workbench for filter coffee brewed by hand",
		"icons": []map[string]string{icon("icon-192.png", "192x192", "any"), icon("icon-512.png", "512x512", "any"),
			icon("icon-maskable.png", "512x512", "maskable")}}) // an error means that the browser has gone
}

// paper is the background of pages by day, as in theme.css.
const paper = "#e9f0e8"

// urls returns the addresses of all files that pages load, sorted.
func (s *static) urls() (out []string) {
	for name := range s.names {
		if !strings.HasSuffix(name, ".txt") && name != "sw.js" {
			out = append(out, s.url(name))
		}
	}
	slices.Sort(out)
	return out
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

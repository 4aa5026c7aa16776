package web

import (
	"bytes"
	"crypto/rand"
	"html/template"
	"net/http"
	"path"
	"strings"
	"sync"
)

// A page is what every template is given.
type page struct {
	Title    string
	Station  string // the station of the line that is shown; empty on side tools
	Line     []station
	Side     string // the side tool that is shown
	Notice   *notice
	Wide     bool // no room around: the brew station
	Practice bool // a pour for practice
	Body     any

	Theme  string
	Path   string
	Demo   bool
	SignIn bool
	// Running is a brew that is being poured somewhere else than on this page.
	Running *waiting
	// Untasted is a brew whose cup waits, for the shelf to lead back to it.
	Untasted *waiting
}

// A notice says what was just done, and how to take it back.
type notice struct {
	Text string
	Undo string // the address that takes it back; empty for none
}

// waiting is a brew that somebody should go back to.
type waiting struct{ ID, Name string }

// pages holds the parsed templates, one set per page.
type pages struct{ sets map[string]*template.Template }

func newPages(assets *static) (*pages, error) {
	funcs := template.FuncMap{"asset": assets.url, "explained": explained, "once": rand.Text}
	shared, err := template.New("").Funcs(funcs).ParseFS(templateFiles, "templates/base.html", "templates/parts.html", "templates/line.html")
	if err != nil {
		return nil, err
	}
	files, err := templateFiles.ReadDir("templates")
	if err != nil {
		return nil, err
	}
	p := &pages{sets: map[string]*template.Template{}}
	for _, f := range files {
		set, err := shared.Clone()
		if err != nil {
			return nil, err
		}
		if p.sets[strings.TrimSuffix(f.Name(), ".html")], err = set.ParseFS(templateFiles, path.Join("templates", f.Name())); err != nil {
			return nil, err
		}
	}
	return p, nil
}

// render fills one template. A request by htmx gets the page's inside alone.
func (s *Server) render(w http.ResponseWriter, r *http.Request, status int, name string, p page) {
	p.Path, p.Demo, p.SignIn, p.Theme = r.URL.Path, s.Demo, s.SignIn, themeOf(r)
	if set := settingsOf(r); set.Running != "" && p.Station != "Brew" && !p.Wide && s.mayRead(r) {
		p.Running = &waiting{set.Running, set.RunningName}
	}
	block := "base"
	if isPartial(r) {
		block = "page"
	}
	s.write(w, status, name, block, p)
}

var buffers = sync.Pool{New: func() any { return new(bytes.Buffer) }}

// write executes a block of a template into a buffer first, so that a template
// that fails leaves no half a page.
func (s *Server) write(w http.ResponseWriter, status int, name, block string, data any) {
	b := buffers.Get().(*bytes.Buffer)
	defer buffers.Put(b)
	b.Reset()
	if err := s.pages.sets[name].ExecuteTemplate(b, block, data); err != nil {
		s.Log.Error("template failed", "template", name, "err", err)
		http.Error(w, "The page could not be made. The log says why.", http.StatusInternalServerError)
		return
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Cache-Control", "no-store")
	w.WriteHeader(status)
	_, _ = w.Write(b.Bytes()) // the browser has gone, so there is nobody to report to
}

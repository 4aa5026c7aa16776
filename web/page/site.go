package page

import (
	"bytes"
	"crypto/rand"
	"embed"
	"fmt"
	"html/template"
	"io/fs"
	"log/slog"
	"net/http"
	"slices"
	"strings"
	"sync"
	"time"

	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/words"
)

//go:embed base.html parts.html line.html people.html
var frameFiles embed.FS

//go:embed error.html
var errorFiles embed.FS

// Config describes a Site. All fields but Demo and SignIn are required.
type Config struct {
	Log *slog.Logger
	// Asset returns the address of a static file.
	Asset func(name string) string
	// Explain returns the problem to show for an error.
	Explain func(r *http.Request, err error) Problem
	Now     func() time.Time
	// MayRead reports whether a request may see anything of the yard.
	MayRead func(r *http.Request) bool
	Demo    bool // every page is marked as demo data
	SignIn  bool // pages offer to sign out
	Walk    bool // pages show the walk through the demo yard until it is ended
}

// A Site renders pages.
type Site struct {
	Config
	shared *template.Template
	errors *Views
}

// New returns a site. It panics if an embedded template is broken.
func New(c Config) *Site {
	funcs := template.FuncMap{
		"asset":          c.Asset,
		"explained":      explained,
		"explainedLabel": explainedLabel,
		"linked":         linkedText,
		"outline":        func(m any) string { return outline(fmt.Sprint(m)) },
		"once":           rand.Text,
	}
	s := &Site{Config: c, shared: template.Must(template.New("").Funcs(funcs).ParseFS(frameFiles, "*.html"))}
	s.errors = s.Views(errorFiles)
	return s
}

// explained returns a name, linked to its glossary entry if it is a trade term.
func explained(name string) template.HTML {
	if t, known := words.TermOf(name); known {
		return termLink(t, name, "")
	}
	return template.HTML(template.HTMLEscapeString(name))
}

// explainedLabel is explained for the label of a field, whose link is not a stop of the Tab key.
func explainedLabel(name string) template.HTML {
	term, more, _ := strings.Cut(name, " (")
	t, known := words.TermOf(term)
	if !known {
		return template.HTML(template.HTMLEscapeString(name))
	}
	if more != "" {
		more = " (" + more
	}
	return termLink(t, term, ` tabindex="-1"`) + template.HTML(template.HTMLEscapeString(more))
}

// termLink returns a link to the entry of a term, which a script opens in place.
func termLink(t words.Term, name, more string) template.HTML {
	escape := template.HTMLEscapeString
	return template.HTML(`<a class="term" href="/glossary#` + t.ID + `" data-word="` + escape(t.Word) + `" data-says="` + escape(t.Says) + `"` + more + `>` +
		escape(name) + `</a>`)
}

// walkCookie is set on a screen where the walk was ended.
const walkCookie = "walk"

// EndWalk ends the walk on a screen.
func EndWalk(w http.ResponseWriter) {
	http.SetCookie(w, &http.Cookie{Name: walkCookie, Value: "ended", Path: "/", MaxAge: 400 * 24 * 3600, SameSite: http.SameSiteLaxMode, HttpOnly: true})
}

// walkFor returns the step of the walk at a page; nil if the walk was ended on this screen.
func walkFor(r *http.Request) *walkView {
	if c, err := r.Cookie(walkCookie); err == nil && c.Value != "" {
		return nil
	}
	steps := words.Walk()
	v := &walkView{N: words.WalkAt(r.URL.Path), Of: len(steps)}
	if v.N == 0 {
		v.Next = &steps[0]
		return v
	}
	v.WalkStep = steps[v.N-1]
	if v.N > 1 {
		v.Back = &steps[v.N-2]
	}
	if v.N < len(steps) {
		v.Next = &steps[v.N]
	}
	return v
}

// helpFor returns the help of a page.
func helpFor(p Page) *helpView {
	h, ok := words.HelpOf(p.Station, p.Side)
	if !ok {
		return nil
	}
	v := &helpView{Help: h}
	for _, id := range h.Terms {
		if t, known := words.TermByID(id); known {
			v.Terms = append(v.Terms, t)
		}
	}
	return v
}

// Views are the templates of a feature, one set for each file.
type Views struct {
	site *Site
	sets map[string]*template.Template
}

// Views parses the *.html files of a feature. It panics if one is broken.
func (s *Site) Views(files fs.FS) *Views {
	v := &Views{site: s, sets: map[string]*template.Template{}}
	names, err := fs.Glob(files, "*.html")
	if err != nil {
		panic(err)
	}
	for _, name := range names {
		v.sets[strings.TrimSuffix(name, ".html")] = template.Must(template.Must(s.shared.Clone()).ParseFS(files, name))
	}
	return v
}

// Render writes a page. A request by htmx gets the part inside the frame.
func (v *Views) Render(w http.ResponseWriter, r *http.Request, status int, name string, p Page) {
	p.frame = frame{Theme: Theme(r), Path: r.URL.Path, Demo: v.site.Demo, SignIn: v.site.SignIn}
	p.Shown, p.Others = badges(r)
	p.Help = helpFor(p)
	p.Waits = p.Station != "Brew" && p.Side != "rush" && p.Side != "stage" && p.Side != "signin"
	if v.site.Walk && !slices.Contains([]string{"signin", "first", "offline"}, p.Side) {
		p.Walk = walkFor(r)
	}
	p.By, p.Sound, p.Nobody = PersonID(r), Settings(r).Sound, PersonID(r) == ""
	if set := Settings(r); p.Station != "Brew" && !p.Wide && v.site.MayRead(r) {
		if set.Running != "" {
			p.Running, p.RunningSays = &BrewLink{set.Running, set.RunningName}, runningSays(set, v.site.Now())
		}
		p.Armed = set.Armed()
	}
	block := "base"
	if IsPartial(r) {
		block = "page"
	}
	// Pages that are used while pouring have no links in their text, which changes all the time.
	v.write(w, status, name, block, p, !p.Wide && p.Station != "Brew")
}

// runningSays describes the progress of a running brew by its plan.
func runningSays(set store.Settings, now time.Time) string {
	const forgotten = 15 * 60 // s after its planned end
	switch elapsed := units.Seconds(now.Sub(set.RunningSince.Time).Seconds()); {
	case elapsed < set.RunningPoured:
		return "is being poured."
	case elapsed < set.RunningFinish+forgotten:
		return "drains."
	}
	return "was never ended."
}

var buffers = sync.Pool{New: func() any { return new(bytes.Buffer) }}

// Write writes one block of a template. If the template fails, nothing of it is sent.
func (v *Views) Write(w http.ResponseWriter, status int, name, block string, data any) {
	v.write(w, status, name, block, data, false)
}

// write is Write. With linked, the terms of the trade in it open their glossary entries.
func (v *Views) write(w http.ResponseWriter, status int, name, block string, data any, linked bool) {
	b := buffer()
	defer buffers.Put(b)
	if err := v.sets[name].ExecuteTemplate(b, block, data); err != nil {
		v.site.Log.Error("template failed", "template", name, "err", err)
		http.Error(w, "The page could not be rendered. See the log.", http.StatusInternalServerError)
		return
	}
	if linked {
		plain := b
		b = buffer()
		defer buffers.Put(b)
		linkTerms(b, plain.Bytes())
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Cache-Control", "no-store")
	w.WriteHeader(status)
	_, _ = w.Write(b.Bytes()) // an error means that the browser has gone
}

// buffer returns an empty buffer from the pool.
func buffer() *bytes.Buffer {
	b := buffers.Get().(*bytes.Buffer)
	b.Reset()
	return b
}

// Block returns one block of a template as text.
func (v *Views) Block(name, block string, data any) (string, error) {
	var out strings.Builder
	err := v.sets[name].ExecuteTemplate(&out, block, data)
	return out.String(), err
}

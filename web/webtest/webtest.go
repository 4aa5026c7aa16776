// Package webtest sends requests to a server of the demo yard, for tests of the screens.
package webtest

import (
	"bytes"
	"context"
	"fmt"
	"html"
	"io"
	"log/slog"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"yardbloom/demo"
	"yardbloom/store"
	"yardbloom/web"
	"yardbloom/yard"
)

// Morning is the time at which a visitor's clock begins.
var Morning = time.Date(2026, 5, 12, 9, 40, 0, 0, time.UTC)

// Records of the demo yard.
const (
	Poured  = "long-meadow-3"     // a brew that is not tasted yet
	Planned = "evening-seed-next" // a draft
)

// A Visitor sends requests to a server over the demo data.
type Visitor struct {
	T      testing.TB
	Server *web.Server
	Yard   *yard.Yard
	Store  *store.Store
	Log    *strings.Builder
	Dir    string // the data folder
	Here   string // id of the person at the screen; empty if none is chosen
	now    atomic.Pointer[time.Time]
}

// Now returns the time on the yard's clock, which also its background work reads.
func (v *Visitor) Now() time.Time { return *v.now.Load() }

// SetNow sets the yard's clock.
func (v *Visitor) SetNow(at time.Time) { v.now.Store(&at) }

var (
	filled = sync.OnceValues(func() ([]byte, error) { return demo.File(context.Background(), Morning, false) })
	named  = sync.OnceValues(func() ([]byte, error) { return demo.File(context.Background(), Morning, true) })
)

// Visit opens a demo yard of one person in a temporary folder, without the demo flag.
func Visit(t testing.TB) *Visitor { return visit(t, filled) }

// VisitPeople opens the demo yard with its four people.
func VisitPeople(t testing.TB) *Visitor { return visit(t, named) }

func visit(t testing.TB, made func() ([]byte, error)) *Visitor {
	t.Helper()
	dir := t.TempDir()
	file, err := made()
	if err == nil {
		err = os.WriteFile(filepath.Join(dir, store.FileName), file, 0o600)
	}
	if err != nil {
		t.Fatal(err)
	}
	st, err := store.Open(context.Background(), dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { st.Close() })
	v := &Visitor{T: t, Store: st, Dir: dir, Log: &strings.Builder{}}
	v.SetNow(Morning)
	v.Reopen(func(*yard.Config, *web.Config) {})
	return v
}

// Reopen opens the yard again with other options, as after a restart.
func (v *Visitor) Reopen(change func(*yard.Config, *web.Config)) {
	v.T.Helper()
	of := yard.Config{Store: v.Store, Log: slog.New(slog.NewTextHandler(v.Log, nil)), Now: v.Now}
	var c web.Config
	change(&of, &c)
	y, err := yard.Open(context.Background(), of)
	if err != nil {
		v.T.Fatal(err)
	}
	v.T.Cleanup(y.Close)
	c.Yard = y
	s, err := web.New(c)
	if err != nil {
		v.T.Fatal(err)
	}
	v.Yard, v.Server = y, s
}

// Send sends a request, with pairs of header names and values. A status of 500 or more fails the
// test. Line breaks and no-break spaces of a page become spaces, and sentences are without the links of their terms.
func (v *Visitor) Send(method, path string, form url.Values, header ...string) (int, string, http.Header) {
	v.T.Helper()
	var body io.Reader
	if form != nil {
		body = strings.NewReader(form.Encode())
	}
	r := httptest.NewRequest(method, "http://yard.test"+path, body)
	if form != nil {
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	}
	for i := 0; i+1 < len(header); i += 2 {
		r.Header.Set(header[i], header[i+1])
	}
	return v.do(r)
}

// SendBody posts a body of another kind than a form.
func (v *Visitor) SendBody(path, contentType, body string, header ...string) (int, string, http.Header) {
	v.T.Helper()
	r := httptest.NewRequest("POST", "http://yard.test"+path, strings.NewReader(body))
	r.Header.Set("Content-Type", contentType)
	for i := 0; i+1 < len(header); i += 2 {
		r.Header.Set(header[i], header[i+1])
	}
	return v.do(r)
}

// Upload posts a form with a file, or without one if its name is empty, and returns the status, the page and the head of the answer.
func (v *Visitor) Upload(path, field, name string, file []byte, values ...string) (int, string, http.Header) {
	v.T.Helper()
	var b bytes.Buffer
	m := multipart.NewWriter(&b)
	for i := 0; i+1 < len(values); i += 2 {
		if err := m.WriteField(values[i], values[i+1]); err != nil {
			v.T.Fatal(err)
		}
	}
	if name != "" {
		part, err := m.CreateFormFile(field, name)
		if err == nil {
			_, err = part.Write(file)
		}
		if err != nil {
			v.T.Fatal(err)
		}
	}
	if err := m.Close(); err != nil {
		v.T.Fatal(err)
	}
	return v.SendBody(path, m.FormDataContentType(), b.String())
}

// Serve returns the answer to a request as it is sent. A status of 500 or more fails the test.
func (v *Visitor) Serve(r *http.Request) *httptest.ResponseRecorder {
	v.T.Helper()
	if v.Here != "" {
		r.AddCookie(&http.Cookie{Name: "person", Value: v.Here})
	}
	w := httptest.NewRecorder()
	v.Server.ServeHTTP(w, r)
	if w.Code >= 500 && w.Code != http.StatusServiceUnavailable { // a busy yard is for the test to judge
		v.T.Errorf("%s %s: status %d\n%s", r.Method, r.URL.Path, w.Code, v.Log)
	}
	return w
}

func (v *Visitor) do(r *http.Request) (int, string, http.Header) {
	v.T.Helper()
	w := v.Serve(r)
	body := w.Body.String()
	if strings.HasPrefix(w.Header().Get("Content-Type"), "text/html") {
		body = termLink.ReplaceAllString(lineBreak.ReplaceAllString(body, " "), "$1")
	}
	return w.Code, strings.ReplaceAll(body, "\u00a0", " "), w.Header()
}

// Get requests a page.
func (v *Visitor) Get(path string) (int, string) {
	v.T.Helper()
	code, body, _ := v.Send("GET", path, nil)
	return code, body
}

// Post posts a form of pairs of names and values.
func (v *Visitor) Post(path string, pairs ...string) (int, string) {
	v.T.Helper()
	form := url.Values{}
	for i := 0; i+1 < len(pairs); i += 2 {
		form.Add(pairs[i], pairs[i+1])
	}
	code, body, _ := v.Send("POST", path, form)
	return code, body
}

var (
	termLink  = regexp.MustCompile(`<a class="term" [^>]* data-in="sentence">([^<]*)</a>`)
	lineBreak = regexp.MustCompile(`\n +`) // as templates are indented
	inputs    = regexp.MustCompile(`(?s)<input[^>]*\bname="([^"]+)"[^>]*\bvalue="([^"]*)"`)
	selects   = regexp.MustCompile(`(?s)<select[^>]*\bname="([^"]+)".*?<option value="([^"]*)" selected`)
	wrong     = regexp.MustCompile(`(?s)class="error"[^>]*>[^<]*`)
)

// Fields returns the entries of a page as a browser would post them.
func Fields(page string) url.Values {
	out := url.Values{}
	for _, m := range inputs.FindAllStringSubmatch(page, -1) {
		if !strings.Contains(m[0], `type="checkbox"`) && !strings.Contains(m[0], `type="radio"`) || strings.Contains(m[0], " checked") {
			out.Add(m[1], html.UnescapeString(m[2]))
		}
	}
	for _, m := range selects.FindAllStringSubmatch(page, -1) {
		out.Set(m[1], m[2])
	}
	return out
}

// ErrorsIn returns the sentences beside wrong fields.
func ErrorsIn(page string) []string { return wrong.FindAllString(page, -1) }

// Recipe posts the Recipe station as shown, with some fields changed.
func (v *Visitor) Recipe(typed ...string) (int, url.Values, string) {
	v.T.Helper()
	path := fmt.Sprintf("/brews/%s/recipe", Planned)
	_, page := v.Get(path)
	form := Fields(page)
	for i := 0; i+1 < len(typed); i += 2 {
		form.Set(typed[i], typed[i+1])
	}
	code, body, _ := v.Send("POST", path, form, "HX-Request", "true")
	return code, Fields(body), body
}

// Paste posts recipes as text.
func (v *Visitor) Paste(text string, more ...string) (int, string) {
	v.T.Helper()
	var b bytes.Buffer
	m := multipart.NewWriter(&b)
	m.WriteField("text", text)
	for i := 0; i+1 < len(more); i += 2 {
		m.WriteField(more[i], more[i+1])
	}
	m.Close()
	code, body, _ := v.SendBody("/book", m.FormDataContentType(), b.String())
	return code, body
}

// Short cuts a long text, which would hide the message of a test.
func Short(s string) string {
	const most = 30
	if len(s) > most {
		return s[:most] + "…"
	}
	return s
}

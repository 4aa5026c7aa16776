package web_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"regexp"
	"strings"
	"testing"

	"yardbloom/web/webtest"
)

// Static files, including the fonts of the style sheet, are cached forever, at addresses that change with
// the version.
func TestStaticFilesAreKeptForGood(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	_, page := v.Get("/")
	found := regexp.MustCompile(`(?:href|src)="(/static/[^"]+)"`).FindAllStringSubmatch(page, -1)
	if len(found) < 6 {
		t.Fatalf("the page loads %v", found)
	}
	for _, m := range found {
		code, body, header := v.Send("GET", m[1], nil)
		if code != http.StatusOK || !strings.Contains(header.Get("Cache-Control"), "immutable") {
			t.Errorf("%s: status %d, %q", m[1], code, header.Get("Cache-Control"))
		}
		if strings.HasSuffix(m[1], ".css") {
			folder := m[1][:strings.LastIndex(m[1], "/")+1]
			for _, font := range regexp.MustCompile(`url\(["']?\./([^)"']+)`).FindAllStringSubmatch(body, -1) {
				if code, _, header := v.Send("GET", folder+font[1], nil); code != http.StatusOK ||
					!strings.Contains(header.Get("Cache-Control"), "immutable") {
					t.Errorf("font %s: status %d", font[1], code)
				}
			}
		}
	}
	for _, path := range []string{"/static/app.css", "/static/000000000000/app.css", found[0][1] + "x", "/static/"} {
		if code, body := v.Get(path); code != http.StatusNotFound || !strings.Contains(body, "Not found") {
			t.Errorf("%s: status %d without the error page", path, code)
		}
	}
}

func TestResponsesAreCompressedExceptStreams(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	for path, want := range map[string]string{"/": "gzip", "/brews/" + webtest.Planned +
		"/recipe": "gzip", v.Server.Asset("app.css"): "gzip"} {
		r := httptest.NewRequest("GET", path, nil)
		r.Header.Set("Accept-Encoding", "gzip")
		w := httptest.NewRecorder()
		v.Server.ServeHTTP(w, r)
		if got := w.Header().Get("Content-Encoding"); got != want {
			t.Errorf("%s: encoded as %q", path, got)
		}
	}
	srv := httptest.NewServer(v.Server)
	t.Cleanup(srv.Close)
	t.Cleanup(v.Yard.Close)
	v.Post("/brews/" + webtest.Planned + "/start")
	if first := firstOfStream(t, srv.URL+"/brews/"+webtest.Planned+"/live", ""); !strings.HasPrefix(first, "data: ") {
		t.Errorf("the stream begins with %q", first)
	}
}

// A worker of an older version is replaced: its script names its files, and is never cached without
// revalidation.
func TestWorkerBelongsToItsVersion(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	code, script, header := v.Send("GET", "/sw.js", nil)
	_, page := v.Get("/")
	if code != http.StatusOK || !strings.HasPrefix(script, fmt.Sprintf("const STATIC = %q;", v.Server.Asset(""))) ||
		!strings.Contains(page, v.Server.Asset("")) || header.Get("Cache-Control") != "no-cache" {
		t.Errorf("status %d, %q, %.60q", code, header.Get("Cache-Control"), script)
	}
}

package web

import (
	"net/http"
	"net/http/httptest"
	"regexp"
	"strings"
	"testing"
)

// What a page loads is kept by the browser for good, under an address that a new
// version changes; fonts that the style sheet names too.
func TestStaticFilesAreKeptForGood(t *testing.T) {
	t.Parallel()
	v := visit(t)
	_, page := v.get("/")
	found := regexp.MustCompile(`(?:href|src)="(/static/[^"]+)"`).FindAllStringSubmatch(page, -1)
	if len(found) < 6 {
		t.Fatalf("the page loads %v", found)
	}
	for _, m := range found {
		code, body, header := v.send("GET", m[1], nil)
		if code != http.StatusOK || !strings.Contains(header.Get("Cache-Control"), "immutable") {
			t.Errorf("%s: status %d, %q", m[1], code, header.Get("Cache-Control"))
		}
		if strings.HasSuffix(m[1], ".css") {
			folder := m[1][:strings.LastIndex(m[1], "/")+1]
			for _, font := range regexp.MustCompile(`url\(["']?\./([^)"']+)`).FindAllStringSubmatch(body, -1) {
				if code, _, header := v.send("GET", folder+font[1], nil); code != http.StatusOK || !strings.Contains(header.Get("Cache-Control"), "immutable") {
					t.Errorf("font %s: status %d", font[1], code)
				}
			}
		}
	}
	for _, path := range []string{"/static/app.css", "/static/000000000000/app.css", found[0][1] + "x", "/static/"} {
		if code, body := v.get(path); code != http.StatusNotFound || !strings.Contains(body, "There is nothing here") {
			t.Errorf("%s: status %d without the error page", path, code)
		}
	}
}

func TestAnswersAreCompressedButNotTheStream(t *testing.T) {
	t.Parallel()
	v := visit(t)
	for path, want := range map[string]string{"/": "gzip", "/brews/" + planned + "/recipe": "gzip", v.s.static.url("app.css"): "gzip"} {
		r := httptest.NewRequest("GET", path, nil)
		r.Header.Set("Accept-Encoding", "gzip")
		w := httptest.NewRecorder()
		v.s.ServeHTTP(w, r)
		if got := w.Header().Get("Content-Encoding"); got != want {
			t.Errorf("%s: encoded as %q", path, got)
		}
	}
	srv := httptest.NewServer(v.s)
	t.Cleanup(srv.Close)
	t.Cleanup(v.s.Close)
	v.post("/brews/" + planned + "/start")
	if first := firstOfStream(t, srv.URL+"/brews/"+planned+"/live", ""); !strings.HasPrefix(first, "data: ") {
		t.Errorf("the stream begins with %q", first)
	}
}

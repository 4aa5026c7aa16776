package web

import (
	"context"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"strconv"
	"strings"
	"testing"
	"time"

	"yardbloom/demo"
	"yardbloom/store"
)

// A desk is a server that a benchmark sends requests to.
type desk struct {
	b     *testing.B
	s     *Server
	draft string
}

// openDesk serves a folder of demo data, filled first where it is new.
func openDesk(b *testing.B, dir string, brews int) desk {
	b.Helper()
	ctx := context.Background()
	st, err := store.Open(ctx, dir)
	if err != nil {
		b.Fatal(err)
	}
	b.Cleanup(func() { st.Close() })
	d := desk{b: b, draft: planned}
	if st.New {
		if err := demo.Fill(ctx, st, morning); err != nil {
			b.Fatal(err)
		}
		if brews > 0 {
			if err := demo.FillLarge(ctx, st, morning, brews, 1); err != nil {
				b.Fatal(err)
			}
			if _, err := demo.AddLargeDraft(ctx, st, morning); err != nil {
				b.Fatal(err)
			}
		}
	}
	if brews > 0 {
		d.draft = "large-draft"
	}
	d.s, err = New(Config{Store: st, Log: slog.New(slog.NewTextHandler(io.Discard, nil)), Now: func() time.Time { return morning }})
	if err != nil {
		b.Fatal(err)
	}
	return d
}

func (d desk) send(method, path string, form url.Values) *httptest.ResponseRecorder {
	var body io.Reader
	if form != nil {
		body = strings.NewReader(form.Encode())
	}
	r := httptest.NewRequest(method, path, body)
	if form != nil {
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		r.Header.Set("HX-Request", "true")
	}
	w := httptest.NewRecorder()
	d.s.ServeHTTP(w, r)
	if w.Code != http.StatusOK {
		d.b.Fatalf("%s: status %d", path, w.Code)
	}
	return w
}

// page measures one page, and says how large it is before compression.
func (d desk) page(name, path string) {
	d.b.Run(name, func(b *testing.B) {
		size := 0
		for b.Loop() {
			size = d.send("GET", path, nil).Body.Len()
		}
		b.ReportMetric(float64(size)/1000, "kB")
	})
}

// change measures one changed number on the Recipe station, from the posted form
// to the page with everything worked out anew and kept on disk.
func (d desk) change() {
	d.b.Run("a changed number", func(b *testing.B) {
		form := fields(d.send("GET", "/brews/"+d.draft+"/recipe", nil).Body.String())
		doses, size, i := []string{"18.5", "19"}, 0, 0
		for b.Loop() {
			form.Set("dose", doses[i%2])
			size = d.send("POST", "/brews/"+d.draft+"/recipe", form).Body.Len()
			i++
		}
		b.ReportMetric(float64(size)/1000, "kB")
	})
}

// BenchmarkDemoYard measures the pages of the demo yard.
func BenchmarkDemoYard(b *testing.B) {
	d := openDesk(b, b.TempDir(), 0)
	d.change()
	d.page("shelf", "/")
	d.page("log", "/log")
	d.page("bag", "/bags/slate-terrace")
	d.page("report", "/brews/slate-terrace-4")
}

// BenchmarkLargeYard measures the pages of a yard with a long history: as many
// brews as YARDBLOOM_BREWS says, or 100,000. The yard is made once in
// YARDBLOOM_LARGE, or anew in a folder of its own.
func BenchmarkLargeYard(b *testing.B) {
	brews := 100_000
	if n, err := strconv.Atoi(os.Getenv("YARDBLOOM_BREWS")); err == nil {
		brews = n
	}
	dir := os.Getenv("YARDBLOOM_LARGE")
	if dir == "" {
		dir = b.TempDir()
	}
	d := openDesk(b, dir, brews)
	d.change()
	d.page("shelf", "/")
	d.page("shelf, a later page", "/?after=2024-03-01~bag-00500")
	d.page("log", "/log")
	d.page("log, a later page", "/log?after=2024-03-01T08:00:00Z~x")
	d.page("log of a bag", "/log?bag="+demo.LargeBag)
	d.page("bag", "/bags/"+demo.LargeBag)
	d.page("report", "/brews/"+demo.LargeBrew)
	d.page("advice", "/brews/"+demo.LargeBrew+"/next")
}

// bareHandler answers with one query and nothing else: what a page can be at best.
func BenchmarkBareHandler(b *testing.B) {
	d := openDesk(b, b.TempDir(), 0)
	h := http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		set, err := d.s.Store.Settings(r.Context())
		if err != nil {
			b.Error(err)
		}
		_, _ = io.WriteString(w, strconv.Itoa(set.Altitude))
	})
	for b.Loop() {
		h.ServeHTTP(httptest.NewRecorder(), httptest.NewRequest("GET", "/", nil))
	}
}

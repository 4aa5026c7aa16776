// Command pages writes the pages of the demo yard to a folder, for tools that check HTML.
package main

import (
	"context"
	"flag"
	"fmt"
	"log"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"time"

	"yardbloom/demo"
	"yardbloom/store"
	"yardbloom/web"
	"yardbloom/yard"
)

// first are the pages from which the others can be reached.
var first = []string{"/", "/log", "/book", "/side", "/trials", "/rush", "/stage", "/practice", "/gear", "/learned", "/schools", "/settings",
	"/keys", "/glossary", "/water", "/no/such/page"}

// links matches the addresses in a page.
var links = regexp.MustCompile(`href="(/[^"#]*)"`)

// maxPages limits the number of pages.
const maxPages = 250

func main() {
	out := flag.String("out", "", "folder to write to")
	flag.Parse()
	log.SetFlags(0)
	if err := write(*out); err != nil {
		log.Fatal(err)
	}
}

func write(out string) error {
	ctx, now := context.Background(), time.Date(2026, 5, 12, 9, 40, 0, 0, time.UTC)
	dir, err := os.MkdirTemp("", "pages")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	st, err := store.Open(ctx, dir)
	if err != nil {
		return err
	}
	defer st.Close()
	if err := demo.Fill(ctx, st, now); err != nil {
		return err
	}
	y, err := yard.Open(ctx, yard.Config{Store: st, Log: slog.New(slog.DiscardHandler), Now: func() time.Time { return now }, Demo: true})
	if err != nil {
		return err
	}
	defer y.Close()
	s, err := web.New(web.Config{Yard: y})
	if err != nil {
		return err
	}
	return crawl(s, out)
}

// crawl follows the links of pages and writes each page to a file.
func crawl(s http.Handler, out string) error {
	if err := os.MkdirAll(out, 0o755); err != nil {
		return err
	}
	seen, queue := map[string]bool{}, first
	for len(queue) > 0 && len(seen) < maxPages {
		path := queue[0]
		queue = queue[1:]
		if seen[path] || strings.HasPrefix(path, "/static/") || strings.Contains(path, "card.html") {
			continue
		}
		seen[path] = true
		w := httptest.NewRecorder()
		s.ServeHTTP(w, httptest.NewRequest(http.MethodGet, "http://localhost"+path, nil))
		if !strings.HasPrefix(w.Header().Get("Content-Type"), "text/html") {
			continue
		}
		page := w.Body.String()
		name := strings.NewReplacer("/", "_", "?", "+", "=", "-", "&amp;", "-").Replace(path) + ".html"
		if err := os.WriteFile(filepath.Join(out, name), []byte(page), 0o644); err != nil {
			return err
		}
		for _, m := range links.FindAllStringSubmatch(page, -1) {
			queue = append(queue, strings.ReplaceAll(m[1], "&amp;", "&"))
		}
	}
	fmt.Println(len(seen), "pages")
	return nil
}

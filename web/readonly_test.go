package web_test

import (
	"context"
	"database/sql"
	"fmt"
	"html"
	"maps"
	"net/http/httptest"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	_ "modernc.org/sqlite"

	"yardbloom/store"
	"yardbloom/web/webtest"
)

var links = regexp.MustCompile(`(?:href|src|hx-get|hx-sse:connect)="(/[^"#]*)`)

// dump returns every row of every table of a data folder as text.
func dump(t *testing.T, dir string) map[string][]string {
	t.Helper()
	db, err := sql.Open("sqlite", filepath.Join(dir, store.FileName))
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	strings := func(query string) (out []string) {
		rows, err := db.Query(query)
		if err != nil {
			t.Fatal(err)
		}
		defer rows.Close()
		columns, _ := rows.Columns()
		for rows.Next() {
			values := make([]any, len(columns))
			for i := range values {
				values[i] = new(any)
			}
			if err := rows.Scan(values...); err != nil {
				t.Fatal(err)
			}
			line := ""
			for _, v := range values {
				line += fmt.Sprintf("%v|", *v.(*any))
			}
			out = append(out, line)
		}
		slices.Sort(out)
		return out
	}
	out := map[string][]string{}
	for _, name := range strings(`SELECT name FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite_%'`) {
		name = name[:len(name)-1]
		out[name] = strings("SELECT * FROM " + name)
	}
	return out
}

// No GET changes the yard: a crawl of all pages, parts and streams leaves the database and the scales as they were.
// Mutation caught: a Brew page that arms a scale.
func TestNoGetChangesTheYard(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	v.Yard.WaitForLearning()
	before := dump(t, v.Dir)
	if len(before["brews"]) < 10 || len(before["devices"]) == 0 {
		t.Fatalf("the yard has %d brews and %d devices", len(before["brews"]), len(before["devices"]))
	}
	seen, pending := map[string]bool{}, []string{"/", "/brews/" + webtest.Planned + "/brew?take=window-scale"}
	for len(pending) > 0 {
		path := html.UnescapeString(pending[0])
		pending = pending[1:]
		if seen[path] || strings.HasPrefix(path, "/static/") {
			continue
		}
		seen[path] = true
		if strings.HasSuffix(strings.SplitN(path, "?", 2)[0], "/live") {
			ctx, cancel := context.WithTimeout(context.Background(), 20*time.Millisecond) // for its first event
			v.Server.ServeHTTP(httptest.NewRecorder(), httptest.NewRequestWithContext(ctx, "GET", "http://yard.test"+path, nil))
			cancel()
			continue
		}
		_, page := v.Get(path)
		v.Send("GET", path, nil, "HX-Request", "true")
		v.Send("HEAD", path, nil)
		for _, m := range links.FindAllStringSubmatch(page, -1) {
			pending = append(pending, m[1])
		}
	}
	if len(seen) < 100 || !seen["/brews/"+webtest.Planned+"/brew"] || !seen["/brews/"+webtest.Planned+"/live"] {
		t.Fatalf("%d pages were seen", len(seen))
	}
	v.Yard.WaitForLearning()
	after := dump(t, v.Dir)
	for _, name := range slices.Sorted(maps.Keys(after)) {
		if !slices.Equal(before[name], after[name]) {
			t.Errorf("the table %s has changed from\n%.400s\nto\n%.400s", name, before[name], after[name])
		}
	}
	if l := v.Yard.ScaleUnder(webtest.Planned); l != nil {
		t.Errorf("a page armed %s", l.Title())
	}
}

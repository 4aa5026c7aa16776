package main

import (
	"context"
	"log/slog"
	"math/rand/v2"
	"net/http"
	"net/url"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"yardbloom/store"
	"yardbloom/web"
	"yardbloom/yard"
)

// A route is a method and a pattern of the router.
type route struct{ method, pattern string }

// routes lists the routes of the router.
func (a *arena) routes() (out []route, err error) {
	st, err := store.Open(context.Background(), filepath.Join(a.dir, "for its routes"))
	if err != nil {
		return nil, err
	}
	defer st.Close()
	y, err := yard.Open(context.Background(), yard.Config{Store: st, Log: slog.New(slog.DiscardHandler), Now: time.Now})
	if err != nil {
		return nil, err
	}
	defer y.Close()
	s, err := web.New(web.Config{Yard: y, SignIn: true})
	if err != nil {
		return nil, err
	}
	err = chi.Walk(s.Routes(), func(method, pattern string, _ http.Handler, _ ...func(http.Handler) http.Handler) error {
		if !strings.HasSuffix(pattern, "/live") { // a stream does not end
			out = append(out, route{method, pattern})
		}
		return nil
	})
	return out, err
}

// ids holds values for ids in paths: some of the demo's, and invalid ones.
var ids = map[string][]string{
	"brews":   {"slate-terrace-4", "long-meadow-3", "evening-seed-next", "slate-terrace"},
	"bags":    {"slate-terrace", "first-frost"},
	"recipes": {"evening-seed-next"},
	"gear":    {"brewers/window-cone", "grinders/apron-mill", "kettles/new", "brewers/apron-mill", "sheds/1"},
}

var noIDs = []string{"..%2f..%2fetc", "%00", "-1", "0", "new", "%F0%9F%8C%B1", "a%20b", "%3Cscript%3E", "1;drop", strings.Repeat("x", 3000),
	"%2e%2e", "null"}

var param = regexp.MustCompile(`\{[^}]*\}`)

// path fills in a pattern with valid ids or, with rubbish, invalid ones.
func (r route) path(rubbish bool) string {
	path := strings.TrimSuffix(r.pattern, "*")
	root, _, _ := strings.Cut(strings.TrimPrefix(path, "/"), "/")
	if some := ids[root]; some != nil && !rubbish {
		one := some[rand.IntN(len(some))]
		path = strings.Replace(strings.Replace(path, "{kind}/{id}", one, 1), "{id}", one, 1)
		path = strings.Replace(path, "{what:retire|restore}", "restore", 1)
	}
	return param.ReplaceAllStringFunc(path, func(string) string { return noIDs[rand.IntN(len(noIDs))] })
}

// values are field values typed by people and sent by programs.
var values = []string{"", " ", "0", "-1", "1e308", "1e-308", "NaN", "Inf", "18,5", "999999999999999999999", "\x00", "\xff\xfe", "３",
	"<script>alert(1)</script>", "' OR 1=1 --", "{{.}}",
	"1:16", "2:99", "-0:10", "2026-02-30", "0000-00-00", strings.Repeat("long ", 2000), "🌱", "\u202e", "true", "null", "[]", "yes",
	"advance", "first", "same", "goal_yield"}

// body returns a random invalid body with its media type. names are the fields of the pages.
func body(names []string) (media, text string) {
	switch rand.IntN(8) {
	case 0:
		return "", ""
	case 1:
		return "text/plain", "tds=1"
	case 2:
		return "application/json", `{"tds": 1}`
	case 3:
		return formMedia, []string{"%zz", "a;b", "=&=&=", "&&&", "version=%", strings.Repeat("a=1&", 5000),
			strings.Repeat("x", 300<<10)}[rand.IntN(7)]
	case 4:
		return "multipart/form-data; boundary=x", []string{"", "--x",
			"--x\r\nContent-Disposition: form-data; name=\"file\"; filename=\"r.json\"\r\n\r\n{\"version\": 99}\r\n--x--\r\n"}[rand.IntN(3)]
	}
	form := url.Values{}
	for range 1 + rand.IntN(6) {
		form.Add(names[rand.IntN(len(names))], values[rand.IntN(len(values))])
	}
	return formMedia, form.Encode()
}

var named = regexp.MustCompile(`\bname="([^"]+)"`)

// namesOn returns the names of all fields of the pages.
func namesOn(c *client, routes []route) (names []string, err error) {
	for _, r := range routes {
		if r.method != http.MethodGet {
			continue
		}
		_, page, err := c.send(r.method, r.path(false), "", "")
		if err != nil {
			return nil, err
		}
		for _, m := range named.FindAllStringSubmatch(page, -1) {
			names = append(names, m[1])
		}
	}
	slices.Sort(names)
	return slices.Compact(names), nil
}

// sendRubbish sends invalid input to every route. Each must answer with an error; afterwards the program
// must still run and serve its pages.
func sendRubbish(a *arena) (r result, err error) {
	routes, err := a.routes()
	if err != nil {
		return r, err
	}
	p, err := a.begin("rubbish")
	if err != nil {
		return r, err
	}
	c := newClient(p.URL())
	names, err := namesOn(c, routes)
	if err != nil {
		return r, err
	}
	names = append(names, "key", "kind", "mark", "at", "choice", "goal", "version", "list", "done", "file", "preview", "after", "bag",
		"kept", "retired")
	for range a.rounds(4, 150) {
		for _, one := range routes {
			for _, rubbish := range []bool{false, true} {
				path, media, text := one.path(rubbish), "", ""
				if one.method == http.MethodPost {
					media, text = body(names)
				} else {
					path += "?" + url.Values{names[rand.IntN(len(names))]: {values[rand.IntN(len(values))]}}.Encode()
				}
				r.tried++
				answer, _, err := c.send(one.method, path, media, text)
				switch {
				case err != nil:
					r.harm("%s %.60s with %.80q: %v", one.method, path, text, err)
				case answer.StatusCode >= http.StatusInternalServerError:
					r.harm("%s %.60s with %.80q: %s", one.method, path, text, answer.Status)
				}
			}
		}
	}
	// The brew may have been deleted by its own form: then it comes back whole.
	if _, _, err := c.send(http.MethodPost, "/removed/slate-terrace-4/restore", formMedia, ""); err != nil {
		return r, err
	}
	for _, page := range []string{"/", "/log", "/gear", "/settings", "/bags/slate-terrace", "/brews/slate-terrace-4",
		"/brews/slate-terrace-4/next"} {
		r.tried++
		if answer, _, err := c.send(http.MethodGet, page, "", ""); err != nil {
			r.harm("%s afterwards: %v", page, err)
		} else if answer.StatusCode != http.StatusOK && answer.StatusCode != http.StatusGone { // a bag may have been deleted
			r.harm("%s afterwards: %s", page, answer.Status)
		}
	}
	if _, err := p.Stop(); err != nil {
		return r, err
	}
	for _, line := range strings.Split(p.Said(), "\n") {
		if strings.Contains(line, "panic") {
			r.harm("the log says %.200s", line)
		}
	}
	return r, nil
}

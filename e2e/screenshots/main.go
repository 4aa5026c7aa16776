// Command screenshots takes the pictures of docs/screenshots from the demo yard with a stopped clock, so
// that they change only with a view.
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"log"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"yardbloom/core/brew"
	"yardbloom/demo"
	"yardbloom/e2e/yard"
	"yardbloom/store"
)

// A view is one picture: its address, size and theme, and the actions before it.
type view struct {
	name, path    string
	width, height int64
	theme         string
	poured        int    // a simulated hand pours the brew up to this second first
	rush          bool   // a rush is created and started first
	simple        bool   // Marta sees the simple Recipe station
	do            string // executed on the page first
}

// The bags of the demo yard by their index in the story.
const (
	slateTerrace = "slate-terrace"
)

var views = []view{
	{name: "first-run", path: "/first/brewer"},
	{name: "coffee", path: "/"},
	{name: "bag", path: "/bags/" + slateTerrace},
	{name: "recipe", path: "/brews/evening-seed-next/recipe", do: `document.querySelector("#setting").focus()`},
	{name: "phone-recipe", path: "/brews/evening-seed-next/recipe", width: 390, height: 844, simple: true},
	{name: "set-up", path: "/brews/evening-seed-next/setup"},
	{name: "cup", path: "/brews/winter-stores-4/cup"},
	{name: "next", path: "/brews/slate-terrace-4/next?for=ivo", width: 1280, height: 1180},
	{name: "trial", path: "/trials/trial-water"},
	{name: "log", path: "/log?q=terrace&low=5", height: 1000},
	{name: "comparison", path: "/log/compare?id=" + slateTerrace + "-1&id=" + slateTerrace + "-4", height: 1000},
	{name: "yard", path: "/yard", height: 1000},
	{name: "learned", path: "/learned"},
	{name: "gear", path: "/gear/grinders/apron-mill"},
	{name: "brew-pouring", path: brewing, poured: 58},
	{name: "night-brew", path: brewing, poured: 96, theme: "night", width: 820, height: 1180},
	{name: "phone-brew", path: brewing, poured: 102, width: 390, height: 844},
	{name: "after", path: "/brews/evening-seed-next", poured: 300, height: 1000},
	{name: "rush", path: "/rush", rush: true},
}

// brewing is the brew that the simulated hand pours for the pictures.
const brewing = "/brews/evening-seed-next/brew"

// rushing orders four brews, and starts the rush and its first brew.
func rushing(s *yard.Screen) error {
	const order = `(document.querySelectorAll("input[name^='order.']").forEach((e, i) => { e.value = [2, 1, 1][i] ?? 0 }),
		document.querySelector("#same").value = 2, document.querySelector("main form").submit(), true)`
	if _, err := yard.Eval[bool](s, order); err != nil {
		return err
	}
	for _, there := range []string{`document.querySelector("#board")`, `document.querySelector("#tap .clock")`} {
		if err := s.Until(there + ` && document.readyState === "complete"`); err != nil {
			return err
		}
		if err := s.Press(" "); err != nil {
			return err
		}
	}
	return s.Until(`document.querySelector("#tap .pouring")`)
}

func main() {
	out := flag.String("out", "docs/screenshots", "folder to write to")
	only := flag.String("only", "", "comma-separated names; all where empty")
	width := flag.Int64("width", 0, "override the width")
	theme := flag.String("theme", "", "override the theme")
	path := flag.String("path", "", "take one picture of this path, named shot")
	flag.Parse()
	log.SetFlags(0)
	if *path != "" {
		views = append(views, view{name: "shot", path: *path})
		*only = strings.TrimPrefix(*only+",shot", ",")
	}
	if err := run(*out, *only, *width, *theme); err != nil {
		log.Fatal(err)
	}
}

func run(out, only string, width int64, theme string) error {
	dir, err := os.MkdirTemp("", "yard")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	y, err := yard.Start(dir, true)
	if err != nil {
		return err
	}
	defer y.Close()
	if err := demo.Name(context.Background(), y.Store); err != nil {
		return err
	}
	screen, err := yard.Browser()
	if err != nil {
		return err
	}
	defer screen.Close()
	if err := os.MkdirAll(out, 0o755); err != nil {
		return err
	}
	for _, v := range views {
		if only != "" && !slices.Contains(strings.Split(only, ","), v.name) && v.poured == 0 {
			continue
		}
		if width != 0 {
			v.width = width
		}
		if theme != "" {
			v.theme = theme
		}
		png, err := v.take(y, screen)
		if err != nil {
			return fmt.Errorf("%s: %w", v.name, err)
		}
		if only != "" && !slices.Contains(strings.Split(only, ","), v.name) {
			continue
		}
		if err := os.WriteFile(filepath.Join(out, v.name+".png"), png, 0o644); err != nil {
			return err
		}
		log.Println(v.name)
	}
	return nil
}

func (v view) take(y *yard.Yard, s *yard.Screen) ([]byte, error) {
	w, h, theme := v.width, v.height, v.theme
	if w == 0 {
		w = 1280
	}
	if h == 0 {
		h = 800
	}
	if theme == "" {
		theme = "day"
	}
	if err := y.Store.SaveFullRecipe(context.Background(), "marta", !v.simple); err != nil {
		return nil, err
	}
	steps := []func() error{
		func() error { return s.Size(w, h) },
		func() error { return s.Open(y.URL + "/keys") },
		func() error {
			_, err := yard.Eval[string](s, fmt.Sprintf(`document.cookie = "theme=%s; path=/"; document.cookie = "person=marta; path=/"`, theme))
			return err
		},
		func() error { return s.Open(y.URL + v.path) },
	}
	if v.poured > 0 {
		if err := pourTo(y, s, v.poured); err != nil {
			return nil, err
		}
	}
	if v.rush {
		steps = append(steps, func() error { return rushing(s) })
	}
	for _, step := range steps {
		if err := step(); err != nil {
			return nil, err
		}
	}
	if v.do == "" {
		v.do = "document.activeElement.blur()"
	}
	if _, err := yard.Eval[bool](s, `document.fonts.ready.then(() => { `+v.do+`; return true })`); err != nil {
		return nil, err
	}
	time.Sleep(300 * time.Millisecond) // for the first tick of a clock
	return s.Picture()
}

// pourTo lets the simulated hand pour the brew up to a second. It starts the brew if necessary, and
// advances the clock slowly enough for the yard to follow.
func pourTo(y *yard.Yard, s *yard.Screen, second int) error {
	id := "evening-seed-next"
	b, err := y.Store.Brew(context.Background(), id)
	if errors.Is(err, store.ErrNotFound) {
		if err := s.Open(y.URL + brewing); err != nil {
			return err
		}
		if _, err := yard.Eval[bool](s, `(document.querySelector('select[name="manner"]').value = "heavy",
			document.querySelector('form[action$="/watch"]').submit(), true)`); err != nil {
			return err
		}
		if err := s.Until(`document.querySelector("#brew")?.dataset.status === "running"`); err != nil {
			return err
		}
		b, err = y.Store.Brew(context.Background(), id)
	}
	if err != nil {
		return err
	}
	for b.Started.Add(time.Duration(second)*time.Second).After(y.Clock.Now()) && b.Status == brew.Running {
		y.Clock.Add(500 * time.Millisecond)
		time.Sleep(120 * time.Millisecond)
		if b, err = y.Store.Brew(context.Background(), id); err != nil {
			return err
		}
	}
	return nil
}

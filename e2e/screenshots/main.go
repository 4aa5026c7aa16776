// Command screenshots takes the pictures of docs/screenshots from the demo yard,
// whose clock stands still, so that they change only when a view does.
package main

import (
	"flag"
	"fmt"
	"log"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"yardbloom/e2e/yard"
)

// A view is one picture: where it is, how large, in which theme, and what is
// done before it is taken.
type view struct {
	name, path    string
	width, height int64
	theme         string
	pouring       bool   // begin the brew and move the clock into its second pour first
	do            string // is done on the page first
}

// The bags of the demo yard by their place in its story.
const (
	slateTerrace = "slate-terrace"
)

var views = []view{
	{name: "coffee", path: "/"},
	{name: "bag", path: "/bags/" + slateTerrace},
	{name: "recipe", path: "/brews/evening-seed-next/recipe", do: `document.querySelector("#setting").focus()`},
	{name: "recipe-pours", path: "/brews/evening-seed-next/recipe", do: dragging},
	{name: "book", path: "/book"},
	{name: "card", path: "/brews/slate-terrace-3-kept/card"},
	{name: "schools", path: "/schools"},
	{name: "set-up", path: "/brews/evening-seed-next/setup"},
	{name: "cup", path: "/brews/winter-stores-4/cup"},
	{name: "next", path: "/brews/slate-terrace-3/next", width: 1280, height: 1180},
	{name: "next-account", path: "/brews/slate-terrace-3/next", do: `document.querySelector(".account").open = true; document.querySelector(".account").scrollIntoView()`},
	{name: "side", path: "/side/window-morning"},
	{name: "trial", path: "/trials/trial-water"},
	{name: "log", path: "/log"},
	{name: "taught", path: "/learned"},
	{name: "gear", path: "/gear/grinders/apron-mill"},
	{name: "brew-pouring", path: "/brews/evening-seed-next/brew", pouring: true},
	{name: "night-brew", path: "/brews/evening-seed-next/brew", theme: "night"},
	{name: "phone-brew", path: "/brews/evening-seed-next/brew", width: 390, height: 844},
}

// dragging takes the third pour by its roof and holds it a little higher.
const dragging = `(() => { const grip = document.querySelector('.ribbon-wide [data-grip="pours.3.water"]'); grip.setPointerCapture = () => {};
	const r = grip.getBoundingClientRect(), x = r.x + r.width / 2, y = r.y + r.height / 2;
	for (const [type, up] of [["pointerdown", 0], ["pointermove", 24]]) grip.dispatchEvent(new PointerEvent(type, {pointerId: 7, button: 0, clientX: x, clientY: y - up, bubbles: true, cancelable: true})); })()`

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
	screen, err := yard.Browser()
	if err != nil {
		return err
	}
	defer screen.Close()
	if err := os.MkdirAll(out, 0o755); err != nil {
		return err
	}
	for _, v := range views {
		if only != "" && !slices.Contains(strings.Split(only, ","), v.name) && !v.pouring {
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
	steps := []func() error{
		func() error { return s.Size(w, h) },
		func() error { return s.Open(y.URL + "/keys") },
		func() error {
			_, err := yard.Eval[string](s, fmt.Sprintf(`document.cookie = "theme=%s; path=/"`, theme))
			return err
		},
		func() error { return s.Open(y.URL + v.path) },
	}
	if v.pouring {
		steps = append(steps,
			func() error { return s.Click("#tap") },
			func() error { return s.Until(`document.querySelector("#live")`) },
			func() error { y.Clock.Add(54 * time.Second); return s.Reload() })
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

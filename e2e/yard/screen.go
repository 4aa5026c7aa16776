package yard

import (
	"context"
	"encoding/json"
	"fmt"
	"os/exec"
	"strings"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
)

// A Screen is a tab of a headless Chromium. Its methods wait for elements and conditions, at most patience.
type Screen struct {
	ctx  context.Context
	stop func()
}

const patience = 4 * time.Minute

// Browser starts a Chromium with one screen.
func Browser() (*Screen, error) {
	path, err := exec.LookPath("chromium")
	if err != nil {
		return nil, fmt.Errorf("no chromium (make test installs it): %w", err)
	}
	options := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.ExecPath(path), chromedp.NoSandbox,
		chromedp.Flag("disable-quic", true), chromedp.Flag("disable-component-update", true),
		chromedp.Flag("autoplay-policy", "no-user-gesture-required"))
	alloc, stopAlloc := chromedp.NewExecAllocator(context.Background(), options...)
	ctx, stopTab := chromedp.NewContext(alloc)
	s := &Screen{ctx, func() { stopTab(); stopAlloc() }}
	return s, chromedp.Do(ctx)
}

// Another opens another screen of the same browser.
func (s *Screen) Another() (*Screen, error) {
	ctx, stop := chromedp.NewContext(s.ctx)
	return &Screen{ctx, stop}, chromedp.Do(ctx)
}

// Device opens a screen with separate cookies and storage.
func (s *Screen) Device() (*Screen, error) {
	ctx, stop := chromedp.NewContext(s.ctx, chromedp.WithNewBrowserContext())
	return &Screen{ctx, stop}, chromedp.Do(ctx)
}

// Close closes the screen; closing the first one also closes the browser.
func (s *Screen) Close() { s.stop() }

// do runs actions, each waiting at most patience.
func (s *Screen) do(actions ...chromedp.Action[chromedp.Void]) error {
	ctx, cancel := context.WithTimeout(s.ctx, patience)
	defer cancel()
	return chromedp.Do(ctx, actions...)
}

// Size sets the size of the screen in CSS pixels.
func (s *Screen) Size(width, height int64) error {
	return s.do(chromedp.EmulateViewport(width, height))
}

// Throttle makes the processor of the screen slower by a factor.
func (s *Screen) Throttle(slower float64) error {
	ctx, cancel := context.WithTimeout(s.ctx, patience)
	defer cancel()
	_, err := chromedp.Run(ctx, func(ctx context.Context, t *chromedp.Target) (cdp.Empty, error) {
		return cdp.Call(ctx, t, emulation.SetCPUThrottlingRate, emulation.SetCPUThrottlingRateParams{Rate: slower})
	})
	return err
}

// Open opens an address, again if a page that was still loading has aborted it.
func (s *Screen) Open(url string) error {
	return again("net::ERR_ABORTED", func() error { return s.do(chromedp.Navigate(url)) })
}

// Reload loads the page again.
func (s *Screen) Reload() error { return s.do(chromedp.Reload()) }

// Click presses the first visible element that matches a CSS selector.
func (s *Screen) Click(css string) error {
	return s.there(func() error { return s.do(chromedp.Click(chromedp.CSS(css))) })
}

// there repeats an action on an element that the page has replaced meanwhile.
func (s *Screen) there(do func() error) error { return again("Could not find node", do) }

// again calls do up to five times, as long as its error contains a text.
func again(text string, do func() error) (err error) {
	for range 5 {
		if err = do(); err == nil || !strings.Contains(err.Error(), text) {
			return err
		}
	}
	return err
}

// Press presses keys on the focused element.
func (s *Screen) Press(keys string, modifiers ...chromedp.Modifier) error {
	return s.do(chromedp.KeyEvent(keys, chromedp.KeyModifiers(modifiers...)))
}

// Focus focuses an element.
func (s *Screen) Focus(css string) error {
	return s.there(func() error { return s.do(chromedp.Focus(chromedp.CSS(css))) })
}

// Fill replaces the text of a field.
func (s *Screen) Fill(css, text string) error {
	if err := s.Focus(css); err != nil {
		return err
	}
	if _, err := Eval[bool](s, fmt.Sprintf(`(document.querySelector(%s).select(), true)`, quote(css))); err != nil {
		return err
	}
	return s.do(chromedp.KeyEvent(text))
}

// Choose selects an option.
func (s *Screen) Choose(css, value string) error {
	_, err := Eval[bool](s, fmt.Sprintf(`(() => { const e = document.querySelector(%s); e.value = %s;
		e.dispatchEvent(new Event("change", {bubbles: true})); return true })()`, quote(css), quote(value)))
	return err
}

// Upload chooses a file in a field.
func (s *Screen) Upload(css, file string) error {
	return s.there(func() error { return s.do(chromedp.SetUploadFiles(chromedp.CSS(css), []string{file})) })
}

// Eval evaluates an expression in the page.
func Eval[T any](s *Screen, js string) (T, error) {
	ctx, cancel := context.WithTimeout(s.ctx, patience)
	defer cancel()
	return chromedp.Run(ctx, chromedp.Evaluate[T](js, chromedp.EvalAwaitPromise))
}

// Text returns the visible text of an element, empty if the element does not exist.
func (s *Screen) Text(css string) (string, error) {
	return Eval[string](s, fmt.Sprintf(`(document.querySelector(%s)?.innerText ?? "").trim()`, quote(css)))
}

// Value returns the value of a field.
func (s *Screen) Value(css string) (string, error) {
	return Eval[string](s, fmt.Sprintf(`document.querySelector(%s).value`, quote(css)))
}

// Path returns the path of the page.
func (s *Screen) Path() (string, error) { return Eval[string](s, `location.pathname`) }

// Until waits until an expression, or the value that it promises, is true.
func (s *Screen) Until(js string) error {
	end := time.Now().Add(patience)
	for {
		ok, err := Eval[bool](s, "(async () => !!(await ("+js+")))()")
		if ok {
			return nil
		}
		if time.Now().After(end) {
			body, _ := s.Text("body") // the page's text helps to find the cause
			return fmt.Errorf("still not %s (last error: %v); the page says:\n%s", js, err, body)
		}
		time.Sleep(30 * time.Millisecond)
	}
}

// UntilText waits until an element contains a text.
func (s *Screen) UntilText(css, text string) error {
	return s.Until(fmt.Sprintf(`(e => e && (e.innerText ?? e.textContent).includes(%s))(document.querySelector(%s))`, quote(text),
		quote(css)))
}

// UntilPath waits for a path.
func (s *Screen) UntilPath(path string) error {
	return s.Until(fmt.Sprintf(`location.pathname === %s && document.readyState === "complete"`, quote(path)))
}

// Picture returns a PNG of the screen.
func (s *Screen) Picture() ([]byte, error) {
	ctx, cancel := context.WithTimeout(s.ctx, patience)
	defer cancel()
	return chromedp.Run(ctx, chromedp.CaptureScreenshot())
}

func quote(s string) string {
	b, _ := json.Marshal(s) // strings always marshal
	return string(b)
}

// PDF returns the printed page, in the paper size of its style sheet.
func (s *Screen) PDF() ([]byte, error) {
	ctx, cancel := context.WithTimeout(s.ctx, patience)
	defer cancel()
	asIs := true
	return chromedp.Run(ctx, func(ctx context.Context, t *chromedp.Target) ([]byte, error) {
		res, err := cdp.Call(ctx, t, page.PrintToPDF, page.PrintToPDFParams{PreferCSSPageSize: &asIs, PrintBackground: &asIs})
		return res.Data, err
	})
}

// Package yard starts a yard for browser tests: a server over a demo store with its own clock, and a
// headless Chromium.
package yard

import (
	"context"
	"errors"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"sync"
	"time"

	"yardbloom/demo"
	"yardbloom/store"
	"yardbloom/web"
	"yardbloom/yard"
)

// Morning is the initial time of a demo yard's clock.
var Morning = time.Date(2026, 5, 12, 9, 40, 0, 0, time.FixedZone("", 2*3600))

// A Clock is an adjustable wall clock. It is stopped until Run.
type Clock struct {
	mu      sync.Mutex
	at      time.Time
	running time.Time // real time of Run; zero: stopped
}

// Now returns the time on the clock.
func (c *Clock) Now() time.Time {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.running.IsZero() {
		return c.at
	}
	return c.at.Add(time.Since(c.running))
}

// Add moves the clock.
func (c *Clock) Add(d time.Duration) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.at = c.at.Add(d)
}

// Run starts the clock.
func (c *Clock) Run() {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.running = time.Now()
}

// A Yard is a running server.
type Yard struct {
	URL   string
	Store *store.Store
	Clock *Clock
	close func()
}

// filled is the database of a demo yard, created once.
var filled = sync.OnceValues(func() ([]byte, error) { return demo.File(context.Background(), Morning, false) })

// Start serves a new yard from a folder: with the demo data, or empty.
func Start(dir string, withDemo bool) (*Yard, error) {
	ctx := context.Background()
	clock := &Clock{at: Morning}
	if path := filepath.Join(dir, store.FileName); withDemo {
		if _, err := os.Stat(path); errors.Is(err, fs.ErrNotExist) {
			yard, err := filled()
			if err == nil {
				err = os.WriteFile(path, yard, 0o600)
			}
			if err != nil {
				return nil, err
			}
		}
	}
	st, err := store.Open(ctx, dir)
	if err != nil {
		return nil, err
	}
	running, err := yard.Open(ctx, yard.Config{Store: st, Log: slog.New(slog.NewTextHandler(os.Stderr, nil)), Now: clock.Now,
		Demo: withDemo})
	if err != nil {
		return nil, err
	}
	handler, err := web.New(web.Config{Yard: running})
	if err != nil {
		return nil, err
	}
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	srv := &http.Server{Handler: handler, ReadHeaderTimeout: time.Minute}
	go srv.Serve(listener) // ends with Close
	return &Yard{URL: "http://" + listener.Addr().String(), Store: st, Clock: clock, close: func() {
		running.Close()
		srv.Close()
		st.Close()
	}}, nil
}

// Close stops the server and closes its store.
func (y *Yard) Close() { y.close() }

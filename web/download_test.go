package web

import (
	"errors"
	"net/http"
	"net/http/httptest"
	"testing"
	"time"
)

// slowClient takes a time for each write.
type slowClient struct {
	*httptest.ResponseRecorder
	takes time.Duration
	clock *time.Time
}

func (c *slowClient) Write(p []byte) (int, error) {
	*c.clock = c.clock.Add(c.takes)
	return c.ResponseRecorder.Write(p)
}

// A client that hardly reads is cut off, a slow connection and a slow server are not. Mutations caught: a speed that counts the time in
// which the server computes, one that counts from the first byte, no limit at all.
func TestDownloadsHaveAMinimumSpeed(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct {
		chunk           int
		takes, computes time.Duration
		cut             bool
	}{
		"a client that hardly reads": {512, 2 * time.Second, 0, true},
		"a slow connection":          {32 << 10, 4 * time.Second, 0, false},
		"a slow server":              {512, time.Millisecond, time.Minute, false},
		"a stall at the beginning":   {8 << 10, time.Second, 0, false},
	} {
		clock := time.Date(2026, 5, 12, 9, 40, 0, 0, time.UTC)
		d := &download{ResponseWriter: &slowClient{httptest.NewRecorder(), c.takes, &clock}, now: func() time.Time { return clock }}
		var err error
		for range 100 {
			clock = clock.Add(c.computes)
			if _, err = d.Write(make([]byte, c.chunk)); err != nil {
				break
			}
		}
		if errors.Is(err, errSlow) != c.cut {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// Downloads wait for each other, pages do not wait for them. Mutations caught: pages that count as downloads, a slot that is not given back,
// a download in the API that does not count.
func TestDownloadsAreBounded(t *testing.T) {
	t.Parallel()
	for path, want := range map[string]bool{"/log.csv": true, "/data/yard.zip": true, "/settings/backup.db": true, "/people/ada/file": true,
		"/brews/x/trace.csv": true, "/api/v1/brews.csv": true, "/api/v1/brews": true, "/log": false, "/recipe.json": false, "/": false} {
		r := httptest.NewRequest("GET", path, nil)
		r.Header.Set("Accept", "text/csv")
		if isDownload(r) != want {
			t.Errorf("%s: a download %v", path, !want)
		}
	}
	entered, leave := make(chan struct{}), make(chan struct{})
	s := &Server{}
	limited := s.limitDownloads(1, time.Hour)(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if isDownload(r) {
			entered <- struct{}{}
			<-leave
		}
	}))
	get := func(path string) chan struct{} {
		done := make(chan struct{})
		go func() {
			limited.ServeHTTP(httptest.NewRecorder(), httptest.NewRequest("GET", path, nil))
			close(done)
		}()
		return done
	}
	first := get("/log.csv")
	<-entered
	<-get("/log") // does not wait
	second := get("/data/yard.zip")
	select {
	case <-entered:
		t.Error("two downloads at once")
	default:
	}
	leave <- struct{}{}
	<-first
	<-entered
	leave <- struct{}{}
	<-second
}

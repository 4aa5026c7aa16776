package web_test

import (
	"bufio"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"yardbloom/web"
	"yardbloom/web/page"
	"yardbloom/web/webtest"
	"yardbloom/yard"
)

// serve runs a visitor's server on a real connection.
func serve(v *webtest.Visitor) (addr string) {
	srv := httptest.NewServer(v.Server)
	v.T.Cleanup(func() { v.Yard.Close(); srv.Close() })
	return srv.Listener.Addr().String()
}

// Many clients with unfinished forms do not block others. Mutation caught: handlers that read the body
// themselves, so that slow clients occupy all slots.
func TestSlowBodiesDoNotBlockOthers(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	addr := serve(v)
	for range 3 * web.MaxConcurrent {
		conn, err := net.Dial("tcp", addr)
		if err != nil {
			t.Fatal(err)
		}
		defer conn.Close()
		fmt.Fprintf(conn, "POST /settings HTTP/1.1\r\nHost: localhost\r\nContent-Type: "+
			"application/x-www-form-urlencoded\r\nContent-Length: 1000\r\n\r\nalt")
	}
	client := http.Client{Timeout: web.QueueTime}
	for range 5 {
		page, err := client.Get("http://" + addr + "/log")
		if err != nil {
			t.Fatal(err)
		}
		io.Copy(io.Discard, page.Body)
		if page.Body.Close(); page.StatusCode != http.StatusOK {
			t.Errorf("a page answers %d", page.StatusCode)
		}
	}
}

// A form that does not arrive in time gets an error page, changes nothing, and its connection is closed.
func TestUnfinishedFormGetsAnError(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	v.Reopen(func(_ *yard.Config, c *web.Config) { c.FormTimeout = 200 * time.Millisecond })
	conn, err := net.Dial("tcp", serve(v))
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Close()
	fmt.Fprintf(conn, "POST /settings HTTP/1.1\r\nHost: localhost\r\nContent-Type: application/x-www-form-urlencoded\r\nContent-Length: "+
		"1000\r\n\r\naltitude=")
	conn.SetReadDeadline(time.Now().Add(time.Minute))
	answer, err := http.ReadResponse(bufio.NewReader(conn), nil)
	if err != nil {
		t.Fatal(err)
	}
	if body, _ := io.ReadAll(answer.Body); answer.StatusCode != http.StatusRequestTimeout ||
		!strings.Contains(string(body), "took too long to arrive") {
		t.Errorf("status %d", answer.StatusCode)
	}
	if _, err := conn.Read(make([]byte, 1)); err != io.EOF {
		t.Errorf("the connection stays open: %v", err)
	}
}

// A request without a free slot gets an error page, and a stream occupies no slot.
func TestConcurrencyLimit(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	const most, patience = 2, 50 * time.Millisecond
	inside, out := make(chan bool), make(chan bool)
	h := v.Server.LimitConcurrency(most, patience)(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/stream" {
			page.LeaveQueue(r)
		}
		inside <- true
		<-out
	}))
	ask := func(path string) chan int {
		done := make(chan int, 1)
		go func() {
			w := httptest.NewRecorder()
			h.ServeHTTP(w, httptest.NewRequest(http.MethodGet, path, nil))
			done <- w.Code
		}()
		return done
	}
	for range 3 * most {
		ask("/stream")
		<-inside
	}
	for range most {
		ask("/page")
		<-inside
	}
	if code := <-ask("/page"); code != http.StatusServiceUnavailable {
		t.Errorf("one too many: status %d", code)
	}
	waits := ask("/page")
	close(out)
	<-inside
	if code := <-waits; code != http.StatusOK {
		t.Errorf("after waiting: status %d", code)
	}
}

// An upload that may fill the disk is refused before it is read, and changes nothing. Mutations caught: a check after the file was
// written, a check of every form, room for the body alone.
func TestUploadNeedsRoomOnTheDisk(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	const free = 280 << 20
	v.Server.DiskFree = func() (uint64, error) { return free, nil }
	for size, want := range map[int64]int{10 << 20: http.StatusInsufficientStorage, 1 << 10: http.StatusUnprocessableEntity} {
		r := httptest.NewRequest("POST", "/data", strings.NewReader(strings.Repeat("x", 1<<10)))
		r.ContentLength = size
		r.Header.Set("Content-Type", "multipart/form-data; boundary=x")
		r.Header.Set("Sec-Fetch-Site", "same-origin")
		r.Host = "localhost"
		w := httptest.NewRecorder()
		v.Server.ServeHTTP(w, r)
		if w.Code != want || want == http.StatusInsufficientStorage && !strings.Contains(w.Body.String(), "no room for this file") {
			t.Errorf("%d bytes: status %d, %.300s", size, w.Code, w.Body)
		}
	}
	if code, _ := v.Post("/theme", "theme", "night"); code >= 400 {
		t.Errorf("another form: status %d", code)
	}
	left, err := os.ReadDir(filepath.Join(v.Dir, "temporary"))
	if err != nil || len(left) > 0 {
		t.Errorf("left over: %v, %v", left, err)
	}
}

package web

import (
	"bufio"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"
)

// serve puts a visitor's server on a real connection.
func (v *visitor) serve() (addr string) {
	srv := httptest.NewServer(v.s)
	v.t.Cleanup(func() { v.s.Close(); srv.Close() })
	return srv.Listener.Addr().String()
}

// Many clients that begin a form and never end it hold up nobody: without reading the
// body first they take every place there is.
func TestSlowBodiesHoldUpNobody(t *testing.T) {
	t.Parallel()
	v := visit(t)
	addr := v.serve()
	for range 3 * mostAtOnce {
		conn, err := net.Dial("tcp", addr)
		if err != nil {
			t.Fatal(err)
		}
		defer conn.Close()
		fmt.Fprintf(conn, "POST /settings HTTP/1.1\r\nHost: localhost\r\nContent-Type: application/x-www-form-urlencoded\r\nContent-Length: 1000\r\n\r\nalt")
	}
	client := http.Client{Timeout: queueTime}
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

// A form that does not arrive is told so, with nothing changed, and its connection ends.
func TestAFormThatDoesNotArriveIsToldSo(t *testing.T) {
	t.Parallel()
	v := visit(t)
	v.s.bodyTime = 200 * time.Millisecond
	conn, err := net.Dial("tcp", v.serve())
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Close()
	fmt.Fprintf(conn, "POST /settings HTTP/1.1\r\nHost: localhost\r\nContent-Type: application/x-www-form-urlencoded\r\nContent-Length: 1000\r\n\r\naltitude=")
	conn.SetReadDeadline(time.Now().Add(bodyTime))
	answer, err := http.ReadResponse(bufio.NewReader(conn), nil)
	if err != nil {
		t.Fatal(err)
	}
	if body, _ := io.ReadAll(answer.Body); answer.StatusCode != http.StatusRequestTimeout || !strings.Contains(string(body), "did not arrive in time") {
		t.Errorf("status %d", answer.StatusCode)
	}
	if _, err := conn.Read(make([]byte, 1)); err != io.EOF {
		t.Errorf("the connection stays open: %v", err)
	}
}

// A request that finds no place is told so, and a stream does not keep the place of one.
func TestOnlySoManyAreWorkedOnAtOnce(t *testing.T) {
	t.Parallel()
	v := visit(t)
	const most, patience = 2, 50 * time.Millisecond
	inside, out := make(chan bool), make(chan bool)
	h := v.s.atOnce(most, patience)(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/stream" {
			leaveQueue(r)
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

package web_test

import (
	"bufio"
	"context"
	"fmt"
	"net"
	"net/http"
	"net/http/httptest"
	"runtime"
	"strings"
	"sync"
	"testing"
	"time"

	"yardbloom/web"
	"yardbloom/web/webtest"
	"yardbloom/yard"
)

// Probes need no sign-in, and a yard that cannot be read is not ready. Mutations caught: a probe that is sent to the sign-in, one
// that answers "ok" without the database.
func TestProbesAnswerWithoutASignIn(t *testing.T) {
	t.Parallel()
	v := guarded(t)
	probe := func(path string) (int, string) {
		w := httptest.NewRecorder()
		v.Server.ServeHTTP(w, httptest.NewRequest("GET", "http://10.1.2.3"+path, nil))
		return w.Code, w.Body.String()
	}
	for _, path := range []string{"/healthz", "/readyz"} {
		if code, body := probe(path); code != http.StatusOK || body != "ok\n" {
			t.Errorf("%s: %d %q", path, code, body)
		}
	}
	if code, _, header := v.Send("POST", "/healthz", nil); code != http.StatusMethodNotAllowed || header.Get("Allow") != "GET, HEAD" {
		t.Errorf("a POST: %d", code)
	}
	v.Yard.Close()
	if err := v.Store.Close(); err != nil {
		t.Fatal(err)
	}
	if code, body := probe("/readyz"); code != http.StatusServiceUnavailable || strings.Contains(body, v.Dir) {
		t.Errorf("without a database: %d %q", code, body)
	}
	if code, _ := probe("/healthz"); code != http.StatusOK {
		t.Errorf("the process still runs: %d", code)
	}
}

// The page offers the authority's certificate to tablets, or explains how to make one.
func TestTabletsGetTheAuthority(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	if code, page := v.Get("/trust"); code != http.StatusOK || !strings.Contains(page, "yardbloom cert") {
		t.Errorf("without an authority: %d", code)
	}
	if code, _ := v.Get("/trust/authority.crt"); code != http.StatusNotFound {
		t.Errorf("its certificate: %d", code)
	}
	v.Reopen(func(_ *yard.Config, c *web.Config) { c.Authority = []byte("certificate") })
	code, body, header := v.Send("GET", "/trust/authority.crt", nil)
	if code != http.StatusOK || body != "certificate" || header.Get("Content-Type") != "application/x-x509-ca-cert" {
		t.Errorf("%d, %q, %s", code, body, header.Get("Content-Type"))
	}
}

// Before the sign-in a form is small: strangers that send large ones, or never end them, occupy little memory. Mutation caught:
// the limit of the yard's own people for everybody.
func TestStrangersFormsAreSmall(t *testing.T) {
	v := guarded(t)
	addr := serve(v)
	form := "password=" + strings.Repeat("x", web.MaxBody-200)
	r, err := http.Post("http://"+addr+"/sign-in", "application/x-www-form-urlencoded", strings.NewReader(form))
	if err == nil {
		r.Body.Close()
		if r.StatusCode != http.StatusRequestEntityTooLarge {
			t.Errorf("a large form: status %d", r.StatusCode)
		}
	} // else the server has closed the connection while the form was sent
	const strangers = 200
	var before, after runtime.MemStats
	runtime.GC()
	runtime.ReadMemStats(&before)
	for range strangers {
		conn, err := net.Dial("tcp", addr)
		if err != nil {
			t.Fatal(err)
		}
		defer conn.Close()
		fmt.Fprintf(conn, "POST /sign-in HTTP/1.1\r\nHost: localhost\r\nContent-Type: application/x-www-form-urlencoded\r\nContent-Length: %d\r\n\r\n%s",
			web.MaxBody, strings.Repeat("x", 64<<10))
	}
	time.Sleep(200 * time.Millisecond) // only lets more of it arrive
	runtime.GC()
	runtime.ReadMemStats(&after)
	if used := int64(after.HeapAlloc) - int64(before.HeapAlloc); used > strangers*32<<10 {
		t.Errorf("%d strangers occupy %d kB", strangers, used>>10)
	}
}

// Passwords that wait to be checked are few, and those of people who have gone are not checked. Mutations caught: a wait that
// ignores its request, a queue without an end.
func TestPasswordChecksHaveAShortQueue(t *testing.T) {
	const slow = "$argon2id$v=19$m=65536,t=3,p=4$c29tZXNhbHRzb21lc2FsdA$AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA"
	slots := max(2, runtime.NumCPU())
	var busy, left sync.WaitGroup
	defer web.HoldChecks(slots)()
	waiting, stop := context.WithCancel(t.Context())
	errs := make(chan error, 100)
	for range 8 {
		left.Go(func() {
			_, _, err := web.PasswordFits(waiting, "x", slow)
			errs <- err
		})
	}
	for web.WaitingChecks() < 8 {
		time.Sleep(time.Millisecond)
	}
	stop()
	left.Wait()
	for range 8 {
		if err := <-errs; err == nil || err == web.ErrCheckBusy {
			t.Errorf("a check whose browser has gone: %v", err)
		}
	}
	fill, drop := context.WithCancel(t.Context())
	for range slots + 8 {
		busy.Go(func() { _, _, _ = web.PasswordFits(fill, "x", slow) })
	}
	for web.WaitingChecks() < slots+8 {
		time.Sleep(time.Millisecond)
	}
	if _, _, err := web.PasswordFits(t.Context(), "x", slow); err != web.ErrCheckBusy {
		t.Errorf("one too many: %v", err)
	}
	drop()
	busy.Wait()
}

// The screen that is one too many gets a sentence. Mutation caught: an answer without its reason.
func TestOneScreenTooManyGetsASentence(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	path := "/brews/" + webtest.Planned
	v.Post(path + "/start")
	addr := serve(v)
	var last *http.Response
	for range web.MaxStreams + 1 {
		conn, err := net.Dial("tcp", addr)
		if err != nil {
			t.Skip("this machine does not open enough connections: ", err)
		}
		defer conn.Close()
		fmt.Fprintf(conn, "GET %s/live HTTP/1.1\r\nHost: localhost\r\n\r\n", path)
		conn.SetReadDeadline(time.Now().Add(time.Minute))
		if last, err = http.ReadResponse(bufio.NewReader(conn), nil); err != nil {
			t.Fatal(err)
		}
	}
	if said := last.Header.Get("Yard-Reason"); last.StatusCode != http.StatusServiceUnavailable || !strings.Contains(said, "Too%20many%20screens") {
		t.Errorf("status %d, %q", last.StatusCode, said)
	}
}

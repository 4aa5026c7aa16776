package main

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync/atomic"
	"time"

	"yardbloom/core/gear"
	"yardbloom/e2e/yard"
	"yardbloom/store"
)

// strangers send large forms that never end and abandon sign-ins. The program must stay small and quick.
func strangers(a *arena) (r result, err error) {
	dir := filepath.Join(a.dir, "strangers")
	password := exec.Command(a.program, "password", "--data", dir)
	password.Stdin = strings.NewReader("a long enough password\n")
	if out, err := password.CombinedOutput(); err != nil {
		return r, fmt.Errorf("%w: %s", err, out)
	}
	p, err := yard.NewProgram(a.program, dir)
	if err != nil {
		return r, err
	}
	if err := p.Start("serve"); err != nil {
		return r, err
	}
	before, err := memory(p)
	if err != nil {
		return r, err
	}
	large := "POST /sign-in HTTP/1.1\r\nHost: localhost\r\nContent-Type: application/x-www-form-urlencoded\r\nContent-Length: 1100000\r\n\r\npassword=" +
		strings.Repeat("x", 1_000_000)
	forms := a.rounds(60, 500)
	var open []net.Conn
	defer func() {
		for _, c := range open {
			c.Close()
		}
	}()
	for range forms {
		c, err := net.Dial("tcp", p.Addr)
		if err != nil {
			return r, err
		}
		open = append(open, c)
		r.tried++
		c.SetWriteDeadline(time.Now().Add(time.Second))
		_, _ = c.Write([]byte(large)) // refused on the way
	}
	after, err := memory(p)
	if err != nil {
		return r, err
	}
	const each = 100 // kB for a connection
	if grown := after - before; grown > forms*each+20_000 {
		r.harm("%d forms that never end take %d kB", forms, grown)
	}
	sign := "POST /sign-in HTTP/1.1\r\nHost: localhost\r\nContent-Type: application/x-www-form-urlencoded\r\nContent-Length: 14\r\n\r\npassword=wrong"
	for range 65 {
		c, err := net.Dial("tcp", p.Addr)
		if err != nil {
			return r, err
		}
		r.tried++
		_, _ = c.Write([]byte(sign))
		c.Close()
	}
	c := newClient(p.URL())
	c.http.Timeout = 2 * time.Second
	if answer, _, err := c.send(http.MethodGet, "/sign-in", "", ""); err != nil || answer.StatusCode != http.StatusOK {
		r.harm("a page beside 65 abandoned sign-ins: %v", err)
	}
	return r, p.Kill()
}

// memory returns the resident memory of a program, kB; 0 where the system does not tell.
func memory(p *yard.Program) (int, error) {
	text, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", p.PID()))
	if os.IsNotExist(err) {
		return 0, nil
	}
	for line := range bytes.Lines(text) {
		if rest, ok := strings.CutPrefix(string(line), "VmRSS:"); ok {
			return strconv.Atoi(strings.Fields(rest)[0])
		}
	}
	return 0, err
}

// lieAsDevices lets devices redirect, flood, stall, and send lines without an end. Pages must answer, and no redirect is followed.
func lieAsDevices(a *arena) (r result, err error) {
	var asked atomic.Int64
	loop := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		asked.Add(1)
		http.Redirect(w, r, "/again", http.StatusFound)
	}))
	defer loop.Close()
	lies := map[string]func(net.Conn){
		"floods": func(c net.Conn) {
			b := bytes.Repeat([]byte("{\"g\":1}\n"), 4096)
			for {
				if _, err := c.Write(b); err != nil {
					return
				}
			}
		},
		"rambles": func(c net.Conn) {
			b := bytes.Repeat([]byte("x"), 1<<16)
			for {
				if _, err := c.Write(b); err != nil {
					return
				}
			}
		},
		"is silent": func(c net.Conn) { time.Sleep(time.Hour) },
		"jumps": func(c net.Conn) {
			for i := 0; ; i++ {
				if _, err := fmt.Fprintf(c, "{\"g\":%d}\n", i%2*19999); err != nil {
					return
				}
				time.Sleep(20 * time.Millisecond)
			}
		},
		"shouts": func(c net.Conn) { fmt.Fprint(c, "{\"g\":1e308}\n{\"g\":\"NaN\"}\nnull\n[]\n"); time.Sleep(time.Hour) },
	}
	p, err := a.begin("lying devices")
	if err != nil {
		return r, err
	}
	if _, err := p.Stop(); err != nil {
		return r, err
	}
	st, err := store.Open(context.Background(), p.Dir)
	if err != nil {
		return r, err
	}
	add := func(name, address string) error {
		return st.SaveDevice(context.Background(), gear.Device{Name: name, Kind: gear.Scale, Address: address}, 0)
	}
	addresses := map[string]string{"redirects": "ws" + strings.TrimPrefix(loop.URL, "http")}
	for name, lie := range lies {
		l, err := net.Listen("tcp", "127.0.0.1:0")
		if err != nil {
			return r, errors.Join(err, st.Close())
		}
		defer l.Close()
		go accept(l, lie)
		addresses[name] = "tcp://" + l.Addr().String()
	}
	for name, address := range addresses {
		err = errors.Join(err, add(name, address))
	}
	if err := errors.Join(err, st.Close()); err != nil {
		return r, err
	}
	if err := p.Start("demo"); err != nil {
		return r, err
	}
	c := newClient(p.URL())
	id, err := c.brew("slate-terrace")
	if err != nil {
		return r, err
	}
	seconds := a.rounds(2, 20)
	for end := time.Now().Add(time.Duration(seconds) * time.Second); time.Now().Before(end); {
		for _, path := range []string{"/", "/gear", "/brews/" + id + "/brew"} {
			r.tried++
			if answer, _, err := c.send(http.MethodGet, path, "", ""); err != nil || answer.StatusCode != http.StatusOK {
				r.harm("%s beside lying devices: %v", path, err)
			}
		}
		if _, err := c.post("/brews/"+id+"/tap", url.Values{"key": {fmt.Sprint(r.tried)}, "kind": {"mark"}, "mark": {"stall"}}); err != nil {
			r.harm("a tap beside lying devices: %v", err)
		}
	}
	if n := asked.Load(); n > int64(seconds)*4 {
		r.harm("a device that redirects was asked %d times in %d s", n, seconds)
	}
	return r, p.Kill()
}

// accept answers connections until the listener is closed.
func accept(l net.Listener, answer func(net.Conn)) {
	for {
		c, err := l.Accept()
		if err != nil {
			return
		}
		go func() {
			defer c.Close()
			answer(c)
		}()
	}
}

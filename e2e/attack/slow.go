package main

import (
	"fmt"
	"net"
	"net/http"
	"time"

	"yardbloom/e2e/yard"
)

const (
	slowForm    = "POST /settings HTTP/1.1\r\nHost: localhost\r\nContent-Type: application/x-www-form-urlencoded\r\nContent-Length: 9000\r\n\r\nalt"
	slowHeaders = "GET /log HTTP/1.1\r\nHost: localhost\r\nX-Slow: "
	slowReader  = "GET /static/app.css HTTP/1.1\r\nHost: localhost\r\n\r\n"
)

// hold opens connections that say something and then no more.
func hold(p *yard.Program, count int, says string) (close func(), err error) {
	var open []net.Conn
	close = func() {
		for _, c := range open {
			c.Close()
		}
	}
	for range count {
		c, err := net.Dial("tcp", p.Addr)
		if err != nil {
			return close, err
		}
		open = append(open, c)
		if _, err := fmt.Fprint(c, says); err != nil {
			return close, err
		}
	}
	return close, nil
}

// starve opens many slow connections and loads pages beside them.
func starve(a *arena) (r result, err error) {
	p, err := a.begin("starved")
	if err != nil {
		return r, err
	}
	for _, says := range []string{slowForm, slowHeaders, slowReader} {
		release, err := hold(p, a.rounds(300, 1200), says)
		defer release()
		if err != nil {
			return r, err
		}
	}
	c := newClient(p.URL())
	const soon = 2 * time.Second
	c.http.Timeout = soon
	for range a.rounds(20, 200) {
		r.tried++
		if answer, _, err := c.send(http.MethodGet, "/log", "", ""); err != nil || answer.StatusCode != http.StatusOK {
			r.harm("a page beside slow clients: %v", err)
		}
	}
	return r, p.Kill()
}

// endWithStreams asks the program to end while screens follow a brew and a form
// never arrives. It must not wait for them, and end with status 0.
func endWithStreams(a *arena) (r result, err error) {
	for i := range a.rounds(1, 5) {
		p, err := a.begin(fmt.Sprintf("ended %d", i))
		if err != nil {
			return r, err
		}
		for _, says := range []string{slowForm, "GET /brews/evening-seed-next/live HTTP/1.1\r\nHost: localhost\r\n\r\n"} {
			const screens = 20
			release, err := hold(p, screens, says)
			defer release()
			if err != nil {
				return r, err
			}
		}
		time.Sleep(200 * time.Millisecond) // until the streams have begun
		r.tried++
		const long = 5 * time.Second // a form may take longer than that to arrive; a second is for the requests, the rest for the disk
		if took, err := p.Stop(); err != nil || took > long {
			r.harm("it took %v to end, %v", took, err)
		}
	}
	return r, nil
}

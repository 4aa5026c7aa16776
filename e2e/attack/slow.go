package main

import (
	"fmt"
	"net"
	"net/http"
	"time"

	"yardbloom/e2e/yard"
)

const (
	slowForm = "POST /settings HTTP/1.1\r\nHost: localhost\r\nContent-Type: application/x-www-form-urlencoded\r\nContent-Length: " +
		"9000\r\n\r\nalt"
	slowHeaders = "GET /log HTTP/1.1\r\nHost: localhost\r\nX-Slow: "
	slowReader  = "GET /static/app.css HTTP/1.1\r\nHost: localhost\r\n\r\n"
)

// hold opens connections that send something and then stay idle.
func hold(p *yard.Program, count int, says string) (release func(), err error) {
	var open []net.Conn
	release = func() {
		for _, c := range open {
			c.Close()
		}
	}
	for range count {
		c, err := net.Dial("tcp", p.Addr)
		if err != nil {
			return release, err
		}
		open = append(open, c)
		if _, err := fmt.Fprint(c, says); err != nil {
			return release, err
		}
	}
	return release, nil
}

// starve opens many slow connections and loads pages meanwhile.
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

// endWithStreams terminates the program while screens follow a brew and a form is unfinished. It must end
// without waiting for them, with status 0.
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
		time.Sleep(200 * time.Millisecond) // until the streams are open
		r.tried++
		const long = 5 * time.Second // shorter than the form timeout; requests get a second, the rest is for the disk
		if took, err := p.Stop(); err != nil || took > long {
			r.harm("it took %v to end, %v", took, err)
		}
	}
	return r, nil
}

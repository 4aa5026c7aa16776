package main

import (
	"context"
	"fmt"
	"io"
	"log"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"strings"
	"sync/atomic"

	"yardbloom/core/brew"
	"yardbloom/e2e/yard"
	"yardbloom/store"
)

// othersAnswers are statuses with which a proxy or a captive portal answers in the app's place.
var othersAnswers = []int{http.StatusOK, http.StatusBadRequest, http.StatusForbidden, http.StatusNotFound, http.StatusConflict, http.StatusGone,
	http.StatusUnprocessableEntity, http.StatusTooManyRequests, http.StatusInternalServerError, http.StatusBadGateway}

// tapThroughProxy taps in a real browser, through a proxy that sometimes answers for the program, while the program
// behind it is killed and restarted. In the end every tap must be in the database exactly once.
func tapThroughProxy(a *arena) (r result, err error) {
	p, err := a.begin("behind a proxy")
	if err != nil {
		return r, err
	}
	target, err := url.Parse(p.URL())
	if err != nil {
		return r, err
	}
	var away, honest atomic.Bool
	pass := httputil.NewSingleHostReverseProxy(target)
	pass.ErrorLog = log.New(io.Discard, "", 0)
	pass.ErrorHandler = func(w http.ResponseWriter, _ *http.Request, _ error) { w.WriteHeader(http.StatusBadGateway) }
	proxy := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodPost && (away.Load() || !honest.Load() && rand.IntN(3) == 0) {
			http.Error(w, "away", othersAnswers[rand.IntN(len(othersAnswers))])
			return
		}
		pass.ServeHTTP(w, r)
	}))
	defer proxy.Close()
	screen, err := yard.Browser()
	if err != nil {
		return r, err
	}
	defer screen.Close()
	id, err := newClient(p.URL()).brew("slate-terrace")
	if err != nil {
		return r, err
	}
	if err := screen.Open(proxy.URL + "/brews/" + id + "/brew"); err != nil {
		return r, err
	}
	if err := screen.Until(`document.readyState === "complete" && document.querySelector("#live")`); err != nil {
		return r, err
	}
	for i := range a.rounds(10, 60) {
		away.Store(i%4 == 1)
		if i%5 == 2 {
			if err := p.Kill(); err != nil {
				return r, err
			}
		}
		if err := screen.Press("c"); err != nil {
			return r, err
		}
		if i%5 == 2 {
			if err := p.Start("demo"); err != nil {
				return r, err
			}
		}
		r.tried++
	}
	away.Store(false)
	honest.Store(true)
	if err := screen.Until(`!Object.keys(localStorage).some(k => k.startsWith("tap "))`); err != nil {
		return r, fmt.Errorf("the queue does not empty: %w", err)
	}
	if _, err := p.Stop(); err != nil {
		return r, err
	}
	st, err := store.Open(context.Background(), p.Dir)
	if err != nil {
		return r, err
	}
	defer st.Close()
	b, err := st.Brew(context.Background(), id)
	if err != nil {
		return r, err
	}
	kept := 0
	for _, e := range b.Events {
		if e.Kind == brew.MarkEvent {
			kept++
		}
	}
	if kept != r.tried {
		var keys []string
		for _, e := range b.Events {
			keys = append(keys, string(e.Kind))
		}
		r.harm("of %d taps %d are there: %s", r.tried, kept, strings.Join(keys, " "))
		r.lost = max(1, r.tried-kept)
	}
	return r, nil
}

package main

import (
	"context"
	"fmt"
	"math/rand/v2"
	"net/url"
	"reflect"
	"slices"
	"strconv"
	"time"

	"yardbloom/core/brew"
	"yardbloom/store"
)

// A history holds the taps of one offline tablet, in order.
type history struct {
	start string // key of its first water
	began time.Time
	taps  []url.Values
}

// offline makes the history of a tablet: its own first water, and taps of the stages at random times.
func offline(name string, round int, began time.Time) history {
	h := history{start: fmt.Sprintf("start-%s-%d", name, round), began: began}
	at := 0.0
	for stage := 1; stage <= 8; stage++ {
		at += 5 + 20*rand.Float64()
		h.taps = append(h.taps, url.Values{"key": {fmt.Sprintf("%s-%d-%d", name, round, stage)}, "kind": {"advance"}, "stage": {strconv.Itoa(stage)},
			"at": {fmt.Sprintf("%.2f", at)}, "start": {h.start}})
	}
	return h
}

// mergeTablets sends the histories of two tablets in a random order, repeats some requests, and kills the program in between.
// Every tap must be there once, and the brew must be the one that all other orders give.
func mergeTablets(a *arena) (r result, err error) {
	p, err := a.begin("two tablets")
	if err != nil {
		return r, err
	}
	for round := range a.rounds(2, 20) {
		c := newClient(p.URL())
		to, err := c.post("/bags/slate-terrace/brew", url.Values{"go": {"on"}})
		if err != nil {
			return r, err
		}
		id := brewID(to)
		now := time.Now()
		tablets := [2]history{offline("a", round, now.Add(-10*time.Minute)), offline("b", round, now.Add(-10*time.Minute).Add(someTime(0, 60_000)))}
		next := [2]int{-1, -1}
		killAt := rand.IntN(2 * len(tablets[0].taps))
		for sent := 0; next[0] < len(tablets[0].taps) || next[1] < len(tablets[1].taps); sent++ {
			i := rand.IntN(2)
			if next[i] == len(tablets[i].taps) {
				i = 1 - i
			}
			h, path := tablets[i], "/brews/"+id+"/start"
			var form url.Values
			if next[i] < 0 {
				form = url.Values{"key": {h.start}, "ago": {fmt.Sprintf("%.2f", time.Since(h.began).Seconds())}}
			} else {
				path, form = "/brews/"+id+"/tap", h.taps[next[i]]
			}
			for range 1 + rand.IntN(2) { // sent again, as after a lost answer
				if _, err := c.post(path, form); err != nil {
					r.harm("%s %v is refused: %v", path, form, err)
				}
			}
			if sent == killAt {
				if err := p.Kill(); err != nil {
					return r, err
				}
				if err := p.Start("demo"); err != nil {
					return r, err
				}
			}
			next[i]++
		}
		if _, err := p.Stop(); err != nil {
			return r, err
		}
		one, err := merged(p.Dir, id, tablets)
		if err != nil {
			return r, err
		}
		r.add(one)
		if err := p.Start("demo"); err != nil {
			return r, err
		}
	}
	return r, p.Kill()
}

// merged looks for the events of both tablets in a stored brew, and compares it with the brew that the same events give in another
// order.
func merged(dir, id string, tablets [2]history) (r result, err error) {
	st, err := store.Open(context.Background(), dir)
	if err != nil {
		return r, err
	}
	defer st.Close()
	b, err := st.Brew(context.Background(), id)
	if err != nil {
		return r, err
	}
	there := map[string]int{}
	for _, e := range b.Events {
		there[e.Key]++
	}
	for _, h := range tablets {
		for _, key := range append([]string{h.start}, keysOf(h.taps)...) {
			if r.tried++; there[key] != 1 {
				r.harm("the event %s is there %d times", key, there[key])
			}
		}
	}
	backwards := slices.Clone(b.Events)
	slices.Reverse(backwards)
	want, got := brew.At(b.Plan, backwards, b.Elapsed(b.Ended)), b.At(b.Ended)
	if b.Status != brew.Poured || b.Cup.Drawdown != want.Drawdown || !reflect.DeepEqual(got.Stages, want.Stages) {
		r.harm("the brew is %s after %v, and after %v from the same events", b.Status, b.Cup.Drawdown, want.Drawdown)
	}
	return r, nil
}

func keysOf(taps []url.Values) (out []string) {
	for _, t := range taps {
		out = append(out, t.Get("key"))
	}
	return out
}

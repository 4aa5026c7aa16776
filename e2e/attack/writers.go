package main

import (
	"context"
	"fmt"
	"net/url"
	"path/filepath"
	"strconv"
	"sync"
	"time"

	"yardbloom/store"
)

// Writers write concurrently and record what was acknowledged.
type writers struct {
	brew string     // the running brew
	mu   sync.Mutex // guards the fields below
	taps []string   // keys of marks
	bags []string   // ids
	note int        // the last acknowledged one; notes count up
	all  sync.WaitGroup
}

const tasted = "slate-terrace-4" // a demo brew whose cup can be written

// write runs the writers until the context ends.
func (w *writers) write(ctx context.Context, c *client, bag string) (err error) {
	if w.brew, err = c.brew(bag); err != nil {
		return err
	}
	w.again(ctx, func(i int) {
		key := fmt.Sprintf("tap-%s-%d", w.brew, i)
		if _, err := c.post("/brews/"+w.brew+"/tap", url.Values{"key": {key}, "kind": {"mark"}, "mark": {"channel"}}); err == nil {
			w.keep(func() { w.taps = append(w.taps, key) })
		}
	})
	w.again(ctx, func(i int) {
		form := url.Values{"name": {fmt.Sprintf("Bag %s %d", w.brew, i)}, "process": {"washed"}, "roast": {"3"}, "weight": {"250"}}
		if to, err := c.post("/bags", form); err == nil {
			w.keep(func() { w.bags = append(w.bags, filepath.Base(to)) })
		}
	})
	w.again(ctx, func(i int) {
		note := w.note + 1
		if _, err := c.post("/brews/"+tasted+"/cup", url.Values{"notes": {strconv.Itoa(note)}}); err == nil {
			w.keep(func() { w.note = note })
		}
	})
	return nil
}

// again calls do repeatedly until the context ends.
func (w *writers) again(ctx context.Context, do func(i int)) {
	w.all.Go(func() {
		for i := 0; ctx.Err() == nil; i++ {
			do(i)
		}
	})
}

func (w *writers) keep(f func()) {
	w.mu.Lock()
	defer w.mu.Unlock()
	f()
}

// acknowledged returns everything acknowledged so far.
func (w *writers) acknowledged() (brew string, taps, bags []string, note int) {
	w.mu.Lock()
	defer w.mu.Unlock()
	return w.brew, w.taps[:len(w.taps):len(w.taps)], w.bags[:len(w.bags):len(w.bags)], w.note
}

// count looks for acknowledged writes in a data folder that is not in use.
func count(dir, brew string, taps, bags []string, note int) (r result, err error) {
	ctx := context.Background()
	st, err := store.Open(ctx, dir)
	if err != nil {
		return r, err
	}
	defer st.Close()
	b, err := st.Brew(ctx, brew)
	if err != nil {
		return r, fmt.Errorf("the brew that was begun: %w", err)
	}
	there := map[string]bool{}
	for _, e := range b.Events {
		there[e.Key] = true
	}
	for _, key := range taps {
		if r.tried++; !there[key] {
			r.harm("the tap %s is gone", key)
		}
	}
	for _, id := range bags {
		r.tried++
		if _, err := st.Bag(ctx, id); err != nil {
			r.harm("the bag %s: %v", id, err)
		}
	}
	if note > 0 {
		r.tried++
		t, err := st.Brew(ctx, tasted)
		if err != nil {
			return r, err
		}
		if last, err := strconv.Atoi(t.Cup.Notes); err != nil || last < note {
			r.harm("the cup's note is %q, %d was acknowledged", t.Cup.Notes, note)
		}
	}
	return r, nil
}

// killWriters repeatedly kills the program during writes.
func killWriters(a *arena) (sum result, err error) {
	p, err := a.begin("killed")
	if err != nil {
		return sum, err
	}
	for range a.rounds(3, 40) {
		ctx, stop := context.WithCancel(context.Background())
		w := &writers{}
		err := w.write(ctx, newClient(p.URL()), "slate-terrace")
		if err == nil {
			time.Sleep(someTime(100, 600))
			err = p.Kill()
		}
		stop()
		w.all.Wait()
		if err != nil {
			return sum, err
		}
		r, err := count(p.Dir, w.brew, w.taps, w.bags, w.note)
		if err != nil {
			return sum, err
		}
		sum.add(r)
		if err := p.Start("demo"); err != nil {
			return sum, err
		}
		if _, err := newClient(p.URL()).post("/brews/"+w.brew+"/abandon", url.Values{"go": {"on"}}); err != nil {
			return sum, fmt.Errorf("the brew does not go on: %w", err)
		}
	}
	return sum, p.Kill()
}

// backUpUnderLoad makes a backup during writes and restores it elsewhere.
func backUpUnderLoad(a *arena) (sum result, err error) {
	p, err := a.begin("backed up")
	if err != nil {
		return sum, err
	}
	ctx, stop := context.WithCancel(context.Background())
	w := &writers{}
	if err := w.write(ctx, newClient(p.URL()), "slate-terrace"); err != nil {
		stop()
		return sum, err
	}
	for i := range a.rounds(2, 12) {
		time.Sleep(someTime(50, 300))
		brew, taps, bags, note := w.acknowledged()
		file, dir := filepath.Join(a.dir, fmt.Sprintf("backup %d.db", i)), filepath.Join(a.dir, fmt.Sprintf("restored %d", i))
		err := a.command("backup", file, "--data", p.Dir)
		if err == nil {
			err = a.command("restore", file, "--data", dir)
		}
		var r result
		if err == nil {
			r, err = count(dir, brew, taps, bags, note)
		}
		if err != nil {
			stop()
			return sum, err
		}
		sum.add(r)
	}
	stop()
	w.all.Wait()
	return sum, p.Kill()
}

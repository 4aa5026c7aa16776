// Command replica proves the replication of docs/operating.md: a yard is replicated to another folder while people write, both programs are
// killed, and the yard is restored from the replica alone. It counts the acknowledged writes that are missing and how old they are.
package main

import (
	"context"
	"flag"
	"fmt"
	"log"
	"math/rand/v2"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"sync"
	"time"

	"yardbloom/e2e/yard"
	"yardbloom/store"
)

// interval is the interval of replication in docs/operating.md. A write may be lost that was acknowledged at most bound before the end.
const (
	interval = time.Second
	bound    = 2*interval + time.Second // the engine looks at the log each second, then waits for its interval
)

func main() {
	engine := flag.String("engine", "litestream", "path of the engine")
	rounds := flag.Int("rounds", 5, "number of kills")
	flag.Parse()
	log.SetFlags(0)
	if err := run(*engine, *rounds); err != nil {
		log.Fatal(err)
	}
}

// An ack is an acknowledged write.
type ack struct {
	name string
	at   time.Time
}

func run(engine string, rounds int) error {
	dir, err := os.MkdirTemp("", "replica")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	path, err := yard.Build(dir)
	if err != nil {
		return err
	}
	writes, lost, late, oldest := 0, 0, 0, time.Duration(0)
	for n := range rounds {
		acks, missing, killed, err := replicate(engine, path, filepath.Join(dir, fmt.Sprint(n)))
		if err != nil {
			return fmt.Errorf("round %d: %w", n+1, err)
		}
		writes += len(acks)
		for _, a := range missing {
			age := killed.Sub(a.at)
			lost++
			oldest = max(oldest, age)
			if age > bound {
				late++
			}
		}
		log.Printf("round %d: %d acknowledged writes, %d lost", n+1, len(acks), len(missing))
	}
	log.Printf("%d acknowledged writes, %d lost, the oldest %.1f s before the end; %d older than the bound of %s", writes, lost, oldest.Seconds(), late, bound)
	if late > 0 || writes == 0 {
		return fmt.Errorf("the replica is not within its bound")
	}
	return nil
}

// replicate writes to a replicated yard, kills it with its engine at a random moment, restores it and returns the acknowledged writes that
// the restored yard does not have.
func replicate(engine, path, dir string) (acks, missing []ack, killed time.Time, err error) {
	data, replica, restored := filepath.Join(dir, "data"), filepath.Join(dir, "replica"), filepath.Join(dir, "restored")
	for _, d := range []string{data, replica, restored} {
		if err := os.MkdirAll(d, 0o700); err != nil {
			return nil, nil, killed, err
		}
	}
	p, err := yard.NewProgram(path, data)
	if err != nil {
		return nil, nil, killed, err
	}
	p.Flags = []string{"--replicated"}
	if err := p.Start("serve"); err != nil {
		return nil, nil, killed, err
	}
	config := filepath.Join(dir, "litestream.yml")
	text := fmt.Sprintf("dbs:\n  - path: %s\n    replica:\n      type: file\n      path: %s\n      sync-interval: %s\n", filepath.Join(data, store.FileName),
		replica, interval)
	if err := os.WriteFile(config, []byte(text), 0o600); err != nil {
		return nil, nil, killed, err
	}
	said, err := os.Create(filepath.Join(dir, "engine.log"))
	if err != nil {
		return nil, nil, killed, err
	}
	defer said.Close()
	run := exec.Command(engine, "replicate", "-config", config)
	run.Stdout, run.Stderr = said, said
	if err := run.Start(); err != nil {
		return nil, nil, killed, err
	}
	ctx, stop := context.WithCancel(context.Background())
	var mu sync.Mutex
	var writers sync.WaitGroup
	for w := range 4 {
		writers.Go(func() {
			for i := 0; ctx.Err() == nil; i++ {
				name := fmt.Sprintf("Bag %d of writer %d", i, w)
				if addBag(p.URL(), name) == nil {
					mu.Lock()
					acks = append(acks, ack{name, time.Now()})
					mu.Unlock()
				}
				time.Sleep(20 * time.Millisecond)
			}
		})
	}
	time.Sleep(5*time.Second + rand.N(5*time.Second))
	killed = time.Now()
	err = run.Process.Kill()
	if killErr := p.Kill(); err == nil {
		err = killErr
	}
	stop()
	writers.Wait()
	_ = run.Wait() // it was killed
	if err != nil {
		return nil, nil, killed, err
	}
	if out, err := exec.Command(engine, "restore", "-config", config, "-o", filepath.Join(restored, store.FileName),
		filepath.Join(data, store.FileName)).CombinedOutput(); err != nil {
		return nil, nil, killed, fmt.Errorf("restore: %w\n%s", err, out)
	}
	missing, err = missingIn(restored, acks)
	return acks, missing, killed, err
}

// addBag adds a bag through the form of the page.
func addBag(address, name string) error {
	c := http.Client{Timeout: 5 * time.Second, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	answer, err := c.PostForm(address+"/bags", url.Values{"name": {name}, "roaster": {"Three Sheds"}, "process": {"washed"}, "roast": {"3"},
		"roasted_on": {time.Now().AddDate(0, 0, -9).Format("2006-01-02")}, "weight": {"250"}})
	if err != nil {
		return err
	}
	defer answer.Body.Close()
	if answer.StatusCode != http.StatusSeeOther {
		return fmt.Errorf("POST /bags: %s", answer.Status)
	}
	return nil
}

// missingIn returns the writes that a restored yard does not have. The yard must be whole.
func missingIn(dir string, acks []ack) (missing []ack, err error) {
	ctx := context.Background()
	st, err := store.Open(ctx, dir)
	if err != nil {
		return nil, err
	}
	defer st.Close()
	if err := st.Check(ctx); err != nil {
		return nil, err
	}
	const most = 100_000
	bags, err := st.BagNames(ctx, most)
	if err != nil {
		return nil, err
	}
	there := map[string]bool{}
	for _, b := range bags {
		there[b.Name] = true
	}
	for _, a := range acks {
		if !there[a.name] {
			missing = append(missing, a)
		}
	}
	return missing, nil
}

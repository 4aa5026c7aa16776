package main

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os/exec"
	"path/filepath"
	"time"

	"yardbloom/e2e/yard"
	"yardbloom/store"
)

func (r *result) add(other result) {
	r.tried += other.tried
	r.lost += other.lost
	r.how = append(r.how, other.how...)
}

// someTime returns a random time in a range, ms.
func someTime(from, to int) time.Duration {
	return time.Duration(from+rand.IntN(to-from)) * time.Millisecond
}

// command runs a subcommand of the program to its end.
func (a *arena) command(args ...string) error {
	if out, err := exec.Command(a.program, args...).CombinedOutput(); err != nil {
		return fmt.Errorf("%v: %w: %s", args, err, out)
	}
	return nil
}

// killFirstStarts kills first starts and starts again: the yard must then be complete.
func killFirstStarts(a *arena) (r result, err error) {
	shop, err := a.begin("whole demo")
	if err != nil {
		return r, err
	}
	if _, err := shop.Stop(); err != nil {
		return r, err
	}
	gearOfDemo, bagsOfDemo, err := inside(shop.Dir)
	if err != nil {
		return r, err
	}
	for i := range a.rounds(8, 60) {
		p, err := yard.NewProgram(a.program, filepath.Join(a.dir, fmt.Sprintf("first start %d", i)))
		if err != nil {
			return r, err
		}
		subcommand, gear, bags := "serve", 0, 0
		if i%2 == 1 {
			subcommand, gear, bags = "demo", gearOfDemo, bagsOfDemo
		}
		if err := p.Begin(subcommand); err != nil {
			return r, err
		}
		time.Sleep(someTime(0, 400))
		if err := p.Kill(); err != nil {
			return r, err
		}
		r.tried++
		if err := p.Start(subcommand); err != nil {
			r.harm("%v", err)
			continue
		}
		if _, err := p.Stop(); err != nil {
			r.harm("%s after a killed first start ends with %v", subcommand, err)
		}
		if g, b, err := inside(p.Dir); err != nil || g != gear || b != bags {
			r.harm("%s after a killed first start has %d pieces of gear of %d, %d bags of %d, %v", subcommand, g, gear, b, bags, err)
		}
	}
	return r, nil
}

// inside counts the gear and bags in a data folder that is not in use.
func inside(dir string) (gear, bags int, err error) {
	ctx := context.Background()
	st, err := store.Open(ctx, dir)
	if err != nil {
		return 0, 0, err
	}
	defer st.Close()
	things, err := st.Things(ctx)
	if err != nil {
		return 0, 0, err
	}
	const all = 1000
	shelf, err := st.Shelf(ctx, "", "", all)
	return len(things), len(shelf), err
}

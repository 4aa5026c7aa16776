package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"time"

	"github.com/spf13/cobra"

	"yardbloom/demo"
	"yardbloom/store"
	"yardbloom/web"
	"yardbloom/yard"
)

func demoCommand(logger func() *slog.Logger) *cobra.Command {
	var dir, clock string
	var who access
	var fresh, wait bool
	var brews int
	c := &cobra.Command{
		Use:   "demo",
		Short: "Serve the demo yard, a made-up plant nursery with a coffee window",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			now, err := clockOf(clock)
			if err != nil {
				return err
			}
			if dir == "" {
				cache, err := os.UserCacheDir()
				if err != nil {
					return fmt.Errorf("no place for the demo data; name one with --data: %w", err)
				}
				dir = filepath.Join(cache, "yardbloom", "demo")
			}
			unfinished, err := checkDemo(dir)
			if err != nil {
				return err
			}
			if fresh || unfinished {
				if err := removeDemo(dir); err != nil {
					return err
				}
			}
			_, missing := os.Stat(filepath.Join(dir, store.FileName))
			if missing != nil {
				if err := mark(dir, demoUnfinished); err != nil {
					return err
				}
			}
			st, err := store.OpenAlone(cmd.Context(), dir)
			if errors.Is(err, store.ErrOutdated) {
				fmt.Fprintf(cmd.OutOrStdout(), "The demo data in %s are from an older version and are recreated.\n", dir)
				if err := errors.Join(removeDemo(dir), mark(dir, demoUnfinished)); err != nil {
					return err
				}
				st, err = store.OpenAlone(cmd.Context(), dir)
			}
			if err != nil {
				if missing != nil { // not our folder: with a mark, a yard put there later would be taken for a demo
					err = errors.Join(err, os.Remove(filepath.Join(dir, store.DemoMark)))
				}
				return err
			}
			defer st.Close()
			if !st.New {
				fmt.Fprintf(cmd.OutOrStdout(), "Using the demo data in %s; --fresh recreates them.\n", dir)
			}
			of, config := yard.Config{Store: st, Log: logger(), Now: now, Demo: true}, web.Config{Walk: true}
			work := func(context.Context, *yard.Yard) {}
			if st.New {
				f := &filling{dir: dir, more: brews, out: cmd.OutOrStdout()}
				if clock != "" || wait {
					if err := f.fill(cmd.Context(), st, now()); err != nil {
						return err
					}
				} else {
					of.Filling, work = f.progress, f.inBackground
				}
			}
			if clock == "" {
				of.Uptime = uptime
			}
			if err := who.apply(cmd.Context(), cmd.OutOrStdout(), &config, st, dir); err != nil {
				return err
			}
			return listen(cmd.Context(), cmd.OutOrStdout(), who, of, config, work)
		},
	}
	c.Flags().StringVar(&dir, "data", "", "folder of the demo data (default: in the user's cache folder)")
	who.flags(c)
	c.Flags().BoolVar(&fresh, "fresh", false, "delete the demo data and recreate it")
	c.Flags().IntVar(&brews, "brews", 0, "add a generated history of this many brews to new demo data")
	c.Flags().BoolVar(&wait, "wait", false, "fill new demo data before they are served")
	c.Flags().StringVar(&clock, "clock", "", "stop the clock at this time (RFC 3339), for reproducible pictures")
	return c
}

// A filling makes the demo data.
type filling struct {
	dir  string
	more int // generated brews
	out  io.Writer
	made atomic.Int64
}

func (f *filling) progress() (made, of int) { return int(f.made.Load()), demo.Brews() }

// inBackground fills a yard while it is served. Pages show the progress.
func (f *filling) inBackground(ctx context.Context, y *yard.Yard) {
	if err := f.fill(ctx, y.Store, y.Now()); err != nil {
		if ctx.Err() == nil {
			y.Log.Error("the demo yard was not filled", "err", err)
		}
		return
	}
	y.Learn()
}

// fill makes the demo data, people first, and marks them as complete.
func (f *filling) fill(ctx context.Context, st *store.Store, now time.Time) error {
	if err := demo.AddPeople(ctx, st); err != nil {
		return err
	}
	if err := demo.FillWith(ctx, st, now, func(n int) { f.made.Store(int64(n)) }); err != nil {
		return err
	}
	if err := demo.Name(ctx, st); err != nil {
		return err
	}
	if f.more > 0 {
		fmt.Fprintf(f.out, "Generating %d brews; this takes about a minute for 100000.\n", f.more)
		const seed = 1
		if err := demo.FillLarge(ctx, st, now, f.more, seed); err != nil {
			return err
		}
	}
	return mark(f.dir, demoWhole)
}

// The contents of the mark in a demo folder: being filled, or complete.
const (
	demoUnfinished = "This folder is being filled with made-up data.\n"
	demoWhole      = "This folder holds made-up data.\n"
)

func mark(dir, text string) error {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(dir, store.DemoMark), []byte(text), 0o600)
}

// checkDemo refuses a folder with a real yard, and reports whether an earlier demo was not filled
// completely.
func checkDemo(dir string) (unfinished bool, err error) {
	said, err := os.ReadFile(filepath.Join(dir, store.DemoMark))
	if err == nil {
		return string(said) == demoUnfinished, nil
	}
	if _, err := os.Stat(filepath.Join(dir, store.FileName)); err == nil {
		return false, fmt.Errorf("%s holds a yard of your own, not demo data: serve it with yardbloom serve --data %[1]s, or name "+
			"another folder", dir)
	}
	return false, nil // nothing there yet; opening it reports any other problem
}

// removeDemo removes the files of a demo database and nothing else, including the journal of a first start
// that was killed early, copies from before migrations, and interrupted imports.
func removeDemo(dir string) error {
	if err := store.NotServed(dir); err != nil {
		return err
	}
	for _, name := range []string{store.FileName, store.FileName + "-wal", store.FileName + "-shm", store.FileName +
		"-journal", store.DemoMark} {
		if err := os.Remove(filepath.Join(dir, name)); err != nil && !errors.Is(err, os.ErrNotExist) {
			return err
		}
	}
	for _, pattern := range []string{store.StagingPrefix + "*", store.OldCopies} {
		left, err := filepath.Glob(filepath.Join(dir, pattern))
		for _, name := range left {
			err = errors.Join(err, os.RemoveAll(name))
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// clockOf returns the wall clock, or a clock fixed at a time.
func clockOf(fixed string) (func() time.Time, error) {
	if fixed == "" {
		return time.Now, nil
	}
	at, err := time.Parse(time.RFC3339, fixed)
	if err != nil {
		return nil, fmt.Errorf("--clock must be a time such as 2026-05-12T09:40:00+02:00: %w", err)
	}
	return func() time.Time { return at }, nil
}

func readLine(r io.Reader) (string, error) {
	line, err := bufio.NewReader(r).ReadString('\n')
	if err != nil && !errors.Is(err, io.EOF) {
		return "", err
	}
	return strings.TrimRight(line, "\r\n"), nil
}

package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"time"

	"yardbloom/demo"
	"yardbloom/e2e/yard"
	"yardbloom/store"
	product "yardbloom/yard"
)

// killImports kills imports at any moment, some beside a server, and starts the yard again: it must then have all of the file or nothing.
func killImports(a *arena) (r result, err error) {
	file := filepath.Join(a.dir, "large.zip")
	inFile, err := largeFile(file, filepath.Join(a.dir, "exported"))
	if err != nil {
		return r, err
	}
	for i := range a.rounds(6, 40) {
		p, err := yard.NewProgram(a.program, filepath.Join(a.dir, fmt.Sprintf("import %d", i)))
		if err != nil {
			return r, err
		}
		if err := p.Start("serve"); err != nil {
			return r, err
		}
		if _, err := p.Stop(); err != nil {
			return r, err
		}
		before, err := recordsIn(p.Dir)
		if err != nil {
			return r, err
		}
		served := i%2 == 0
		if served {
			if err := p.Start("serve"); err != nil {
				return r, err
			}
		}
		in := exec.Command(a.program, "import", file, "--data", p.Dir)
		if err := in.Start(); err != nil {
			return r, err
		}
		time.Sleep(someTime(0, 3500))
		_ = in.Process.Kill() // it may have ended
		_ = in.Wait()
		r.tried++
		if served {
			if err := p.Kill(); err != nil {
				return r, err
			}
		}
		switch after, err := resumed(p); {
		case err != nil:
			r.harm("a yard whose import was killed: %v", err)
		case after != before && after != before+inFile:
			r.harm("%d records after a killed import, want %d or %d", after, before, before+inFile)
		}
	}
	return r, nil
}

// largeFile writes the file of a yard with a long history and returns the number of its records.
func largeFile(name, dir string) (records int, err error) {
	ctx, now := context.Background(), time.Now()
	st, err := store.Open(ctx, dir)
	if err != nil {
		return 0, err
	}
	defer func() { err = errors.Join(err, st.Close()) }()
	if err := demo.Fill(ctx, st, now); err != nil {
		return 0, err
	}
	const brews = 400
	if err := demo.FillLarge(ctx, st, now, brews, 1); err != nil {
		return 0, err
	}
	f, err := os.Create(name)
	if err != nil {
		return 0, err
	}
	if err := errors.Join(product.Export(ctx, st, f, time.Time{}, time.Time{}, now), f.Close()); err != nil {
		return 0, err
	}
	return countRecords(ctx, st)
}

// countRecords returns the number of records that a yard would export.
func countRecords(ctx context.Context, st *store.Store) (n int, err error) {
	for _, kind := range store.RecordKinds() {
		if err := st.EachRecord(ctx, kind, time.Time{}, time.Time{}, func(store.Document) error { n++; return nil }); err != nil {
			return n, err
		}
	}
	return n, nil
}

// recordsIn returns the number of records in a data folder that is not served. The yard must be whole.
func recordsIn(dir string) (int, error) {
	ctx := context.Background()
	st, err := store.Open(ctx, dir)
	if err != nil {
		return 0, err
	}
	defer st.Close()
	if err := st.Check(ctx); err != nil {
		return 0, err
	}
	return countRecords(ctx, st)
}

// resumed starts a yard, waits until it has ended its imports and returns the number of its records.
func resumed(p *yard.Program) (int, error) {
	if err := p.Start("serve"); err != nil {
		return 0, err
	}
	const patience = 2 * time.Minute
	for began := time.Now(); time.Since(began) < patience; time.Sleep(50 * time.Millisecond) {
		left, err := filepath.Glob(filepath.Join(p.Dir, store.StagingPrefix+"*"))
		if err != nil {
			return 0, err
		}
		if len(left) == 0 {
			if _, err := p.Stop(); err != nil {
				return 0, err
			}
			return recordsIn(p.Dir)
		}
	}
	return 0, errors.New("its import has not ended")
}

package demo

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"time"

	"yardbloom/store"
)

// File returns the database of a new demo yard as bytes, for tests that need many copies. Without names it is a
// yard of one person. Since every package of tests needs it, it is kept in the user's cache folder, by the sources that make it.
func File(ctx context.Context, now time.Time, named bool) ([]byte, error) {
	kept, err := keptFile(now, named)
	if err == nil {
		if file, err := os.ReadFile(kept); err == nil {
			return file, nil
		}
	}
	file, err := makeFile(ctx, now, named)
	if err != nil || kept == "" {
		return file, err
	}
	return file, keep(kept, file)
}

func makeFile(ctx context.Context, now time.Time, named bool) (_ []byte, err error) {
	dir, err := os.MkdirTemp("", "yard")
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, os.RemoveAll(dir)) }()
	st, err := store.Open(ctx, dir)
	if err != nil {
		return nil, err
	}
	err = Fill(ctx, st, now)
	if err == nil && named {
		err = Name(ctx, st)
	}
	if err := errors.Join(err, st.Close()); err != nil {
		return nil, err
	}
	return os.ReadFile(filepath.Join(dir, store.FileName))
}

// keptFile returns the path of a kept file; empty if the sources of this program are not on this machine.
func keptFile(now time.Time, named bool) (string, error) {
	_, here, _, _ := runtime.Caller(0)
	root := filepath.Dir(filepath.Dir(here))
	cache, err := os.UserCacheDir()
	if err != nil {
		return "", err
	}
	sum := sha256.New()
	fmt.Fprintln(sum, now, named, runtime.Version())
	for _, part := range []string{"core", "demo", "device", "live", "store", "yard", "go.sum"} {
		err = errors.Join(err, filepath.WalkDir(filepath.Join(root, part), func(path string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || strings.HasSuffix(path, "_test.go") || strings.Contains(path, "testdata") {
				return err
			}
			f, err := os.Open(path)
			if err != nil {
				return err
			}
			defer f.Close()
			_, err = io.Copy(sum, f)
			return err
		}))
	}
	if err != nil {
		return "", err
	}
	return filepath.Join(cache, "yardbloom-tests", fmt.Sprintf("%x.db", sum.Sum(nil))), nil
}

// keep writes a file under its name at once, and removes those of earlier sources.
func keep(path string, file []byte) error {
	dir := filepath.Dir(path)
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return err
	}
	const old = 3 * 24 * time.Hour
	files, err := os.ReadDir(dir)
	if err != nil {
		return err
	}
	for _, f := range files {
		if info, err := f.Info(); err == nil && time.Since(info.ModTime()) > old {
			os.Remove(filepath.Join(dir, f.Name()))
		}
	}
	part, err := os.CreateTemp(dir, "part")
	if err != nil {
		return err
	}
	_, err = part.Write(file)
	return errors.Join(err, part.Close(), os.Rename(part.Name(), path))
}

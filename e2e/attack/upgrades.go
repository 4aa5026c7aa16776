package main

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"

	"yardbloom/e2e/yard"
	"yardbloom/store"
)

// firstSchema is the oldest schema that the program reads.
const firstSchema = 12

// oldYard makes a yard of the oldest schema with one bag, and returns its number of migrations that are missing.
func oldYard(dir string) error {
	root, err := exec.Command("go", "list", "-f", "{{.Dir}}", "yardbloom/store").Output()
	if err != nil {
		return err
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return err
	}
	db, err := sqlx.Open("sqlite", filepath.Join(dir, store.FileName))
	if err != nil {
		return err
	}
	defer db.Close()
	files := os.DirFS(filepath.Join(strings.TrimSpace(string(root)), "migrations"))
	p, err := goose.NewProvider(goose.DialectSQLite3, db.DB, files)
	if err != nil {
		return err
	}
	if _, err := p.UpTo(context.Background(), firstSchema); err != nil {
		return err
	}
	_, err = db.Exec(`UPDATE settings SET altitude = 777`)
	return err
}

// killMigrations kills the program while it updates a yard of the oldest schema. The next start must finish the update, with what
// was entered and a copy from before.
func killMigrations(a *arena) (r result, err error) {
	old := filepath.Join(a.dir, "old schema")
	if err := oldYard(old); err != nil {
		return r, err
	}
	for i := range a.rounds(4, 40) {
		dir := filepath.Join(a.dir, fmt.Sprintf("updated %d", i))
		if err := os.CopyFS(dir, os.DirFS(old)); err != nil {
			return r, err
		}
		p, err := yard.NewProgram(a.program, dir)
		if err != nil {
			return r, err
		}
		if err := p.Begin("serve"); err != nil {
			return r, err
		}
		time.Sleep(someTime(0, 150))
		if err := p.Kill(); err != nil {
			return r, err
		}
		r.tried++
		if err := p.Start("serve"); err != nil {
			r.harm("after a killed update: %v", err)
			continue
		}
		if _, err := p.Stop(); err != nil {
			r.harm("after a killed update it ends with %v", err)
		}
		st, err := store.Open(context.Background(), dir)
		if err != nil {
			return r, err
		}
		set, err := st.Settings(context.Background(), "")
		if st.Close(); err != nil || set.Altitude != 777 {
			r.harm("after a killed update the altitude is %d (%v)", set.Altitude, err)
		}
		if copies, err := filepath.Glob(filepath.Join(dir, "yardbloom.schema-*.db")); err != nil || len(copies) == 0 {
			r.harm("there is no copy from before the update (%v)", err)
		}
	}
	return r, nil
}

// killBackups kills backups and restores. A backup is there whole or not at all; a folder has the yard from before or the
// restored one.
func killBackups(a *arena) (r result, err error) {
	p, err := a.begin("backups killed")
	if err != nil {
		return r, err
	}
	if _, err := p.Stop(); err != nil {
		return r, err
	}
	good := filepath.Join(a.dir, "good.db")
	if err := a.command("backup", good, "--data", p.Dir); err != nil {
		return r, err
	}
	_, bags, err := inside(p.Dir)
	if err != nil {
		return r, err
	}
	for i := range a.rounds(4, 36) {
		r.tried++
		file, dir := filepath.Join(a.dir, fmt.Sprintf("killed %d.db", i)), filepath.Join(a.dir, fmt.Sprintf("restored and killed %d", i))
		if err := a.killed(someTime(0, 250), "backup", file, "--data", p.Dir); err != nil {
			return r, err
		}
		if _, err := os.Stat(file); err == nil {
			if err := a.command("restore", file, "--data", dir); err != nil {
				r.harm("the backup of a killed program is no backup: %v", err)
				continue
			}
		} else if !errors.Is(err, fs.ErrNotExist) {
			return r, err
		}
		if err := a.killed(someTime(0, 250), "restore", good, "--data", dir, "--replace"); err != nil {
			return r, err
		}
		if err := a.command("restore", good, "--data", dir, "--replace"); err != nil {
			r.harm("after a killed restore: %v", err)
			continue
		}
		if _, n, err := inside(dir); err != nil || n != bags {
			r.harm("restored %d bags of %d (%v)", n, bags, err)
		}
	}
	return r, nil
}

// killed runs a subcommand and kills it after some time, unless it has ended.
func (a *arena) killed(after time.Duration, args ...string) error {
	cmd := exec.Command(a.program, args...)
	if err := cmd.Start(); err != nil {
		return err
	}
	timer := time.AfterFunc(after, func() { _ = cmd.Process.Kill() })
	defer timer.Stop()
	var ended *exec.ExitError
	if err := cmd.Wait(); err != nil && !errors.As(err, &ended) {
		return err
	}
	return nil
}

// serveTwice starts a second server on a folder that is served. It must refuse with a sentence, and commands that only read must work.
func serveTwice(a *arena) (r result, err error) {
	p, err := a.begin("served twice")
	if err != nil {
		return r, err
	}
	for i := range a.rounds(2, 10) {
		r.tried += 2
		second, err := yard.NewProgram(a.program, p.Dir)
		if err != nil {
			return r, err
		}
		err = second.Start("demo")
		if err == nil {
			r.harm("two servers serve one folder")
			if err := second.Kill(); err != nil {
				return r, err
			}
		} else if !strings.Contains(err.Error(), "serve") {
			r.harm("the second server says only: %v", err)
		}
		if err := a.command("backup", filepath.Join(a.dir, fmt.Sprintf("while served %d.db", i)), "--data", p.Dir); err != nil {
			r.harm("a backup while it is served: %v", err)
		}
		if i%2 == 1 { // the lock ends with the process that has it
			if err := p.Kill(); err != nil {
				return r, err
			}
			if err := p.Start("demo"); err != nil {
				r.harm("after a kill the folder stays locked: %v", err)
			}
		}
	}
	return r, p.Kill()
}

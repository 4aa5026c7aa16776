package store

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"
	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"
)

// KeptBackups is the number of daily backups that a yard keeps.
const KeptBackups = 7

// backupName is the layout of the name of a daily backup, by its day in UTC.
const backupName = "2006-01-02.db"

// Backup writes a consistent copy of the yard to a new file while it is in use, and verifies it. It returns
// the number of brews in it. It does not overwrite an existing file.
func (s *Store) Backup(ctx context.Context, file string) (brews int, err error) {
	return backUp(ctx, s.path, file)
}

// BackupOf is Backup for the yard in a folder, which another program may serve. It does not migrate it.
func BackupOf(ctx context.Context, dir, file string) (brews int, err error) {
	path := filepath.Join(dir, FileName)
	if err := checkOwner(ctx, path); err != nil {
		return 0, explain(path, err)
	}
	return backUp(ctx, path, file)
}

func backUp(ctx context.Context, path, file string) (brews int, err error) {
	if _, err := os.Lstat(file); !errors.Is(err, fs.ErrNotExist) {
		return 0, &Trouble{fmt.Sprintf("%s exists already. Name another file: a backup does not overwrite files.", file), err}
	}
	making := file + ".making"
	if err := os.Remove(making); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return 0, err
	}
	defer os.Remove(making)
	own, err := sqlx.Open("sqlite", address(path)+"?_pragma=busy_timeout(3000)") // a store's readers cannot write, and its writer is busy
	if err != nil {
		return 0, err
	}
	defer own.Close()
	var before int
	if err := own.GetContext(ctx, &before, `SELECT COUNT(*) FROM brews`); err != nil {
		return 0, explain(path, err)
	}
	if _, err := own.ExecContext(ctx, `VACUUM INTO ?`, making); err != nil {
		return 0, explain(file, err)
	}
	if err := os.Chmod(making, 0o600); err != nil {
		return 0, err
	}
	if brews, err = check(ctx, making); err != nil {
		return 0, err
	}
	if brews < before {
		return 0, fmt.Errorf("the backup %s has %d brews of %d", file, brews, before)
	}
	return brews, errors.Join(syncFile(making), os.Rename(making, file), syncFile(filepath.Dir(file)))
}

// check reads a whole copy of a yard and counts its brews.
func check(ctx context.Context, file string) (brews int, err error) {
	if err := checkOwner(ctx, file); err != nil {
		return 0, explain(file, err)
	}
	db, err := sqlx.Open("sqlite", address(file)+"?mode=ro")
	if err != nil {
		return 0, err
	}
	defer db.Close()
	var said string
	if err := db.GetContext(ctx, &said, `PRAGMA integrity_check`); err != nil {
		return 0, explain(file, err)
	}
	if said != "ok" {
		return 0, &Trouble{Sentence: fmt.Sprintf("%s is damaged: %s.", file, said)}
	}
	if err := db.GetContext(ctx, &brews, `SELECT COUNT(*) FROM brews`); err != nil {
		return 0, &Trouble{fmt.Sprintf("%s is not a backup of a yard.", file), err}
	}
	return brews, nil
}

func syncFile(name string) error {
	f, err := os.Open(name)
	if err != nil {
		return err
	}
	return errors.Join(f.Sync(), f.Close())
}

// DailyBackup makes the backup of the day, unless it exists, and removes all but the last KeptBackups up to that day.
// Backups dated in the future, from a time when the clock was wrong, are left alone; see FutureBackups.
func (s *Store) DailyBackup(ctx context.Context, now time.Time) error {
	dir := s.backupFolder()
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return err
	}
	today := filepath.Join(dir, now.UTC().Format(backupName))
	if _, err := os.Stat(today); errors.Is(err, fs.ErrNotExist) {
		if _, err := s.Backup(ctx, today); err != nil {
			return err
		}
	}
	own, _, err := s.backupsByDay(now)
	for _, old := range own[:max(0, len(own)-KeptBackups)] {
		err = errors.Join(err, os.Remove(filepath.Join(dir, old)))
	}
	return errors.Join(err, s.copyBackup(ctx, now, false))
}

// BackupNow replaces the backup of the day by the present state.
func (s *Store) BackupNow(ctx context.Context, now time.Time) error {
	dir := s.backupFolder()
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return err
	}
	fresh := filepath.Join(dir, "now.making")
	if err := os.Remove(fresh); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	if _, err := s.Backup(ctx, fresh); err != nil {
		return err
	}
	if err := errors.Join(os.Rename(fresh, filepath.Join(dir, now.UTC().Format(backupName))), syncFile(dir)); err != nil {
		return err
	}
	return s.copyBackup(ctx, now, true)
}

// ErrNotCopied is returned for a backup that was made, but not copied to the second folder.
var ErrNotCopied = errors.New("the backup was not copied to the second folder")

// copyPrefix begins the names of backups in the second folder, where other files may be.
const copyPrefix = "yardbloom-"

// SetSecondFolder sets a folder, on another disk, to which each daily backup is copied; empty for none. It must exist, lie
// outside the data folder and be writable, else the error is a *Trouble.
func (s *Store) SetSecondFolder(ctx context.Context, dir string) error {
	if dir != "" {
		if err := s.checkSecondFolder(dir); err != nil {
			return err
		}
	}
	return s.change(ctx, `UPDATE settings SET second_folder = :dir`, struct {
		Dir string `db:"dir"`
	}{dir}, nil)
}

// SecondFolder returns the folder to which each daily backup is copied; empty for none.
func (s *Store) SecondFolder(ctx context.Context) (dir string, err error) {
	err = s.read.get(ctx, &dir, `SELECT second_folder FROM settings`)
	return dir, err
}

func (s *Store) checkSecondFolder(dir string) error {
	own, err := filepath.EvalSymlinks(filepath.Dir(s.path))
	if err != nil {
		return err
	}
	if own, err = filepath.Abs(own); err != nil {
		return err
	}
	real, err := filepath.EvalSymlinks(dir)
	if err != nil || !filepath.IsAbs(dir) {
		return &Trouble{fmt.Sprintf("There is no folder %s on this machine. Create it first; is the disk connected?", dir), err}
	}
	if rel, err := filepath.Rel(own, real); err == nil && rel != ".." && !strings.HasPrefix(rel, ".."+string(filepath.Separator)) {
		return &Trouble{Sentence: "That is inside the data folder. Choose a folder on another disk."}
	}
	probe, err := os.CreateTemp(real, copyPrefix+"*.making")
	if err != nil {
		return &Trouble{fmt.Sprintf("The server cannot write to %s.", dir), err}
	}
	return errors.Join(probe.Close(), os.Remove(probe.Name()))
}

// copyBackup copies the backup of the day to the second folder, if there is one, and verifies the copy. A copy that exists is
// only replaced with again. It keeps the last KeptBackups. The folder is never created: a disk may be missing.
func (s *Store) copyBackup(ctx context.Context, now time.Time, again bool) (err error) {
	defer func() {
		if err != nil {
			err = errors.Join(ErrNotCopied, err)
		}
	}()
	dir, err := s.SecondFolder(ctx)
	if err != nil || dir == "" {
		return err
	}
	if err := s.checkSecondFolder(dir); err != nil {
		return err
	}
	name := now.UTC().Format(backupName)
	copied := filepath.Join(dir, copyPrefix+name)
	if _, err := os.Stat(copied); err == nil && !again {
		return nil
	}
	making := copied + ".making"
	defer os.Remove(making)
	original := filepath.Join(s.backupFolder(), name)
	if err := copyFile(original, making); err != nil {
		return &Trouble{fmt.Sprintf("The backup was not copied to %s.", dir), err}
	}
	want, err := check(ctx, original)
	if err != nil {
		return err
	}
	if got, err := check(ctx, making); err != nil || got != want {
		return &Trouble{fmt.Sprintf("The copy of the backup in %s cannot be read.", dir), err}
	}
	if err := errors.Join(os.Rename(making, copied), syncFile(dir)); err != nil {
		return err
	}
	all, err := copiedBackups(dir, now)
	for _, old := range all[:max(0, len(all)-KeptBackups)] {
		err = errors.Join(err, os.Remove(filepath.Join(dir, copyPrefix+old)))
	}
	return err
}

// LastCopy returns the day of the latest backup in a second folder up to now, or the zero time.
func LastCopy(dir string, now time.Time) time.Time {
	all, _ := copiedBackups(dir, now)
	if len(all) == 0 {
		return time.Time{}
	}
	day, _ := time.Parse(backupName, all[len(all)-1])
	return day
}

// copiedBackups returns the names of the copies in the second folder up to a moment, without their prefix, the oldest first.
func copiedBackups(dir string, now time.Time) (out []string, err error) {
	entries, err := os.ReadDir(dir)
	for _, e := range entries {
		name, ours := strings.CutPrefix(e.Name(), copyPrefix)
		if day, err := time.Parse(backupName, name); ours && err == nil && !day.After(now) {
			out = append(out, name)
		}
	}
	slices.Sort(out)
	return out, err
}

// LastBackup returns the day of the latest daily backup up to now, or the zero time.
func (s *Store) LastBackup(now time.Time) time.Time {
	own, _, _ := s.backupsByDay(now)
	if len(own) == 0 {
		return time.Time{}
	}
	day, _ := time.Parse(backupName, own[len(own)-1])
	return day
}

// FutureBackups returns the names of daily backups that are dated after now, the oldest first.
func (s *Store) FutureBackups(now time.Time) []string {
	_, future, _ := s.backupsByDay(now)
	return future
}

// backupsByDay returns the names of the daily backups up to a moment and after it.
func (s *Store) backupsByDay(now time.Time) (own, future []string, err error) {
	all, err := ownBackups(s.backupFolder())
	today := now.UTC().Format(backupName)
	i, found := slices.BinarySearch(all, today)
	if found {
		i++
	}
	return all[:i], all[i:], err
}

func (s *Store) backupFolder() string { return filepath.Join(filepath.Dir(s.path), BackupFolder) }

// ownBackups returns the names of the daily backups, the oldest first.
func ownBackups(dir string) ([]string, error) {
	entries, err := os.ReadDir(dir)
	var out []string
	for _, e := range entries {
		if _, err := time.Parse(backupName, e.Name()); err == nil {
			out = append(out, e.Name())
		}
	}
	slices.Sort(out)
	return out, err
}

// Restore replaces the yard in a data folder by a backup. No program may have the folder open. It refuses
// to replace an existing yard or, with replace, renames it and returns the new name.
func Restore(ctx context.Context, file, dir string, replace bool, now time.Time) (brews int, aside string, err error) {
	if brews, err = check(ctx, file); err != nil {
		return 0, "", err
	}
	if err := NotServed(dir); err != nil {
		return 0, "", err
	}
	path := filepath.Join(dir, FileName)
	_, err = os.Stat(path)
	switch there := err == nil; {
	case there && !replace:
		return 0, "", &Trouble{Sentence: fmt.Sprintf("There is a yard in %s. Add --replace to put the backup in its place and "+
			"rename the yard.", dir)}
	case there:
		if aside, err = renameYard(ctx, dir, path, now); err != nil {
			return 0, "", err
		}
	case !errors.Is(err, fs.ErrNotExist):
		return 0, "", err
	}
	err = putBack(file, dir, path)
	if err == nil {
		brews, err = check(ctx, path) // as the next start finds it
	}
	if err != nil {
		if aside != "" {
			err = &Trouble{fmt.Sprintf("The backup could not be put in place: %v. The previous yard was renamed to %s.", err, aside), err}
		}
		return 0, aside, err
	}
	return brews, aside, nil
}

// beside lists the endings of the files that SQLite may leave beside a database. It applies them to a database that
// is put in its place.
var beside = []string{"-wal", "-shm", "-journal"}

// putBack copies a backup to a path without a yard.
func putBack(file, dir, path string) error {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return err
	}
	for _, stale := range beside { // of a removed yard: SQLite would apply it to this one
		if err := os.Remove(path + stale); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
	}
	making := path + ".making"
	if err := copyFile(file, making); err != nil {
		return err
	}
	return errors.Join(os.Rename(making, path), syncFile(dir))
}

// renameYard renames the yard in a folder, with its write-ahead log.
func renameYard(ctx context.Context, dir, path string, now time.Time) (aside string, err error) {
	aside = strings.TrimSuffix(path, ".db") + now.UTC().Format(".2006-01-02T15-04-05") + ".db"
	if db, err := sqlx.Open("sqlite", address(path)+"?_pragma=busy_timeout(1000)"); err == nil {
		// In this journal mode the yard is a single file. SQLite switches only if no other process has it
		// open. A damaged yard keeps its log, which is renamed with it.
		_, err := db.ExecContext(ctx, `PRAGMA journal_mode = DELETE`)
		db.Close()
		var lite *sqlite.Error
		if errors.As(err, &lite) && lite.Code()&0xff == sqlite3.SQLITE_BUSY {
			return "", &Trouble{fmt.Sprintf("The yard in %s is in use. Stop the program that serves it, then restore.", dir), err}
		}
	}
	err = os.Rename(path, aside)
	for _, log := range beside {
		if moved := os.Rename(path+log, aside+log); moved != nil && !errors.Is(moved, fs.ErrNotExist) {
			err = errors.Join(err, moved)
		}
	}
	return aside, err
}

func copyFile(from, to string) error {
	b, err := os.ReadFile(from)
	if err != nil {
		return err
	}
	return errors.Join(os.WriteFile(to, b, 0o600), syncFile(to))
}

package store

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
)

// Everything acknowledged before a backup began is in it, although the yard is written to meanwhile.
// Mutations caught: copying the file alone, which loses its write-ahead log; counting bags instead of brews.
func TestBackupUnderLoadHasAcknowledgedWrites(t *testing.T) {
	t.Parallel()
	s, bagID, id := yard(t)
	start(t, s, id)
	start(t, s, plan(t, s, bagID, NewID()))
	start(t, s, plan(t, s, bagID, NewID()))
	var acknowledged atomic.Int64
	stop, stopped := make(chan bool), make(chan bool)
	go func() {
		defer close(stopped)
		for i := 0; ; i++ {
			select {
			case <-stop:
				return
			default:
			}
			if _, err := tap(s, id, brew.Event{Key: fmt.Sprint("mark ", i), Kind: brew.MarkEvent, Mark: cup.Stall, At: 1}); err != nil {
				t.Error(err)
				return
			}
			acknowledged.Add(1)
		}
	}()
	for acknowledged.Load() < 30 && !t.Failed() {
		time.Sleep(time.Millisecond)
	}
	before := acknowledged.Load()
	file := filepath.Join(t.TempDir(), "a backup#1.db")
	brews, err := s.Backup(ctx, file)
	must(t, err)
	close(stop)
	<-stopped
	if brews != 3 {
		t.Errorf("it reports %d brews", brews)
	}
	if _, err := s.Backup(ctx, file); err == nil {
		t.Error("a backup was overwritten")
	}

	if h, err := queryHeader(ctx, address(file)+"?mode=ro"); err != nil || h.ID != applicationID {
		t.Errorf("the backup is marked %x, %v", h.ID, err)
	}
	dir := t.TempDir()
	must(t, os.WriteFile(filepath.Join(dir, FileName+"-wal"), []byte("of a yard that is gone"), 0o600))
	restored, _, err := Restore(ctx, file, dir, false, noon)
	must(t, err)
	if restored != brews {
		t.Errorf("restored %d brews of %d", restored, brews)
	}
	if _, err := os.Stat(filepath.Join(dir, FileName+"-wal")); !errors.Is(err, fs.ErrNotExist) {
		t.Errorf("the write-ahead log of another yard is still there: %v", err)
	}
	b, err := open(t, dir).Brew(ctx, id)
	must(t, err)
	if kept := int64(len(b.Events) - 1); kept < before {
		t.Errorf("of %d acknowledged taps %d are in the backup", before, kept)
	}
}

func TestRestoringNeverLosesAYard(t *testing.T) {
	t.Parallel()
	s, bag, id := yard(t)
	dir := filepath.Dir(s.path)
	file := filepath.Join(t.TempDir(), "backup.db")
	_, err := s.Backup(ctx, file)
	must(t, err)
	start(t, s, id) // after the backup

	var start *Trouble
	if _, _, err := Restore(ctx, file, dir, false, noon); !errors.As(err, &start) || !strings.Contains(err.Error(), "--replace") {
		t.Errorf("over a yard: %v", err)
	}
	if _, _, err := Restore(ctx, file, dir, true, noon); !errors.As(err, &start) || !strings.Contains(err.Error(), "in use") {
		t.Errorf("over a yard that is served: %v", err)
	}
	must(t, s.Close())
	for _, log := range beside { // as left by a killed program
		must(t, os.WriteFile(s.path+log, []byte("stale"), 0o600))
	}
	_, aside, err := Restore(ctx, file, dir, true, noon)
	must(t, err)
	old := open(t, dir)
	if _, err := old.Brew(ctx, id); !errors.Is(err, ErrNotFound) {
		t.Errorf("the yard is not the one of the backup: %v", err)
	}
	if b, err := old.Bag(ctx, bag); err != nil || b.Name == "" {
		t.Errorf("the backup's bag: %+v, %v", b, err)
	}
	must(t, old.Close())
	// The replaced yard can be restored.
	_, _, err = Restore(ctx, aside, dir, true, noon.Add(time.Minute))
	must(t, err)
	if _, err := open(t, dir).Brew(ctx, id); err != nil {
		t.Errorf("the renamed yard has lost its brew: %v", err)
	}

	for name, text := range map[string]string{"empty": "", "text": strings.Repeat("not a database ", 100)} {
		wrong := filepath.Join(t.TempDir(), name)
		must(t, os.WriteFile(wrong, []byte(text), 0o600))
		if _, _, err := Restore(ctx, wrong, t.TempDir(), false, noon); !errors.As(err, &start) {
			t.Errorf("restored from %s: %v", name, err)
		}
	}
}

func TestYardKeepsItsLastDailyBackups(t *testing.T) {
	t.Parallel()
	s, _, _ := yard(t)
	if !s.LastBackup(noon).IsZero() {
		t.Error("a backup before the first")
	}
	for day := range KeptBackups + 3 {
		for hour := range 2 {
			must(t, s.DailyBackup(ctx, noon.AddDate(0, 0, day).Add(time.Duration(hour)*time.Hour)))
		}
	}
	own, err := ownBackups(filepath.Join(filepath.Dir(s.path), BackupFolder))
	must(t, err)
	last := noon.AddDate(0, 0, KeptBackups+2)
	if len(own) != KeptBackups || s.LastBackup(last).Format(time.DateOnly) != last.Format(time.DateOnly) {
		t.Errorf("%v, the last on %v", own, s.LastBackup(last))
	}
}

// Backups that were made while the clock was wrong do not displace today's. Mutations caught: the backup of the day
// deleted at once, the latest one taken from the future.
func TestFutureBackupsDisplaceNothing(t *testing.T) {
	t.Parallel()
	s, _, _ := yard(t)
	for day := range KeptBackups {
		must(t, s.DailyBackup(ctx, noon.AddDate(73, 0, day)))
	}
	for day := range 3 {
		must(t, s.DailyBackup(ctx, noon.AddDate(0, 0, day)))
	}
	now := noon.AddDate(0, 0, 2)
	own, err := ownBackups(filepath.Join(filepath.Dir(s.path), BackupFolder))
	must(t, err)
	if len(own) != KeptBackups+3 || s.LastBackup(now).Format(time.DateOnly) != now.Format(time.DateOnly) || len(s.FutureBackups(now)) != KeptBackups {
		t.Errorf("%v, the last on %v, %d in the future", own, s.LastBackup(now), len(s.FutureBackups(now)))
	}
}

// Each daily backup is copied to a second folder and verified; a missing disk is an error and made up for later. Mutations
// caught: a copy of a broken file, other files removed, a folder that is created where the disk is missing, a copy that stays old.
func TestBackupsAreCopiedToASecondFolder(t *testing.T) {
	t.Parallel()
	s, _, id := yard(t)
	disk := filepath.Join(t.TempDir(), "disk")
	for _, dir := range []string{disk, "disk", filepath.Join(filepath.Dir(s.path), "inside"), filepath.Dir(s.path)} {
		if dir != disk {
			must(t, os.MkdirAll(filepath.Join(filepath.Dir(s.path), "inside"), 0o700))
		}
		var trouble *Trouble
		if err := s.SetSecondFolder(ctx, dir); !errors.As(err, &trouble) {
			t.Errorf("%s is accepted: %v", dir, err)
		}
	}
	must(t, os.Mkdir(disk, 0o700))
	must(t, os.WriteFile(filepath.Join(disk, "2020-01-01.db"), []byte("of somebody else"), 0o600))
	must(t, s.SetSecondFolder(ctx, disk))
	for day := range KeptBackups + 2 {
		must(t, s.DailyBackup(ctx, noon.AddDate(0, 0, day)))
	}
	last := noon.AddDate(0, 0, KeptBackups+1)
	entries, err := os.ReadDir(disk)
	must(t, err)
	if len(entries) != KeptBackups+1 || entries[0].Name() != "2020-01-01.db" || !LastCopy(disk, last).Equal(last.Truncate(24*time.Hour)) {
		t.Errorf("%d files, the last copy is of %v", len(entries), LastCopy(disk, last))
	}
	// Without the disk the backup is still made, and the copy the next time.
	away := disk + " away"
	must(t, os.Rename(disk, away))
	start(t, s, id)
	if err := s.BackupNow(ctx, last); !errors.Is(err, ErrNotCopied) {
		t.Errorf("without the disk: %v", err)
	}
	if _, err := os.Stat(disk); err == nil {
		t.Error("the folder of the missing disk was created")
	}
	must(t, os.Rename(away, disk))
	must(t, s.BackupNow(ctx, last))
	if brews, err := check(ctx, filepath.Join(disk, copyPrefix+last.UTC().Format(backupName))); err != nil || brews != 1 {
		t.Errorf("the copy has %d brews (%v)", brews, err)
	}
	// A copy that cannot be read does not replace one that can.
	original := filepath.Join(s.backupFolder(), last.UTC().Format(backupName))
	must(t, os.WriteFile(original, []byte("broken"), 0o600))
	if err := s.copyBackup(ctx, last, true); !errors.Is(err, ErrNotCopied) {
		t.Errorf("a broken backup is copied: %v", err)
	}
	if _, err := check(ctx, filepath.Join(disk, copyPrefix+last.UTC().Format(backupName))); err != nil {
		t.Errorf("the good copy is gone: %v", err)
	}
}

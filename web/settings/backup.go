package settings

import (
	"errors"
	"net/http"
	"os"
	"path/filepath"
	"time"

	"yardbloom/store"
	"yardbloom/web/form"
	"yardbloom/web/page"
)

// backUp replaces the backup of the day by the present state.
func (s *Screens) backUp(w http.ResponseWriter, r *http.Request) error {
	err := s.yard.Store.BackupNow(r.Context(), s.yard.Now())
	if errors.Is(err, store.ErrNotCopied) { // the page shows a warning
		s.yard.Log.Error("the backup was not copied", "err", err)
		err = nil
	}
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, "/settings?saved=backup")
}

// setSecondFolder sets the folder to which backups are copied.
func (s *Screens) setSecondFolder(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	err = s.yard.Store.SetSecondFolder(r.Context(), f.Text("folder", "The folder", 400, false))
	var trouble *store.Trouble
	if errors.As(err, &trouble) {
		f.Fail("folder", "%s", trouble.Sentence)
	}
	if f.FillMissing(fillSettings(r), ""); !f.OK() {
		s.showSettings(w, r, http.StatusUnprocessableEntity, f, "")
		return nil
	}
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, "/settings?kept=1#backups")
}

// downloadBackup sends a backup of the present state.
func (s *Screens) downloadBackup(w http.ResponseWriter, r *http.Request) error {
	temporary, err := s.yard.Store.TempDir()
	if err != nil {
		return err
	}
	dir, err := os.MkdirTemp(temporary, "backup")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	name := filepath.Join(dir, "yard.db")
	if _, err := s.yard.Store.Backup(r.Context(), name); err != nil {
		return err
	}
	file, err := os.Open(name)
	if err != nil {
		return err
	}
	defer file.Close()
	page.Attach(w, "application/vnd.sqlite3", "yardbloom-"+s.yard.Now().Format(time.DateOnly)+".db")
	http.ServeContent(w, r, "", time.Time{}, file)
	return nil
}

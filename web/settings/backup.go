package settings

import (
	"net/http"
	"os"
	"path/filepath"
	"time"

	"yardbloom/web/page"
)

// backUp replaces the backup of the day by the present state.
func (s *Screens) backUp(w http.ResponseWriter, r *http.Request) error {
	if err := s.yard.Store.BackupNow(r.Context(), s.yard.Now()); err != nil {
		return err
	}
	return page.SeeOther(w, r, "/settings?saved=backup")
}

// downloadBackup sends a backup of the present state.
func (s *Screens) downloadBackup(w http.ResponseWriter, r *http.Request) error {
	dir, err := os.MkdirTemp("", "backup")
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

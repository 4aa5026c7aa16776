package settings_test

import (
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"yardbloom/store"
	"yardbloom/web/webtest"
)

// A downloaded backup is a whole yard, and "Back up now" has what was entered a moment ago. Mutations caught: a file
// without the last entries, a backup of the day that stays as it was in the morning.
func TestBackupsAreMadeOnRequest(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	if err := v.Store.DailyBackup(t.Context(), v.Now()); err != nil {
		t.Fatal(err)
	}
	if code, page := v.Post("/people", "name", "Ada", "mark", "leaf"); code != http.StatusSeeOther {
		t.Fatalf("a new person: %d, %v", code, webtest.ErrorsIn(page))
	}
	w := httptest.NewRecorder()
	v.Server.ServeHTTP(w, httptest.NewRequest("GET", "http://yard.test/settings/backup.db", nil))
	if w.Code != http.StatusOK || !strings.Contains(w.Header().Get("Content-Disposition"), "yardbloom-2026-05-12.db") {
		t.Fatalf("status %d, %s", w.Code, w.Header().Get("Content-Disposition"))
	}
	has := func(what string, file []byte) {
		dir := t.TempDir()
		if err := os.WriteFile(filepath.Join(dir, store.FileName), file, 0o600); err != nil {
			t.Fatal(err)
		}
		s, err := store.Open(t.Context(), dir)
		if err != nil {
			t.Fatalf("%s: %v", what, err)
		}
		defer s.Close()
		if all, err := s.People(t.Context()); err != nil || len(all) != 1 {
			t.Errorf("%s has %d people, %v", what, len(all), err)
		}
	}
	has("the download", w.Body.Bytes())
	if code, _ := v.Post("/settings/backup"); code != http.StatusSeeOther {
		t.Fatalf("back up now: %d", code)
	}
	file, err := os.ReadFile(filepath.Join(v.Dir, store.BackupFolder, "2026-05-12.db"))
	if err != nil {
		t.Fatal(err)
	}
	has("the backup of the day", file)
}

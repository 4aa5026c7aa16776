package web

import (
	"context"
	"io"
	"log/slog"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"yardbloom/demo"
	"yardbloom/store"
)

// BenchmarkRecipeChange is one changed number on the Recipe station, from the
// posted form to the page with everything worked out anew and kept on disk.
func BenchmarkRecipeChange(b *testing.B) {
	st, err := store.Open(context.Background(), b.TempDir())
	if err != nil {
		b.Fatal(err)
	}
	defer st.Close()
	if err := demo.Fill(context.Background(), st, morning); err != nil {
		b.Fatal(err)
	}
	s, err := New(Config{Store: st, Log: slog.New(slog.NewTextHandler(io.Discard, nil)), Now: func() time.Time { return morning }})
	if err != nil {
		b.Fatal(err)
	}
	doses := []string{"18.5", "19"}
	for i := 0; b.Loop(); i++ {
		form := url.Values{"tab": {"bench"}, "version": {"1"}, "style": {"three-rounds"}, "dose": {doses[i%2]}}
		r := httptest.NewRequest("POST", "/brews/evening-seed-next/recipe", strings.NewReader(form.Encode()))
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		r.Header.Set("HX-Request", "true")
		w := httptest.NewRecorder()
		s.ServeHTTP(w, r)
		if w.Code != 200 && i > 0 {
			b.Fatalf("status %d", w.Code)
		}
	}
}
